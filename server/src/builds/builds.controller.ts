import { Body, Controller, Get, Param, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { QUALITIES, type Quality } from '@violet-crate/core/build/stage';
import { IsIn, IsString } from 'class-validator';
import type { Response } from 'express';
import { joinPath } from '../crates/crates.controller.ts';
import { BuildsService } from './builds.service.ts';

export class NewBuildDto {
  @ApiProperty()
  @IsString()
  map!: string;

  @ApiProperty({ enum: QUALITIES })
  @IsIn([...QUALITIES])
  quality!: Quality;
}

@ApiTags('builds')
@Controller('api/crates/:id/builds')
export class BuildsController {
  constructor(private readonly builds: BuildsService) {}

  @Get()
  @ApiOperation({ summary: 'The last builds with their stages and whether they are fresh.' })
  list(@Param('id') id: string) {
    return this.builds.list(id);
  }

  @Post()
  @ApiOperation({ summary: 'Starts a build; answers its job.' })
  start(@Param('id') id: string, @Body() body: NewBuildDto) {
    return this.builds.start(id, body.map, body.quality);
  }

  @Get(':build/files/*path')
  @ApiOperation({ summary: 'A file that a build made.' })
  file(@Param('build') build: string, @Param('path') path: string | string[], @Res() response: Response) {
    const wanted = joinPath(path);
    response.type(wanted.endsWith('.json') ? 'application/json' : 'model/gltf-binary').send(Buffer.from(this.builds.artefact(build, wanted)));
  }
}
