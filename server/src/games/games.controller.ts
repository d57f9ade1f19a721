import { join } from 'node:path';
import { Body, Controller, Delete, Get, Header, HttpCode, Param, Post, Put, Query, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiQuery, ApiTags } from '@nestjs/swagger';
import { IsBoolean, IsString, Matches, MaxLength } from 'class-validator';
import type { Response } from 'express';
import { isFileInside } from '@violet-crate/host/inside';
import { notFound } from '../http/problem.ts';
import { streamStrangersFile } from '../http/strangersFile.ts';
import { GamesService } from './games.service.ts';
import { ProfilesService } from './profiles.service.ts';

export class RepairDto {
  @ApiProperty({ description: 'Action of a failed check, e.g. "base" or "tool:mapkit".' })
  @IsString()
  @Matches(/^[a-z:_0-9]+$/)
  action!: string;
}

export class GameFolderDto {
  @ApiProperty({ description: 'Whole path of the folder that the game lies in.' })
  @IsString()
  @MaxLength(4096)
  folder!: string;
}

export class TickDto {
  @ApiProperty()
  @IsBoolean()
  done!: boolean;
}

export class AllowDto {
  @ApiProperty({ description: 'Hash of the commands that were read.' })
  @IsString()
  @Matches(/^[0-9a-f]{64}$/)
  hash!: string;
}

const INSTALL = { name: 'install', required: false, description: 'Id of the install; the first without it.' };

@ApiTags('games')
@Controller('api/games')
export class GamesController {
  constructor(
    private readonly games: GamesService,
    private readonly profiles: ProfilesService,
  ) {}

  @Get()
  @ApiOperation({ summary: 'All profiles with the installs found for each; `folder` and `version` are those of the first.' })
  list() {
    return this.games.list().map((profile) => {
      const installs = this.games.installs(profile.id);
      const { folder } = this.games.install(profile.id);
      return { profile, folder, version: installs[0]?.version ?? null, installs };
    });
  }

  @Post(':id/installs')
  @ApiOperation({ summary: 'Takes a folder of the machine as an install.' })
  add(@Param('id') id: string, @Body() { folder }: GameFolderDto) {
    return this.games.addInstall(id, folder);
  }

  @Delete(':id/installs/:install')
  @HttpCode(204)
  @ApiOperation({ summary: 'Forgets a folder that was chosen by hand; nothing on disk is touched.' })
  forget(@Param('id') id: string, @Param('install') install: string) {
    this.games.forgetInstall(id, install);
  }

  @Get(':id/checks')
  @ApiOperation({ summary: 'Looks at an install on disk.' })
  @ApiQuery(INSTALL)
  checks(@Param('id') id: string, @Query('install') install?: string) {
    return this.games.checks(this.games.installById(id, install));
  }

  @Get(':id/report')
  @Header('content-type', 'text/plain; charset=utf-8')
  @ApiOperation({ summary: 'The state of an install as text; folders are named only with `paths=yes`.' })
  @ApiQuery(INSTALL)
  @ApiQuery({ name: 'paths', required: false })
  report(@Param('id') id: string, @Query('install') install?: string, @Query('paths') paths?: string) {
    return this.games.report(this.games.installById(id, install), paths === 'yes');
  }

  @Post(':id/repairs')
  @ApiOperation({ summary: 'Carries out the fix of a failed check; answers the checks after it.' })
  @ApiQuery(INSTALL)
  async repair(@Param('id') id: string, @Body() body: RepairDto, @Query('install') install?: string) {
    const game = this.games.installById(id, install);
    const done = this.games.repair(game, body.action);
    return { done, checks: await this.games.checks(game) };
  }

  @Get(':id/preparation')
  @ApiOperation({ summary: 'What is done once before the game can be modded, and whether it is.' })
  @ApiQuery(INSTALL)
  preparation(@Param('id') id: string, @Query('install') install?: string) {
    return this.games.preparation(this.games.installById(id, install));
  }

  @Put(':id/preparation/:step')
  @ApiOperation({ summary: 'Ticks a step that is done by hand, or takes its tick back.' })
  @ApiQuery(INSTALL)
  tick(@Param('id') id: string, @Param('step') step: string, @Body() { done }: TickDto, @Query('install') install?: string) {
    const game = this.games.installById(id, install);
    this.games.tick(game, step, done);
    return this.games.preparation(game);
  }

  @Post(':id/preparation/:step')
  @ApiOperation({ summary: 'Does a step, where its profile offers that.' })
  @ApiQuery(INSTALL)
  async doStep(@Param('id') id: string, @Param('step') step: string, @Query('install') install?: string) {
    const game = this.games.installById(id, install);
    const { done, findings } = await this.games.doStep(game, step);
    return { done, findings, steps: this.games.preparation(game) };
  }

  @Get(':id/places')
  @ApiOperation({ summary: 'What steps of the preparation would write on this machine, and whether that is allowed.' })
  @ApiQuery(INSTALL)
  places(@Param('id') id: string, @Query('install') install?: string) {
    return this.games.places(this.games.installById(id, install));
  }

  @Post(':id/places')
  @HttpCode(200)
  @ApiOperation({ summary: 'Allows what was read of that.' })
  @ApiQuery(INSTALL)
  allowPlaces(@Param('id') id: string, @Body() { hash }: AllowDto, @Query('install') install?: string) {
    const game = this.games.installById(id, install);
    this.games.allowPlaces(game, hash);
    return this.games.places(game);
  }

  @Get(':id/programs')
  @ApiOperation({ summary: 'Every command that the profile would run with an install, and whether that is allowed.' })
  @ApiQuery(INSTALL)
  programs(@Param('id') id: string, @Query('install') install?: string) {
    return this.profiles.programs(this.games.installById(id, install));
  }

  @Post(':id/programs')
  @HttpCode(200)
  @ApiOperation({ summary: 'Allows the commands of a profile that were read.' })
  @ApiQuery(INSTALL)
  allow(@Param('id') id: string, @Body() { hash }: AllowDto, @Query('install') install?: string) {
    const game = this.games.installById(id, install);
    this.profiles.allow(game, hash);
    return this.profiles.programs(game);
  }

  @Get(':id/pack')
  @ApiOperation({ summary: 'The base pack: stock materials, assets and files.' })
  @ApiQuery(INSTALL)
  pack(@Param('id') id: string, @Query('install') install?: string) {
    return this.games.basePack(this.games.installById(id, install));
  }

  @Get(':id/base/*path')
  @ApiOperation({ summary: 'A stock file, read-only.' })
  @ApiQuery(INSTALL)
  file(@Param('id') id: string, @Param('path') path: string | string[], @Res() response: Response, @Query('install') install?: string) {
    const root = this.games.basePackFolder(this.games.installById(id, install));
    const wanted = Array.isArray(path) ? path.join('/') : path;
    if (!isFileInside(root, wanted)) throw notFound('such stock file');
    return streamStrangersFile(response, wanted, join(root, wanted));
  }
}
