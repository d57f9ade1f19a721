import { Body, Controller, Delete, Get, HttpCode, Param, Post, Query, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiQuery, ApiTags } from '@nestjs/swagger';
import { Value } from '@sinclair/typebox/value';
import { BankDocumentSchema, type BankDocument } from '@violet-crate/core/bank/document';
import { IsBoolean, IsObject, IsOptional } from 'class-validator';
import type { Response } from 'express';
import { Problem } from '../http/problem.ts';
import { BanksService } from './banks.service.ts';

export class BankDto {
  @ApiProperty({ type: Object, description: 'The bank as a document; docs/banks.md says how.' })
  @IsObject()
  document!: Record<string, unknown>;

  @ApiPropertyOptional({ type: Object, description: 'Where something is to lie, by its id.' })
  @IsOptional()
  @IsObject()
  places?: Record<string, unknown>;

  @ApiPropertyOptional({ description: 'Only says what would become of it.' })
  @IsOptional()
  @IsBoolean()
  plan?: boolean;
}

@ApiTags('banks')
@Controller('api/crates/:id/banks')
export class BanksController {
  constructor(private readonly banks: BanksService) {}

  @Get()
  @ApiOperation({ summary: 'Binary banks of the crate’s game.' })
  list(@Param('id') id: string) {
    return this.banks.list(id);
  }

  @Get(':bank')
  @ApiOperation({ summary: 'One bank as rows, as the crate changes it, with what lies where.' })
  @ApiQuery({ name: 'anyway', required: false, description: 'Also one of no known version, to look at.' })
  open(@Param('id') id: string, @Param('bank') bank: string, @Query('anyway') anyway?: string) {
    return this.banks.open(id, bank, anyway !== undefined);
  }

  @Get(':bank/bytes')
  @ApiOperation({ summary: 'Its bytes, as the crate changes it.' })
  bytes(@Param('id') id: string, @Param('bank') bank: string, @Res() response: Response) {
    response.type('application/octet-stream').send(Buffer.from(this.banks.bytes(id, bank)));
  }

  @Post(':bank')
  @HttpCode(200)
  @ApiOperation({
    summary: 'Writes a changed bank as a patch of the crate; answers what was moved, which pointers were changed, and what became free.',
  })
  write(@Param('id') id: string, @Param('bank') bank: string, @Body() { document, places = {}, plan = false }: BankDto) {
    const wrong = Value.Errors(BankDocumentSchema, document).First();
    if (wrong) throw new Problem(422, 'bank-document', `The document is none of a bank: ${wrong.path || 'all of it'}: ${wrong.message}.`);
    if (!Object.values(places).every((place) => Number.isInteger(place) && Number(place) >= 0))
      throw new Problem(422, 'bank-place', 'Places are whole numbers of bytes.');
    return this.banks.write(id, bank, document as BankDocument, places as Record<string, number>, plan);
  }

  @Delete(':bank')
  @HttpCode(204)
  @ApiOperation({ summary: 'Takes the crate’s changes of a bank away.' })
  reset(@Param('id') id: string, @Param('bank') bank: string) {
    this.banks.reset(id, bank);
  }
}
