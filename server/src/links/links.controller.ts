import { Body, Controller, Get, HttpCode, Param, Post } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { LinkChangeSchema, type LinkChange } from '@violet-crate/core/linkChange';
import { Value } from '@sinclair/typebox/value';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsBoolean, IsOptional } from 'class-validator';
import { Problem } from '../http/problem.ts';
import { CrateEditsService } from './crateEdits.service.ts';

export class LinkChangesDto {
  @ApiProperty({ type: [Object], description: 'Orders: rename, replace, merge, remove, keep, split; their form is in docs/formats.md.' })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(2000)
  changes!: unknown[];
}

export class UndoDto {
  @ApiPropertyOptional({ description: 'Also where what it touched was changed since.' })
  @IsOptional()
  @IsBoolean()
  anyway?: boolean;
}

function checked(changes: unknown[]): LinkChange[] {
  for (const [n, change] of changes.entries())
    if (!Value.Check(LinkChangeSchema, change))
      throw new Problem(422, 'link-change', `Order ${n + 1} is none that is known, or something of it is missing.`);
  return changes as LinkChange[];
}

@ApiTags('links')
@Controller('api/crates/:id')
export class LinksController {
  constructor(private readonly edits: CrateEditsService) {}

  @Post('links/plan')
  @HttpCode(200)
  @ApiOperation({ summary: 'Says every place that orders about links would touch.' })
  plan(@Param('id') id: string, @Body() body: LinkChangesDto) {
    return this.edits.plan(id, checked(body.changes));
  }

  @Post('links/change')
  @HttpCode(200)
  @ApiOperation({ summary: 'Carries orders about links out, as one change of the crate that can be undone.' })
  change(@Param('id') id: string, @Body() body: LinkChangesDto) {
    return this.edits.change(id, checked(body.changes));
  }

  @Get('crate-edits')
  @ApiOperation({ summary: 'Changes of the crate as a whole, newest first.' })
  list(@Param('id') id: string) {
    return this.edits.list(id);
  }

  @Post('crate-edits/:edit/undo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Takes one back, all of it.' })
  undo(@Param('id') id: string, @Param('edit') edit: string, @Body() body: UndoDto) {
    this.edits.undo(id, edit, { anyway: body.anyway });
    return { id: edit, undone: true };
  }

  @Post('crate-edits/:edit/redo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Does one again that was undone.' })
  redo(@Param('id') id: string, @Param('edit') edit: string, @Body() body: UndoDto) {
    this.edits.undo(id, edit, { again: true, anyway: body.anyway });
    return { id: edit, undone: false };
  }
}
