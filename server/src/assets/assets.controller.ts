import { Body, Controller, Param, Post, UploadedFiles, UseInterceptors } from '@nestjs/common';
import { FilesInterceptor } from '@nestjs/platform-express';
import { ApiConsumes, ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { NORMAL_MODES, PIVOTS, type ModelOptions } from '@violet-crate/core/asset/mesh/convert';
import { LENGTH_UNITS } from '@violet-crate/core/asset/mesh/model';
import { assetKind, enterAsset } from '@violet-crate/core/crate/importAsset';
import { IsIn, IsNumber, IsOptional, IsString, Max, Min, ValidateNested } from 'class-validator';
import { Type } from 'class-transformer';
import { CratesService } from '../crates/crates.service.ts';
import { GamesService } from '../games/games.service.ts';
import { Problem } from '../http/problem.ts';
import { UPLOAD_LIMITS } from '../http/upload.ts';
import { JobsService } from '../jobs/jobs.service.ts';

export class ModelOptionsDto {
  @ApiPropertyOptional({ enum: ['game', ...Object.keys(LENGTH_UNITS)] })
  @IsOptional()
  @IsIn(['game', ...Object.keys(LENGTH_UNITS)])
  unit?: string;

  @ApiPropertyOptional({ enum: ['y', 'z'] })
  @IsOptional()
  @IsIn(['y', 'z'])
  upAxis?: 'y' | 'z';

  @ApiPropertyOptional({ enum: PIVOTS })
  @IsOptional()
  @IsIn([...PIVOTS])
  pivot?: ModelOptions['pivot'];

  @ApiPropertyOptional({ enum: NORMAL_MODES })
  @IsOptional()
  @IsIn([...NORMAL_MODES])
  normals?: ModelOptions['normals'];

  @ApiPropertyOptional()
  @IsOptional()
  @IsNumber()
  @Min(0)
  @Max(180)
  smoothAngle?: number;
}

export class ReconvertDto {
  @ApiProperty({ example: 'models/pump.glb' })
  @IsString()
  path!: string;

  @ApiProperty({ type: ModelOptionsDto })
  @ValidateNested()
  @Type(() => ModelOptionsDto)
  options!: ModelOptionsDto;
}

@ApiTags('assets')
@Controller('api/crates/:id/assets')
export class AssetsController {
  constructor(
    private readonly crates: CratesService,
    private readonly games: GamesService,
    private readonly jobs: JobsService,
  ) {}

  @Post()
  @ApiConsumes('multipart/form-data')
  @ApiOperation({ summary: 'Converts uploaded models and textures; one job per file. MTL files go along with their OBJ.' })
  @UseInterceptors(FilesInterceptor('files', UPLOAD_LIMITS.files, { limits: UPLOAD_LIMITS }))
  upload(@Param('id') id: string, @UploadedFiles() uploaded: Express.Multer.File[] = []) {
    // Browsers send names as UTF-8, which multer reads as Latin-1.
    const files = uploaded.map((file) => ({ name: Buffer.from(file.originalname, 'latin1').toString('utf8'), bytes: new Uint8Array(file.buffer) }));
    if (files.length === 0) throw new Problem(422, 'file-missing', 'Choose at least one file.');
    const companions = files.filter((file) => /\.mtl$/i.test(file.name)).map((file): [string, Uint8Array] => [file.name, file.bytes]);
    const assets = files.filter((file) => !/\.mtl$/i.test(file.name));
    for (const file of assets) assetKind(file.name);
    return { jobs: assets.map((file) => this.convert(id, file.name, file.bytes, {}, companions)) };
  }

  @Post('reconvert')
  @ApiOperation({ summary: 'Converts an asset again from its source, with other settings.' })
  reconvert(@Param('id') id: string, @Body() body: ReconvertDto) {
    const { manifest, files } = this.crates.view(id);
    const record = manifest.assets[body.path];
    if (!record) throw new Problem(404, 'not-found', `${body.path} is not a converted asset.`);
    const companions = files
      .filter((f) => /^sources\/.*\.mtl$/i.test(f.path))
      .map((f): [string, Uint8Array] => [f.path.slice('sources/'.length), this.crates.readFile(id, f.path)]);
    const options = { ...(record.options as Partial<ModelOptions>), ...body.options };
    return {
      jobs: [
        this.convert(
          id,
          record.source.slice('sources/'.length),
          this.crates.readFile(id, record.source),
          options,
          /\.obj$/i.test(record.source) ? companions : [],
        ),
      ],
    };
  }

  private convert(id: string, file: string, bytes: Uint8Array, options: Partial<ModelOptions>, companions: [string, Uint8Array][]) {
    const profile = this.games.profile(this.crates.view(id).manifest.profile);
    const own = /\.obj$/i.test(file) ? companions : [];
    return this.jobs.add('convert', id, `Convert ${file}`, { profile, file, bytes, options, companions: own }, (asset) => {
      const written = [...asset.files].map(([path, content]) => ({ path, bytes: content, findings: path === asset.path ? asset.findings : [] }));
      this.crates.writeFiles(id, written, enterAsset(this.crates.view(id).manifest, asset));
      return { path: asset.path, kind: asset.kind, findings: asset.findings.length };
    });
  }
}
