import type { About, Claim } from '@violet-crate/core/crate/manifest';
import { TEMPLATES } from '@violet-crate/core/crate/template';
import { DATA_LIMIT } from '@violet-crate/core/check/dataProblem';
import { SCRIPT_LIMIT } from '@violet-crate/core/script/check';
import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsInt,
  IsNotEmpty,
  IsObject,
  IsOptional,
  IsString,
  Matches,
  MaxLength,
  Min,
  ValidateNested,
} from 'class-validator';

export class NewCrateDto {
  @ApiProperty({ example: 'brinewick' })
  @IsString()
  @MaxLength(64)
  profile!: string;

  @ApiProperty({ example: 'harbour_steps' })
  @IsString()
  @MaxLength(64)
  name!: string;

  @ApiProperty({ example: 'Harbour Steps' })
  @IsString()
  @IsNotEmpty({ message: 'A title is needed' })
  @MaxLength(120)
  title!: string;

  @ApiProperty({ example: 'sealed-room', description: `${TEMPLATES.join(', ')}, example, or stock:MAP for a copy of one of the game's own maps.` })
  @Matches(new RegExp(`^(${TEMPLATES.join('|')}|example|stock:[a-z][a-z0-9_]{0,39})$`), { message: 'There is no such template' })
  template!: string;
}

export class CopyDto {
  @ApiProperty({ example: 'harbour_steps_2' })
  @IsString()
  @MaxLength(64)
  name!: string;

  @ApiProperty({ example: 'Harbour Steps, at night' })
  @IsString()
  @IsNotEmpty({ message: 'A title is needed' })
  @MaxLength(120)
  title!: string;
}

export class ArchiveDto {
  @ApiProperty()
  @IsBoolean()
  archived!: boolean;
}

export class CreditDto {
  @IsString()
  @IsNotEmpty()
  @MaxLength(200)
  author!: string;

  @IsString()
  @MaxLength(200)
  work!: string;

  @IsString()
  @MaxLength(100)
  licence!: string;
}

export class ManifestDto {
  @ApiPropertyOptional()
  @IsOptional()
  @IsString()
  @IsNotEmpty()
  @MaxLength(120)
  title?: string;

  @ApiPropertyOptional()
  @IsOptional()
  @IsString()
  @MaxLength(8000)
  description?: string;

  @ApiPropertyOptional({ example: '1.0.0' })
  @IsOptional()
  @Matches(/^\d+\.\d+\.\d+$/, { message: 'A version is three numbers with points between, like 1.0.0' })
  version?: string;

  @ApiPropertyOptional({ type: [String] })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(50)
  @IsString({ each: true })
  @IsNotEmpty({ each: true })
  @MaxLength(200, { each: true })
  authors?: string[];

  @ApiPropertyOptional({ type: [CreditDto] })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => CreditDto)
  credits?: CreditDto[];

  @ApiPropertyOptional({ description: 'SPDX expression under which the whole goes out; empty for none.' })
  @IsOptional()
  @IsString()
  @MaxLength(200)
  licence?: string;

  @ApiPropertyOptional({ type: Object, description: 'Tags, players, minutes, difficulty, languages.' })
  @IsOptional()
  @IsObject()
  about?: About;

  @ApiPropertyOptional({ type: Object, description: 'Whose work files are, by path.' })
  @IsOptional()
  @IsObject()
  ledger?: Record<string, Claim>;

  @ApiPropertyOptional({ type: Object, nullable: true, description: 'The path of the main map that the moving preview goes along, and its seconds.' })
  @IsOptional()
  @IsObject()
  preview?: { path: string; seconds: number } | null;

  @ApiPropertyOptional({ type: Object, description: 'Other mods that it needs, by name, with their ranges of versions.' })
  @IsOptional()
  @IsObject()
  requires?: Record<string, string>;
}

export class CrateGameDto {
  @ApiProperty({ description: 'Id of an install of the crate’s game.' })
  @IsString()
  @MaxLength(40)
  install!: string;
}

export class ScriptDto {
  @ApiProperty()
  @IsString()
  @MaxLength(SCRIPT_LIMIT, { message: `A script may have ${SCRIPT_LIMIT} characters.` })
  source!: string;
}

export class DataDto {
  @ApiProperty({ description: 'The whole file: see docs/formats.md.' })
  @IsString()
  @MaxLength(DATA_LIMIT, { message: `A file of game data may have ${DATA_LIMIT} characters.` })
  source!: string;
}

export class WalkDto {
  @ApiProperty({ description: 'A recorded run: see docs/formats.md.' })
  @IsObject()
  walk!: object;
}

export class MapEditsDto {
  @ApiProperty({ description: 'Revision on which the edits were made.' })
  @IsInt()
  @Min(0)
  base!: number;

  @ApiProperty({ type: [Object], description: 'Edits in order; their form is in docs/formats.md.' })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(500)
  @IsObject({ each: true })
  edits!: Record<string, unknown>[];

  @ApiPropertyOptional({ description: 'Applies the edits although others changed the same things since.' })
  @IsOptional()
  @IsBoolean()
  force?: boolean;

  @ApiPropertyOptional({ description: 'The page that sends them, so that it is not told of its own edits.' })
  @IsOptional()
  @IsString()
  @MaxLength(40)
  tab?: string;
}
