import { Body, Controller, Get, HttpCode, Param, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { Value } from '@sinclair/typebox/value';
import { CrateLockSchema } from '@violet-crate/core/crate/lock';
import { IsObject } from 'class-validator';
import type { Response } from 'express';
import { Problem } from '../http/problem.ts';
import { streamStrangersFile } from '../http/strangersFile.ts';
import { RequiredService } from './required.service.ts';

export class TakeRequiredDto {
  @ApiProperty({ type: Object, description: 'By name: version, share code and SHA-256 of its package, as "look" answered them.' })
  @IsObject()
  crates!: Record<string, unknown>;
}

@ApiTags('links')
@Controller('api/crates/:id/required')
export class RequiredController {
  constructor(private readonly required: RequiredService) {}

  @Post('look')
  @HttpCode(200)
  @ApiOperation({ summary: 'Asks the workshop for the newest versions of required crates, and says what they would change here.' })
  look(@Param('id') id: string) {
    return this.required.look(id);
  }

  @Post('take')
  @HttpCode(200)
  @ApiOperation({ summary: 'Makes the crate with these versions from now on; can be undone as a change of the crate.' })
  take(@Param('id') id: string, @Body() { crates }: TakeRequiredDto) {
    const lock = { format: 1, crates };
    if (!Value.Check(CrateLockSchema, lock))
      throw new Problem(422, 'lock-form', 'Each crate needs a version, a share code and the SHA-256 of its package.');
    return this.required.take(id, lock.crates);
  }

  @Post('fetch')
  @HttpCode(200)
  @ApiOperation({ summary: 'Fetches what the lock names and this machine lacks.' })
  async fetch(@Param('id') id: string) {
    return { fetched: await this.required.fetch(id) };
  }

  @Get(':name/files/*path')
  @ApiOperation({ summary: 'A file of a required crate, read-only.' })
  file(@Param('id') id: string, @Param('name') name: string, @Param('path') path: string | string[], @Res() response: Response) {
    const wanted = Array.isArray(path) ? path.join('/') : path;
    return streamStrangersFile(response, wanted, this.required.file(id, name, wanted));
  }
}
