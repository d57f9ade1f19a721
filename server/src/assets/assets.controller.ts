import { Body, Controller, Param, Post, UploadedFiles, UseInterceptors } from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { assetKind, assetKindOf } from '@violet-crate/core/crate/assetKind';
import { IsBoolean, IsObject, IsOptional, IsString, MaxLength } from 'class-validator';
import { CratesService } from '../crates/crates.service.ts';
import { Problem } from '../http/problem.ts';
import { UPLOAD, uploadedTree } from '../http/upload.ts';
import { checkOptions } from './options.ts';
import { ImportsService } from './imports.service.ts';
import { own } from '@violet-crate/core/own';

export class ReconvertDto {
  @ApiProperty({ example: 'models/pump.glb' })
  @IsString()
  @MaxLength(300)
  path!: string;

  @ApiProperty({ type: Object, description: 'Settings of a model, texture or sound; what is left out stays.' })
  @IsObject()
  options!: Record<string, unknown>;

  @ApiPropertyOptional({ description: 'The same for all of its kind from the same folder, now and from now on.' })
  @IsOptional()
  @IsBoolean()
  folder?: boolean;
}

const folderOf = (file: string): string => file.split('/').slice(0, -1).join('/');
/** Settings that belong to one asset and never to its neighbours. */
const PERSONAL = ['pivotPoint', 'materials', 'variantOf', 'variant', 'pack', 'loopStart', 'loopEnd'];

@ApiTags('assets')
@Controller('api/crates/:id/assets')
export class AssetsController {
  constructor(
    private readonly crates: CratesService,
    private readonly imports: ImportsService,
  ) {}

  @Post()
  @ApiConsumes('multipart/form-data')
  @ApiOperation({ summary: 'Imports files as one batch: models with what they refer to, textures, sounds, scripts; ZIPs are opened.' })
  @UseInterceptors(FilesInterceptor('files', UPLOAD.limits.files, UPLOAD))
  upload(@Param('id') id: string, @UploadedFiles() uploaded: Express.Multer.File[] = []) {
    const files = uploadedTree(uploaded);
    if (files.size === 0) throw new Problem(422, 'file-missing', 'Choose at least one file.');
    // A single file of another kind is refused at once; among others it is left out and named.
    if (files.size === 1) for (const file of files.keys()) if (!/\.zip$/i.test(file) && !this.imports.takes(id, file)) assetKind(file);
    return { jobs: [this.imports.import(id, files)] };
  }

  @Post('reconvert')
  @ApiOperation({ summary: 'Converts an asset again from its source, with other settings.' })
  reconvert(@Param('id') id: string, @Body() body: ReconvertDto) {
    const { manifest } = this.crates.view(id);
    const record = own(manifest.assets, body.path);
    if (!record) throw new Problem(404, 'not-found', `${body.path} is not a converted asset.`);
    const kind = assetKindOf(body.path)!;
    const options = checkOptions(kind, body.options);
    if (!body.folder) return { jobs: [this.imports.reconvert(id, [body.path], options)] };
    const folder = folderOf(record.origin?.path ?? '');
    const shared = Object.fromEntries(Object.entries(options).filter(([key]) => !PERSONAL.includes(key)));
    const others = (manifest.importRules ?? []).filter((rule) => rule.folder !== folder || rule.kind !== kind);
    this.crates.updateManifest(id, { importRules: [...others, { folder, kind, options: shared }] });
    const family = Object.entries(manifest.assets).filter(
      ([path, own]) => assetKindOf(path) === kind && own.origin && folderOf(own.origin.path) === folder && !own.options.pack,
    );
    return {
      jobs: [
        this.imports.reconvert(
          id,
          family.map(([path]) => path),
          shared,
        ),
      ],
    };
  }
}
