import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { IsIn, IsObject, IsOptional, IsString, MaxLength } from 'class-validator';
import { CratesService } from '../crates/crates.service.ts';
import { BoundFoldersService } from './boundFolders.service.ts';

export class BindDto {
  @ApiProperty({ description: 'Whole path of a folder of the server’s machine.' })
  @IsString()
  @MaxLength(4096)
  folder!: string;
}

const SIDES = ['crate', 'folder'] as const;

export class SettleDto {
  @ApiProperty({ example: 'maps/hall.map.json' })
  @IsString()
  @MaxLength(1024)
  path!: string;

  @ApiProperty({ enum: SIDES })
  @IsIn(SIDES)
  side!: 'crate' | 'folder';

  @ApiPropertyOptional({ description: 'By member of a map, which side holds; all others by `side`.' })
  @IsOptional()
  @IsObject()
  members?: Record<string, 'crate' | 'folder'>;
}

@ApiTags('folder')
@Controller('api/crates/:id/folder')
export class BoundFoldersController {
  constructor(private readonly folders: BoundFoldersService) {}

  @Get()
  @ApiOperation({ summary: 'The folder that a crate lives in, and how both stand; null without one.' })
  view(@Param('id') id: string) {
    return { folder: this.folders.view(id) };
  }

  @Put()
  @ApiOperation({ summary: 'Binds a crate to a folder: an empty one is filled, its own is compared.' })
  async bind(@Param('id') id: string, @Body() { folder }: BindDto) {
    return { folder: await this.folders.bind(id, folder) };
  }

  @Delete()
  @HttpCode(204)
  @ApiOperation({ summary: 'Lets crate and folder go their own ways; nothing is removed.' })
  unbind(@Param('id') id: string) {
    return this.folders.unbind(id);
  }

  @Post('look')
  @HttpCode(200)
  @ApiOperation({ summary: 'Compares crate and folder as a whole, now.' })
  async look(@Param('id') id: string) {
    return { folder: await this.folders.look(id) };
  }

  @Post('settle')
  @HttpCode(200)
  @ApiOperation({ summary: 'Settles what was changed on both sides.' })
  async settle(@Param('id') id: string, @Body() body: SettleDto) {
    return { folder: await this.folders.settle(id, body) };
  }

  @Post('vanished')
  @HttpCode(200)
  @ApiOperation({ summary: 'Says that files which vanished from the folder are meant to be gone.' })
  async vanished(@Param('id') id: string) {
    return { folder: await this.folders.confirmVanished(id) };
  }
}

@ApiTags('folder')
@Controller('api/crates/from-folder')
export class OpenFolderController {
  constructor(
    private readonly folders: BoundFoldersService,
    private readonly crates: CratesService,
  ) {}

  @Post()
  @ApiOperation({ summary: 'Takes the crate that lies in a folder of the server’s machine, and keeps both equal.' })
  async open(@Body() { folder }: BindDto) {
    const { id, damage } = await this.folders.open(folder);
    return { ...this.crates.view(id), damage };
  }
}
