import { Controller, Get, HttpCode, Param, Post, Res, Sse, type MessageEvent } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { interval, map, merge, type Observable } from 'rxjs';
import { Notices } from '../notices/notices.ts';
import { JobsService } from './jobs.service.ts';

@ApiTags('jobs')
@Controller('api/jobs')
export class JobsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly notices: Notices,
  ) {}

  @Get()
  @ApiOperation({ summary: 'The last hundred jobs, newest first.' })
  list() {
    return this.jobs.list();
  }

  @Sse('events')
  @ApiOperation({ summary: 'Every change of every job, as server-sent events.' })
  events(): Observable<MessageEvent> {
    // The beat keeps connections alive through idle time.
    return merge(
      this.jobs.events.pipe(map((job) => ({ type: 'job', data: job }))),
      this.notices.changed.pipe(map((notice) => ({ type: 'crate', data: notice }))),
      this.notices.edited.pipe(map((notice) => ({ type: 'map', data: notice }))),
      this.notices.refreshed.pipe(map((notice) => ({ type: 'files', data: notice }))),
      this.notices.folders.pipe(map((notice) => ({ type: 'folder', data: notice }))),
      this.notices.games.pipe(map((notice) => ({ type: 'games', data: notice }))),
      this.notices.downloads.pipe(map((notice) => ({ type: 'downloads', data: notice }))),
      this.notices.uploads.pipe(map((notice) => ({ type: 'uploads', data: notice }))),
      this.jobs.pictured.pipe(map((picture) => ({ type: 'picture', data: picture }))),
      interval(20_000).pipe(map(() => ({ type: 'beat', data: '' }))),
    );
  }

  @Get(':id')
  @ApiOperation({ summary: 'One job with its log.' })
  get(@Param('id') id: string) {
    return this.jobs.get(id);
  }

  @Get(':id/picture/:name')
  @ApiOperation({ summary: 'The map (map.glb) or its light so far (lightmap.ktx2) of a running build.' })
  picture(@Param('id') id: string, @Param('name') name: string, @Res() response: Response) {
    response.type('application/octet-stream').send(Buffer.from(this.jobs.picture(id, name)));
  }

  @Post(':id/cancel')
  @HttpCode(200)
  @ApiOperation({ summary: 'Stops a job; nothing of it is kept.' })
  cancel(@Param('id') id: string) {
    return this.jobs.cancel(id);
  }

  @Post(':id/pause')
  @HttpCode(200)
  @ApiOperation({ summary: 'Sets a job aside; finished stages of a build are kept.' })
  pause(@Param('id') id: string) {
    return this.jobs.pause(id);
  }

  @Post(':id/resume')
  @HttpCode(200)
  @ApiOperation({ summary: 'Goes on with a paused job.' })
  resume(@Param('id') id: string) {
    return this.jobs.resume(id);
  }
}
