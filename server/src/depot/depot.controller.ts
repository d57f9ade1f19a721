import { Body, Controller, Delete, Get, HttpCode, Param, Post, Query } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiQuery, ApiTags } from '@nestjs/swagger';
import { updateFindings } from '@violet-crate/core/setup/packUpdates';
import { IsString, Matches, MaxLength } from 'class-validator';
import { GamesService } from '../games/games.service.ts';
import { DepotService } from './depot.service.ts';

const INSTALL = { name: 'install', required: false, description: 'Id of the install; the first without it.' };

export class FetchDto {
  @ApiProperty({ example: 'chandlery' })
  @Matches(/^[a-z][a-z0-9_]{0,39}$/, { message: 'An item’s id has small letters, digits and low lines.' })
  item!: string;

  @ApiProperty({ example: '1.1.0' })
  @IsString()
  @MaxLength(40)
  version!: string;
}

@ApiTags('depot')
@Controller('api/depot')
export class DepotController {
  constructor(
    private readonly depot: DepotService,
    private readonly games: GamesService,
  ) {}

  @Get('games/:id')
  @ApiOperation({ summary: 'What the depot has for a game: packs, tools, the game itself; with updates as findings.' })
  @ApiQuery(INSTALL)
  async offers(@Param('id') id: string, @Query('install') install?: string) {
    const offers = await this.depot.offers(this.games.installById(id, install));
    return { offers, findings: updateFindings(offers) };
  }

  @Post('games/:id')
  @ApiOperation({ summary: 'Begins to fetch a version into an install.' })
  @ApiQuery(INSTALL)
  fetch(@Param('id') id: string, @Body() { item, version }: FetchDto, @Query('install') install?: string) {
    return this.depot.start(this.games.installById(id, install), item, version);
  }

  @Delete('games/:id/:item')
  @HttpCode(204)
  @ApiOperation({ summary: 'Removes an optional pack or a tool from an install.' })
  @ApiQuery(INSTALL)
  remove(@Param('id') id: string, @Param('item') item: string, @Query('install') install?: string) {
    this.depot.remove(this.games.installById(id, install), item);
  }

  @Get('profiles')
  @ApiOperation({ summary: 'Profiles of games that the depot has.' })
  profiles() {
    return this.depot.profileItems();
  }

  @Post('profiles')
  @HttpCode(204)
  @ApiOperation({ summary: 'Adds a profile of the depot, or puts another version of it in its place.' })
  takeProfile(@Body() { item, version }: FetchDto) {
    return this.depot.takeProfile(item, version);
  }

  @Get('downloads')
  @ApiOperation({ summary: 'What is being fetched, rests, failed or is done.' })
  list() {
    return this.depot.list();
  }

  @Post('downloads/:download/pause')
  @HttpCode(200)
  @ApiOperation({ summary: 'Sets a download aside; what is there of it stays.' })
  pause(@Param('download') id: string) {
    return this.depot.pause(id);
  }

  @Post('downloads/:download/resume')
  @HttpCode(200)
  @ApiOperation({ summary: 'Goes on with a download that rests or failed.' })
  resume(@Param('download') id: string) {
    return this.depot.resume(id);
  }

  @Delete('downloads/:download')
  @HttpCode(204)
  @ApiOperation({ summary: 'Gives a download up, with what is there of it.' })
  forget(@Param('download') id: string) {
    return this.depot.forget(id);
  }
}
