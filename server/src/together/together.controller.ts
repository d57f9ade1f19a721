import { Body, Controller, Get, Param, Post } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsString, MaxLength } from 'class-validator';
import { TogetherService } from './together.service.ts';

export class TogetherDto {
  @ApiProperty()
  @IsString()
  @MaxLength(64)
  map!: string;
}

@ApiTags('together')
@Controller('api/crates/:id/together')
export class TogetherController {
  constructor(private readonly together: TogetherService) {}

  @Get()
  @ApiOperation({ summary: 'Runs of the crate that several can play.' })
  list(@Param('id') id: string) {
    return this.together.list(id);
  }

  @Post()
  @ApiOperation({ summary: 'Begins a run on the server; windows join it by the socket /api/together?run=ID.' })
  start(@Param('id') id: string, @Body() body: TogetherDto) {
    return this.together.start(id, body.map);
  }
}
