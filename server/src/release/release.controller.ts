import { join } from 'node:path';
import { Body, Controller, Get, Inject, Param, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiTags } from '@nestjs/swagger';
import { readPng } from '@violet-crate/core/asset/texture/readPng';
import { openRelease } from '@violet-crate/core/release/pack';
import { installRelease } from '@violet-crate/core/release/install';
import { fetchRelease, publishRelease } from '@violet-crate/host/workshopClient';
import { modsFolder } from '@violet-crate/host/modsFolder';
import { IsOptional, IsString, Matches, MaxLength } from 'class-validator';
import { desc, eq } from 'drizzle-orm';
import type { Response } from 'express';
import { BlobStore } from '@violet-crate/host/blobStore';
import { BuildsService } from '../builds/builds.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { packages, releases } from '../database/schema.ts';
import { GamesService } from '../games/games.service.ts';
import { gameVersion } from '@violet-crate/host/setup/readFacts';
import { notFound, Problem } from '../http/problem.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { SettingsService } from '../settings/settings.service.ts';

export class PackDto {
  @ApiPropertyOptional({ description: 'PNG as a data URL; without it the start’s view is drawn.' })
  @IsOptional()
  @IsString()
  @MaxLength(8_000_000)
  @Matches(/^data:image\/png;base64,/)
  thumbnail?: string;
}

export class PublishDto {
  @ApiProperty()
  @IsString()
  @MaxLength(64)
  packageId!: string;
}

export class InstallDto {
  @ApiProperty({ example: 'K7PM-2QXD' })
  @Matches(/^\s*[A-Za-z0-9-]{1,40}\s*$/, { message: 'A share code looks like K7PM-2QXD' })
  shareCode!: string;
}

/** Pixels along a side of a picture for a package. */
const MOST_PIXELS = 4096;

/** A picture that a page sent. @throws Problem where it is none, or larger than anybody looks at */
function readThumbnail(url: string): Uint8Array {
  const png = new Uint8Array(Buffer.from(url.slice(url.indexOf(',') + 1), 'base64'));
  const { width, height } = readPng(png, 'The picture');
  if (width > MOST_PIXELS || height > MOST_PIXELS)
    throw new Problem(422, 'thumbnail', `The picture has ${width} × ${height} pixels; at most ${MOST_PIXELS} along a side are taken.`);
  return png;
}

@ApiTags('publish')
@Controller('api')
export class ReleaseController {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
    private readonly crates: CratesService,
    private readonly builds: BuildsService,
    private readonly games: GamesService,
    private readonly jobs: JobsService,
    private readonly settings: SettingsService,
    private readonly blobs: BlobStore,
  ) {}

  @Get('crates/:id/packages')
  @ApiOperation({ summary: 'Packages and releases of a crate, newest first.' })
  list(@Param('id') id: string) {
    const { mainMap } = this.crates.view(id).manifest;
    const inputHash = this.packageHash(id, mainMap);
    return {
      packages: this.database
        .select()
        .from(packages)
        .where(eq(packages.crateId, id))
        .orderBy(desc(packages.createdAt))
        .limit(20)
        .all()
        .map((row) => ({ ...row, fresh: row.inputHash === inputHash })),
      releases: this.database.select().from(releases).where(eq(releases.crateId, id)).orderBy(desc(releases.publishedAt)).all(),
    };
  }

  @Post('crates/:id/packages')
  @ApiOperation({ summary: 'Makes the package from the fresh builds of all maps; answers its job.' })
  pack(@Param('id') id: string, @Body() body: PackDto) {
    const world = this.crates.world(id);
    const { mainMap } = world.crate.manifest;
    const artefacts = Object.keys(world.crate.maps).flatMap((map) => {
      const build = this.builds.latestGood(id, map);
      if (!build) throw new Problem(409, 'build-missing', `Map ${map} is not built yet. Build it first.`);
      if (build.inputHash !== this.builds.inputHash(id, map))
        throw new Problem(409, 'build-stale', `Map ${map} was changed after it was built. Build it again first.`);
      return build.artefacts;
    });
    const thumbnail = body.thumbnail ? readThumbnail(body.thumbnail) : null;
    const inputHash = this.packageHash(id, mainMap);
    return this.jobs.add(
      'pack',
      id,
      `Package ${world.crate.manifest.name}`,
      { world, artefacts, thumbnail, blobs: this.config.blobs },
      (output, jobId) => {
        const { sha256, bytes, manifest, findings } = output;
        this.database
          .insert(packages)
          .values({ id: jobId, crateId: id, sha256, bytes, manifest, findings, inputHash, createdAt: new Date().toISOString() })
          .run();
        return { packageId: jobId };
      },
    );
  }

  @Get('packages/:package/file')
  @ApiOperation({ summary: 'The package itself.' })
  file(@Param('package') packageId: string, @Res() response: Response) {
    const row = this.package(packageId);
    response.type('application/zip').setHeader('content-disposition', `attachment; filename="${row.manifest.name}-${row.manifest.version}.zip"`);
    response.send(Buffer.from(this.blobs.read(row.sha256)));
  }

  @Post('publish')
  @ApiOperation({ summary: 'Publishes a package on the workshop of the settings.' })
  async publish(@Body() body: PublishDto) {
    const row = this.package(body.packageId);
    const { workshopUrl, workshopToken } = this.settings.get();
    const release = await publishRelease(workshopUrl, workshopToken, this.blobs.read(row.sha256));
    const entry = {
      shareCode: release.shareCode,
      crateId: row.crateId,
      packageId: row.id,
      version: release.version,
      workshop: workshopUrl,
      publishedAt: release.publishedAt,
    };
    this.database.insert(releases).values(entry).onConflictDoUpdate({ target: releases.shareCode, set: entry }).run();
    return entry;
  }

  @Post('install')
  @ApiOperation({ summary: 'Installs a release into its game’s mods folder and verifies every file.' })
  async install(@Body() body: InstallDto) {
    const { zip } = await fetchRelease(this.settings.get().workshopUrl, body.shareCode);
    const { manifest, tree } = openRelease(zip, `the package of ${body.shareCode}`);
    const install = this.games.install(manifest.profile);
    if (!gameVersion(install)) throw new Problem(409, 'game-missing', `${install.profile.title} was not found; see Set-up.`);
    this.games.needPrepared(install, 'publish');
    const mods = join(install.folder, install.profile.install.mods);
    const verified = installRelease(modsFolder(mods), manifest, tree);
    return { name: manifest.name, version: manifest.version, folder: join(mods, manifest.name), verified };
  }

  private package(id: string) {
    const row = this.database.select().from(packages).where(eq(packages.id, id)).get();
    if (!row) throw notFound('such package');
    return row;
  }

  /** A package also goes stale when its texts change, which no build notices. */
  private packageHash(id: string, map: string): string {
    const { title, description, version, authors, credits } = this.crates.view(id).manifest;
    return this.builds.inputHash(id, map) + JSON.stringify([title, description, version, authors, credits]);
  }
}
