import { join, normalize, sep } from 'node:path';
import { existsSync } from 'node:fs';
import { Body, Controller, Get, Param, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsString, Matches } from 'class-validator';
import type { Response } from 'express';
import { notFound } from '../http/problem.ts';
import { GamesService } from './games.service.ts';
import { checkInstall, gameVersion, repairInstall } from './install.ts';

export class RepairDto {
  @ApiProperty({ description: 'Action of a failed check, e.g. "base" or "tool:mapkit".' })
  @IsString()
  @Matches(/^[a-z:_0-9]+$/)
  action!: string;
}

@ApiTags('games')
@Controller('api/games')
export class GamesController {
  constructor(private readonly games: GamesService) {}

  @Get()
  @ApiOperation({ summary: 'All profiles with the game found for each.' })
  list() {
    return this.games.list().map((profile) => {
      const install = this.games.install(profile.id);
      return { profile, folder: install.folder, version: gameVersion(install) };
    });
  }

  @Get(':id/checks')
  @ApiOperation({ summary: 'Looks at the install on disk.' })
  checks(@Param('id') id: string) {
    return checkInstall(this.games.install(id));
  }

  @Post(':id/repairs')
  @ApiOperation({ summary: 'Carries out the fix of a failed check; answers the checks after it.' })
  repair(@Param('id') id: string, @Body() body: RepairDto) {
    const install = this.games.install(id);
    const done = repairInstall(install, body.action);
    return { done, checks: checkInstall(install) };
  }

  @Get(':id/pack')
  @ApiOperation({ summary: 'The base pack: stock materials, assets and files.' })
  pack(@Param('id') id: string) {
    return this.games.basePack(id);
  }

  @Get(':id/base/*path')
  @ApiOperation({ summary: 'A stock file, read-only.' })
  file(@Param('id') id: string, @Param('path') path: string | string[], @Res() response: Response) {
    const { profile, folder } = this.games.install(id);
    const root = join(folder, profile.install.basePack) + sep;
    const file = normalize(join(root, ...(Array.isArray(path) ? path : path.split('/'))));
    if (!file.startsWith(root) || !existsSync(file)) throw notFound('such stock file');
    response.sendFile(file, { maxAge: 60_000, dotfiles: 'allow' });
  }
}
