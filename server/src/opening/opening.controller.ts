import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsIn, IsString, MaxLength } from 'class-validator';
import { ASSET_KINDS, isAssetKind } from '@violet-crate/core/crate/assetKind';
import { notFound } from '../http/problem.ts';
import { IsWords } from '../http/isWords.ts';
import { SettingsService } from '../settings/settings.service.ts';
import { OpeningService } from './opening.service.ts';

class ProgramsDto {
  @ApiProperty({
    description: 'By kind of file: a program with arguments of its own; empty for the system’s.',
    example: { texture: '/usr/bin/paint' },
  })
  @IsWords({ keys: ASSET_KINDS, most: ASSET_KINDS.length })
  programs!: Record<string, string>;
}

class OpenDto {
  @ApiProperty({ description: 'A converted asset, or a script.', example: 'textures/moss.ktx2' })
  @IsString()
  @MaxLength(1024)
  path!: string;
}

class SettleOpenedDto extends OpenDto {
  @ApiProperty({ enum: ['program', 'crate'] })
  @IsIn(['program', 'crate'])
  take!: 'program' | 'crate';
}

@ApiTags('opening')
@Controller('api/programs')
export class ProgramsController {
  constructor(
    private readonly opening: OpeningService,
    private readonly settings: SettingsService,
  ) {}

  @Get()
  @ApiOperation({ summary: 'Which program of this machine opens which kind of source, and why none can, if none can.' })
  get() {
    return this.opening.programs();
  }

  @Put()
  @ApiOperation({ summary: 'Names programs; an empty text leaves it to the system.' })
  set(@Body() { programs }: ProgramsDto) {
    this.settings.setOpeners(programs);
    return this.opening.programs();
  }

  @Post(':kind/try')
  @HttpCode(200)
  @ApiOperation({ summary: 'Opens a small file of a kind in its program.' })
  tryOut(@Param('kind') kind: string) {
    if (!isAssetKind(kind)) throw notFound(`kind of file ${kind}`);
    return this.opening.tryOut(kind);
  }
}

@ApiTags('opening')
@Controller('api/crates/:id/opened')
export class OpenedController {
  constructor(private readonly opening: OpeningService) {}

  @Get()
  @ApiOperation({ summary: 'Sources that are open in programs of this machine.' })
  list(@Param('id') id: string) {
    return this.opening.list(id);
  }

  @Post()
  @HttpCode(200)
  @ApiOperation({ summary: 'Opens the source of an asset, or a script; what is saved there comes into the crate by itself.' })
  open(@Param('id') id: string, @Body() { path }: OpenDto) {
    return this.opening.open(id, path);
  }

  @Post('settle')
  @HttpCode(200)
  @ApiOperation({ summary: 'Says which side stands where a file was changed in the crate and by the program.' })
  settle(@Param('id') id: string, @Body() { path, take }: SettleOpenedDto) {
    this.opening.settle(id, path, take);
    return this.opening.list(id);
  }

  @Delete()
  @ApiOperation({ summary: 'No longer takes in what the program saves.' })
  async close(@Param('id') id: string, @Query('path') path: string) {
    await this.opening.close(id, String(path ?? ''));
    return this.opening.list(id);
  }
}
