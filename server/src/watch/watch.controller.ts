import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsBoolean, IsString, MaxLength } from 'class-validator';
import { WatchService } from './watch.service.ts';

export class WatchDto {
  @ApiProperty({ example: '/home/me/moor_assets' })
  @IsString()
  @MaxLength(4096)
  folder!: string;

  @ApiProperty({ description: 'Changed sources are imported again without asking.' })
  @IsBoolean()
  automatic!: boolean;
}

export class TakeDto {
  @ApiProperty({ description: 'Also files that are new in the folder.' })
  @IsBoolean()
  fresh!: boolean;
}

@ApiTags('watch')
@Controller('api/crates/:id/watch')
export class WatchController {
  constructor(private readonly watch: WatchService) {}

  @Get()
  @ApiOperation({ summary: 'The watched folder and what changed in it; null where none is watched.' })
  view(@Param('id') id: string) {
    return { watch: this.watch.view(id) };
  }

  @Put()
  @ApiOperation({ summary: 'Watches a folder of this machine.' })
  async set(@Param('id') id: string, @Body() body: WatchDto) {
    return { watch: await this.watch.set(id, body.folder, body.automatic) };
  }

  @Delete()
  @HttpCode(204)
  @ApiOperation({ summary: 'Stops watching.' })
  async forget(@Param('id') id: string) {
    await this.watch.forget(id);
  }

  @Post('take')
  @ApiOperation({ summary: 'Imports changed sources again, with the settings they had.' })
  take(@Param('id') id: string, @Body() body: TakeDto) {
    const job = this.watch.take(id, body.fresh);
    return { jobs: job ? [job] : [] };
  }
}
