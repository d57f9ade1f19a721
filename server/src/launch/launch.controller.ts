import { Body, Controller, Get, HttpCode, Param, Post, Sse, type MessageEvent } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsIn, IsOptional, IsString, MaxLength } from 'class-validator';
import { auditTime, filter, interval, map, merge, type Observable } from 'rxjs';
import { LaunchService } from './launch.service.ts';

export class LaunchDto {
  @ApiProperty()
  @IsString()
  @MaxLength(64)
  map!: string;
}

export class SayDto {
  @ApiProperty({ enum: ['reload', 'map'] })
  @IsIn(['reload', 'map'])
  command!: 'reload' | 'map';

  @ApiProperty({ required: false })
  @IsOptional()
  @IsString()
  @MaxLength(64)
  map?: string;
}

/** Milliseconds that lines of a log are gathered before they are sent. */
const GATHER = 80;

@ApiTags('launch')
@Controller('api/crates/:id/launch')
export class LaunchController {
  constructor(private readonly launches: LaunchService) {}

  @Get()
  @ApiOperation({ summary: 'The game that runs with this crate, or ran last, with its log; null where there was none.' })
  view(@Param('id') id: string) {
    // An empty body is no JSON, so what there is lies within.
    return { launch: this.launches.view(id) };
  }

  @Post()
  @ApiOperation({ summary: 'Puts a local copy into the game’s mods and starts the game with it.' })
  start(@Param('id') id: string, @Body() body: LaunchDto) {
    return this.launches.start(id, body.map);
  }

  @Post('say')
  @HttpCode(200)
  @ApiOperation({ summary: 'Has the running game load its scripts anew, or another map.' })
  say(@Param('id') id: string, @Body() body: SayDto) {
    return this.launches.say(id, body.command, body.map);
  }

  @Post('quit')
  @HttpCode(200)
  @ApiOperation({ summary: 'Ends the running game.' })
  quit(@Param('id') id: string) {
    return this.launches.quit(id);
  }

  @Sse('events')
  @ApiOperation({ summary: 'The run as it goes on, as server-sent events.' })
  events(@Param('id') id: string): Observable<MessageEvent> {
    return merge(
      this.launches.said.pipe(
        filter(({ crateId }) => crateId === id),
        auditTime(GATHER),
        map((view) => ({ type: 'launch', data: view })),
      ),
      interval(20_000).pipe(map(() => ({ type: 'beat', data: '' }))),
    );
  }
}
