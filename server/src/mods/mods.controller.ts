import { Body, Controller, Get, HttpCode, Param, Post, Put, Query, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsBoolean, IsInt, IsOptional, IsString, Matches, Max, MaxLength, Min } from 'class-validator';
import { Type } from 'class-transformer';
import type { Response } from 'express';
import { IsWords } from '../http/isWords.ts';
import { notFound } from '../http/problem.ts';
import { sendStrangersFile } from '../http/strangersFile.ts';
import { SettingsService } from '../settings/settings.service.ts';
import { ModsService } from './mods.service.ts';

export class InstallDto {
  @ApiProperty({ example: 'K7PM-2QXD' })
  @Matches(/^\s*[A-Za-z0-9-]{1,40}\s*$/, { message: 'A share code looks like K7PM-2QXD' })
  shareCode!: string;

  @ApiPropertyOptional({ description: 'By name of a mod, who signs it from now on (as the refusal named it), where that is another than before.' })
  @IsOptional()
  @IsWords({ most: 50 })
  signers?: Record<string, string>;
}

export class ModChangeDto {
  @ApiPropertyOptional({ description: 'Also where other mods need it.' })
  @IsOptional()
  @IsBoolean()
  anyway?: boolean;
}

export class OrderOfModsDto {
  @ApiProperty({ type: [String], description: 'Names; where two bring the same file, that of the first counts.' })
  @IsArray()
  @ArrayMaxSize(1000)
  @IsString({ each: true })
  @MaxLength(64, { each: true })
  order!: string[];
}

export class BrowseDto {
  @ApiPropertyOptional() @IsOptional() @IsString() @MaxLength(200) q?: string;
  @ApiPropertyOptional() @IsOptional() @IsString() @MaxLength(30) tag?: string;
  @ApiPropertyOptional() @IsOptional() @Matches(/^(new|liked|used)$/) sort?: string;
  @ApiPropertyOptional() @IsOptional() @Type(() => Number) @IsInt() @Min(0) @Max(100_000) page?: number;
}

const CHANGES = ['enable', 'disable', 'back', 'remove'] as const;

@ApiTags('mods')
@Controller('api/games/:profile/mods')
export class ModsController {
  constructor(private readonly mods: ModsService) {}

  @Get()
  @ApiOperation({ summary: 'Mods of a game: what is installed, enabled, from where, and what two of them bring alike.' })
  list(@Param('profile') profile: string) {
    return this.mods.view(profile);
  }

  @Get('updates')
  @ApiOperation({ summary: 'What the workshop gives out instead of what is there.' })
  updates(@Param('profile') profile: string) {
    return this.mods.updates(profile);
  }

  @Get('browse')
  @ApiOperation({ summary: 'Searches the workshop for mods of this game.' })
  browse(@Param('profile') profile: string, @Query() query: BrowseDto) {
    return this.mods.browse(
      profile,
      Object.entries(query).flatMap(([key, value]): [string, string][] => (value === undefined ? [] : [[key, String(value)]])),
    );
  }

  @Post('install')
  @ApiOperation({ summary: 'Installs a release by its share code, with all that it needs; every file is verified.' })
  install(@Param('profile') profile: string, @Body() body: InstallDto) {
    return this.mods.install(profile, body.shareCode, body.signers);
  }

  @Put('order')
  @ApiOperation({ summary: 'Whose file counts where two mods bring the same.' })
  order(@Param('profile') profile: string, @Body() body: OrderOfModsDto) {
    return this.mods.setOrder(profile, body.order);
  }

  @Post('quit')
  @HttpCode(200)
  @ApiOperation({ summary: 'Ends the game that runs with a mod.' })
  quit(@Param('profile') profile: string) {
    return this.mods.quit(profile);
  }

  @Post(':name/verify')
  @HttpCode(200)
  @ApiOperation({ summary: 'Looks through every file of a mod.' })
  verify(@Param('profile') profile: string, @Param('name') name: string) {
    return this.mods.verify(profile, name);
  }

  @Post(':name/play')
  @HttpCode(200)
  @ApiOperation({ summary: 'Starts the game with a mod.' })
  play(@Param('profile') profile: string, @Param('name') name: string) {
    return this.mods.play(profile, name);
  }

  @Post(':name/:what')
  @HttpCode(200)
  @ApiOperation({ summary: 'Enables, disables or removes a mod, or goes back to the version before.' })
  change(@Param('profile') profile: string, @Param('name') name: string, @Param('what') what: string, @Body() body: ModChangeDto) {
    const known = CHANGES.find((one) => one === what);
    if (!known) throw notFound(`order ${what}`);
    return this.mods.change(profile, name, known, body.anyway ?? false);
  }
}

/** Pictures of the workshop, so that pages need no other address than ours. */
@ApiTags('mods')
@Controller('api/workshop')
export class WorkshopPicturesController {
  constructor(private readonly settings: SettingsService) {}

  @Get('releases/:code/thumbnail')
  @ApiOperation({ summary: 'The title picture of a release.' })
  async thumbnail(@Param('code') code: string, @Res() response: Response) {
    if (!/^[A-Za-z0-9-]{1,40}$/.test(code)) throw notFound('such picture');
    const { workshop, token } = this.settings.workshop();
    const answer = await fetch(`${workshop.replace(/\/$/, '')}/api/releases/${code}/thumbnail`, {
      headers: token ? { authorization: `Bearer ${token}` } : {},
      signal: AbortSignal.timeout(10_000),
    }).catch(() => null);
    const bytes = answer?.ok ? await atMost(answer, MOST_PICTURE) : null;
    if (!bytes) throw notFound('such picture');
    response.setHeader('cache-control', 'private, max-age=3600');
    sendStrangersFile(response, 'thumbnail.png', bytes);
  }
}

const MOST_PICTURE = 16 << 20;

/** What an answer holds; null where it is more than that, which is then not read. */
async function atMost(answer: globalThis.Response, most: number): Promise<Uint8Array | null> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  const reader = answer.body?.getReader();
  for (let next = await reader?.read(); next && !next.done; next = await reader!.read()) {
    pieces.push(next.value);
    length += next.value.length;
    if (length > most) {
      await reader!.cancel();
      return null;
    }
  }
  return Buffer.concat(pieces);
}
