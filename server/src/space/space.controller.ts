import { Body, Controller, Get, HttpCode, Post } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { ArrayMaxSize, IsArray, IsIn } from 'class-validator';
import { CLEARABLE, SpaceService, type Clearable } from './space.service.ts';

export class ClearDto {
  @ApiProperty({ enum: CLEARABLE, isArray: true })
  @IsArray()
  @ArrayMaxSize(CLEARABLE.length)
  @IsIn(CLEARABLE, { each: true })
  what!: Clearable[];
}

@ApiTags('settings')
@Controller('api/space')
export class SpaceController {
  constructor(private readonly space: SpaceService) {}

  @Get()
  @ApiOperation({ summary: 'What can be cleared away, and the bytes that it would free.' })
  look() {
    return this.space.look();
  }

  @Post()
  @HttpCode(200)
  @ApiOperation({ summary: 'Clears away; answers what is left.' })
  clear(@Body() body: ClearDto) {
    return this.space.clear(body.what);
  }
}
