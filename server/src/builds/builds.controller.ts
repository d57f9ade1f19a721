import { Body, Controller, Get, Param, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { parameterProblem, PARAMETERS, type BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import { BUILD_STAGES, QUALITIES, type BuildStage, type Quality } from '@violet-crate/core/stages/contract/stage';
import { IsBoolean, IsIn, IsOptional, IsString, MaxLength, ValidateBy } from 'class-validator';
import type { Response } from 'express';
import { joinPath } from '../crates/crates.controller.ts';
import { sendStrangersFile } from '../http/strangersFile.ts';
import { BuildsService } from './builds.service.ts';

/** An object of known parameters with values within their bounds. */
function IsBuildParameters(): PropertyDecorator {
  const problem = (value: unknown): string | null => {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return 'parameters has to be an object.';
    for (const [id, given] of Object.entries(value)) {
      const parameter = PARAMETERS.find((p) => p.id === id);
      if (!parameter) return `there is no parameter ${id}; there are ${PARAMETERS.map((p) => p.id).join(', ')}.`;
      const wrong = parameterProblem(parameter, String(given));
      if (wrong) return `${id} ${wrong}.`;
    }
    return null;
  };
  return ValidateBy({
    name: 'isBuildParameters',
    validator: { validate: (value) => problem(value) === null, defaultMessage: (given) => problem(given?.value) ?? '' },
  });
}

export class NewBuildDto {
  @ApiProperty()
  @IsString()
  @MaxLength(64)
  map!: string;

  @ApiProperty({ enum: QUALITIES })
  @IsIn([...QUALITIES])
  quality!: Quality;

  @ApiProperty({ required: false, description: 'Parameters that differ from those of the quality.' })
  @IsOptional()
  @IsBuildParameters()
  parameters?: Partial<BuildParameters>;

  @ApiProperty({ required: false, enum: BUILD_STAGES, description: 'Run this stage and what it needs, and take the rest from the cache.' })
  @IsOptional()
  @IsIn([...BUILD_STAGES])
  only?: BuildStage;

  @ApiProperty({ required: false, description: 'Go on in spite of blockers.' })
  @IsOptional()
  @IsBoolean()
  anyway?: boolean;
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
    return this.builds.start(id, body.map, body);
  }

  @Get(':build/picture')
  @ApiOperation({ summary: 'A small picture of what came out.' })
  picture(@Param('build') build: string, @Res() response: Response) {
    // A build never changes.
    response
      .type('image/png')
      .set('Cache-Control', 'private, max-age=31536000, immutable')
      .send(Buffer.from(this.builds.picture(build)));
  }

  @Get(':build/files/*path')
  @ApiOperation({ summary: 'A file that a build made.' })
  file(@Param('build') build: string, @Param('path') path: string | string[], @Res() response: Response) {
    const wanted = joinPath(path);
    sendStrangersFile(response, wanted, this.builds.artefact(build, wanted));
  }
}
