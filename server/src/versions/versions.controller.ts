import { Body, Controller, Delete, Get, HttpCode, Param, Post, Query } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiQuery, ApiTags } from '@nestjs/swagger';
import { IsBoolean, IsIn, IsNotEmpty, IsOptional, IsString, Matches, MaxLength } from 'class-validator';
import { IsWords } from '../http/isWords.ts';
import type { GitSide } from './gitConflicts.ts';
import { VersionsService } from './versions.service.ts';

const SIDES: GitSide[] = ['ours', 'theirs'];

export class CommitDto {
  @ApiProperty()
  @IsString()
  @IsNotEmpty({ message: 'Say in a few words what has changed' })
  @MaxLength(10_000)
  message!: string;
}

export class BranchDto {
  @ApiProperty({ example: 'night-version' })
  @IsString()
  @MaxLength(100)
  branch!: string;

  @ApiProperty({ description: 'Whether it is made first.' })
  @IsBoolean()
  fresh!: boolean;
}

export class TrustDto {
  @ApiProperty({ description: 'Hash of the settings that were shown.' })
  @Matches(/^[0-9a-f]{64}$/)
  hash!: string;
}

export class MergeDto {
  @ApiProperty({ example: 'night-version' })
  @IsString()
  @MaxLength(100)
  branch!: string;
}

export class RestoreDto {
  @ApiProperty()
  @IsString()
  @MaxLength(64)
  hash!: string;

  @ApiProperty({ example: 'maps/hall.map.json' })
  @IsString()
  @MaxLength(1024)
  path!: string;
}

export class SettleMergeDto {
  @ApiProperty({ example: 'maps/moor.map.json' })
  @IsString()
  @MaxLength(1024)
  path!: string;

  @ApiProperty({ enum: SIDES, description: 'For whatever `members` does not say.' })
  @IsIn(SIDES)
  side!: GitSide;

  @ApiProperty({ required: false, description: 'By member, as `collection/id`.' })
  @IsOptional()
  @IsWords({ values: SIDES, most: 100_000 })
  members?: Record<string, string>;
}

@ApiTags('versions')
@Controller('api/crates/:id/versions')
export class VersionsController {
  constructor(private readonly versions: VersionsService) {}

  @Get()
  @ApiOperation({ summary: 'The crate’s folder under version control: branch, what has changed, a drafted message.' })
  view(@Param('id') id: string) {
    return this.versions.view(id);
  }

  @Post()
  @HttpCode(200)
  @ApiOperation({ summary: 'Puts the crate’s folder under version control.' })
  begin(@Param('id') id: string) {
    return this.versions.begin(id);
  }

  @Post('trust')
  @HttpCode(200)
  @ApiOperation({ summary: 'Says that git may be used in the crate’s folder, its settings having been read.' })
  trust(@Param('id') id: string, @Body() { hash }: TrustDto) {
    return this.versions.trust(id, hash);
  }

  @Post('driver')
  @HttpCode(200)
  @ApiOperation({ summary: 'Has git merge maps by member.' })
  driver(@Param('id') id: string) {
    return this.versions.installDriver(id);
  }

  @Post('commits')
  @ApiOperation({ summary: 'Commits all that has changed.' })
  commit(@Param('id') id: string, @Body() { message }: CommitDto) {
    return this.versions.commit(id, message);
  }

  @Get('commits')
  @ApiOperation({ summary: 'Commits, newest first; of one file where a path is given.' })
  @ApiQuery({ name: 'path', required: false })
  log(@Param('id') id: string, @Query('path') path?: string) {
    return this.versions.log(id, path);
  }

  @Get('commits/:hash')
  @ApiOperation({ summary: 'What a commit changed, maps in words.' })
  changes(@Param('id') id: string, @Param('hash') hash: string) {
    return this.versions.changesIn(id, hash);
  }

  @Get('commits/:hash/map')
  @ApiOperation({ summary: 'A map as it was at a commit.' })
  @ApiQuery({ name: 'path', example: 'maps/moor.map.json' })
  map(@Param('id') id: string, @Param('hash') hash: string, @Query('path') path: string) {
    return this.versions.mapOf(id, hash, String(path ?? ''));
  }

  @Post('restore')
  @HttpCode(200)
  @ApiOperation({ summary: 'Puts a file back as it was at a commit.' })
  restore(@Param('id') id: string, @Body() { hash, path }: RestoreDto) {
    return this.versions.restore(id, hash, path);
  }

  @Post('branch')
  @HttpCode(200)
  @ApiOperation({ summary: 'Goes over to another branch.' })
  branch(@Param('id') id: string, @Body() { branch, fresh }: BranchDto) {
    return this.versions.switchTo(id, branch, fresh);
  }

  @Post('merge')
  @HttpCode(200)
  @ApiOperation({ summary: 'Merges another branch, maps by member.' })
  merge(@Param('id') id: string, @Body() { branch }: MergeDto) {
    return this.versions.merge(id, branch);
  }

  @Post('settle')
  @HttpCode(200)
  @ApiOperation({ summary: 'Settles a file that a merge left in conflict, maps by member.' })
  settle(@Param('id') id: string, @Body() { path, side, members }: SettleMergeDto) {
    return this.versions.settle(id, path, side, (members ?? {}) as Record<string, GitSide>);
  }

  @Delete('merge')
  @ApiOperation({ summary: 'Gives a merge up.' })
  giveUp(@Param('id') id: string) {
    return this.versions.giveUp(id);
  }
}
