import { Body, Controller, Delete, Get, HttpCode, Param, Post, Res, UploadedFiles, UseInterceptors } from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { CLASHES, type Clash } from '@violet-crate/core/importing/importPlan';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsOptional, IsString, MaxLength } from 'class-validator';
import type { Response } from 'express';
import { BlobStore } from '@violet-crate/host/blobStore';
import { joinPath } from '../crates/crates.controller.ts';
import { notFound, Problem } from '../http/problem.ts';
import { IsWords } from '../http/isWords.ts';
import { sendStrangersFile } from '../http/strangersFile.ts';
import { UPLOAD, uploadedTree } from '../http/upload.ts';
import { PacksService } from './packs.service.ts';

export class PackChoiceDto {
  @ApiProperty({ type: [String] })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(10000)
  @IsString({ each: true })
  @MaxLength(1000, { each: true })
  paths!: string[];

  @ApiPropertyOptional({ type: Object, description: 'By file: keep, replace or rename.' })
  @IsOptional()
  @IsWords({ values: CLASHES, most: 10000 })
  clashes?: Record<string, Clash>;
}

@ApiTags('packs')
@Controller('api/crates/:id/packs')
export class PacksController {
  constructor(
    private readonly packs: PacksService,
    private readonly blobs: BlobStore,
  ) {}

  @Get()
  @ApiOperation({ summary: 'Packs that were opened for this crate, newest first.' })
  list(@Param('id') id: string) {
    return this.packs.list(id);
  }

  @Post()
  @ApiConsumes('multipart/form-data')
  @ApiOperation({ summary: 'Opens a pack, a ZIP or the files of a folder; nothing is imported.' })
  @UseInterceptors(FilesInterceptor('files', UPLOAD.limits.files, UPLOAD))
  open(@Param('id') id: string, @UploadedFiles() uploaded: Express.Multer.File[] = []) {
    const tree = uploadedTree(uploaded);
    if (tree.size === 0) throw new Problem(422, 'file-missing', 'Choose a ZIP or a folder.');
    return this.packs.open(id, tree);
  }

  @Delete(':pack')
  @HttpCode(204)
  @ApiOperation({ summary: 'Closes a pack; what was imported from it stays.' })
  close(@Param('id') id: string, @Param('pack') pack: string) {
    this.packs.close(id, pack);
  }

  @Get(':pack/files/*path')
  @ApiOperation({ summary: 'One file of a pack as it is.' })
  file(@Param('id') id: string, @Param('pack') pack: string, @Param('path') path: string | string[], @Res() response: Response) {
    const entry = this.packs.get(id, pack).entries.find((e) => e.path === joinPath(path));
    if (!entry) throw notFound(`file ${joinPath(path)} in the pack`);
    sendStrangersFile(response, entry.path, this.blobs.read(entry.sha256));
  }

  @Get(':pack/preview/*path')
  @ApiOperation({ summary: 'A picture of one file of a pack.' })
  async preview(@Param('id') id: string, @Param('pack') pack: string, @Param('path') path: string | string[], @Res() response: Response) {
    const { preview } = await this.packs.look(id, pack, joinPath(path));
    response.type('image/png').send(Buffer.from(this.blobs.read(preview)));
  }

  @Get(':pack/model/*path')
  @ApiOperation({ summary: 'A model of a pack as it would be converted.' })
  async model(@Param('id') id: string, @Param('pack') pack: string, @Param('path') path: string | string[], @Res() response: Response) {
    const { model } = await this.packs.look(id, pack, joinPath(path));
    if (!model) throw notFound('model there');
    response.type('model/gltf-binary').send(Buffer.from(this.blobs.read(model)));
  }

  @Post(':pack/clashes')
  @HttpCode(200)
  @ApiOperation({ summary: 'Which of the chosen files have a name that is taken.' })
  clashes(@Param('id') id: string, @Param('pack') pack: string, @Body() body: PackChoiceDto) {
    return this.packs.clashes(id, pack, body.paths);
  }

  @Post(':pack/import')
  @ApiOperation({ summary: 'Imports the chosen files; the author is credited.' })
  import(@Param('id') id: string, @Param('pack') pack: string, @Body() body: PackChoiceDto) {
    return { jobs: [this.packs.import(id, pack, body.paths, body.clashes ?? {})] };
  }
}
