import { Body, Controller, HttpCode, Param, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsBoolean, IsObject, IsOptional, IsString, MaxLength } from 'class-validator';
import { LibraryService } from './library.service.ts';

export class RenameDto {
  @ApiProperty({ example: 'models/pump.glb', description: 'Path of an asset, or material:NAME.' })
  @IsString()
  @MaxLength(300)
  entry!: string;

  @ApiProperty({ example: 'beam_pump' })
  @IsString()
  @MaxLength(100)
  name!: string;
}

export class RenameFunctionDto {
  @ApiProperty({ example: 'crank_turned' })
  @IsString()
  @MaxLength(100)
  from!: string;

  @ApiProperty({ example: 'crank_was_turned' })
  @IsString()
  @MaxLength(100)
  to!: string;
}

export class RemoveDto {
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(5000)
  @IsString({ each: true })
  @MaxLength(300, { each: true })
  entries!: string[];

  @ApiPropertyOptional({ description: 'Also what is still in use.' })
  @IsOptional()
  @IsBoolean()
  anyway?: boolean;
}

export class MaterialDto {
  @ApiProperty({ type: Object, description: 'Its form is in docs/formats.md.' })
  @IsObject()
  material!: Record<string, unknown>;
}

@ApiTags('library')
@Controller('api/crates/:id')
export class LibraryController {
  constructor(private readonly library: LibraryService) {}

  @Post('assets/rename')
  @HttpCode(200)
  @ApiOperation({ summary: 'Renames an asset or material; maps, materials and scripts follow.' })
  rename(@Param('id') id: string, @Body() body: RenameDto) {
    return this.library.rename(id, body.entry, body.name);
  }

  @Post('functions/rename')
  @HttpCode(200)
  @ApiOperation({ summary: 'Renames a global function; scripts, signals and properties that call it follow.' })
  renameFunction(@Param('id') id: string, @Body() body: RenameFunctionDto) {
    return this.library.renameFunction(id, body.from, body.to);
  }

  @Post('assets/remove')
  @HttpCode(200)
  @ApiOperation({ summary: 'Removes assets and materials; the answer says how to undo it.' })
  remove(@Param('id') id: string, @Body() body: RemoveDto) {
    return this.library.remove(id, body.entries, body.anyway ?? false);
  }

  @Put('materials/:name')
  @ApiOperation({ summary: 'Makes or changes a material of the crate.' })
  material(@Param('id') id: string, @Param('name') name: string, @Body() body: MaterialDto) {
    return this.library.putMaterial(id, name, body.material);
  }
}
