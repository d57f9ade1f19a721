import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { TickDto } from '../games/games.controller.ts';
import { CommunityService } from './community.service.ts';

@ApiTags('community')
@Controller('api/crates/:id/community')
export class CommunityController {
  constructor(private readonly community: CommunityService) {}

  @Get()
  @ApiOperation({ summary: 'Packs of the community that were fetched, each step with what it would do to this crate.' })
  list(@Param('id') id: string) {
    return this.community.list(id);
  }

  @Post(':pack')
  @HttpCode(200)
  @ApiOperation({ summary: 'Does all steps of a pack that can be done, in one go.' })
  follow(@Param('id') id: string, @Param('pack') pack: string) {
    return this.community.follow(id, pack);
  }

  @Delete(':pack')
  @HttpCode(200)
  @ApiOperation({ summary: 'Takes back all that following a pack did.' })
  takeBack(@Param('id') id: string, @Param('pack') pack: string) {
    return this.community.takeBack(id, pack);
  }

  @Put(':pack/:step')
  @ApiOperation({ summary: 'Ticks a step that is done by hand, or takes its tick back.' })
  tick(@Param('id') id: string, @Param('pack') pack: string, @Param('step', ParseIntPipe) step: number, @Body() { done }: TickDto) {
    return this.community.tick(id, pack, step, done);
  }
}
