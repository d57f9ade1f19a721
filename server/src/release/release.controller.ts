import { Body, Controller, Get, HttpCode, Inject, Param, Post, Query, Res } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiPropertyOptional, ApiQuery, ApiTags } from '@nestjs/swagger';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { takenPictures, TITLE_PICTURE } from '@violet-crate/core/release/takenPictures';
import { platformOf } from '@violet-crate/core/release/platform';
import { fingerprint } from '@violet-crate/core/release/signature';
import { authorKey, importKey } from '@violet-crate/host/authorKey';
import { BlobStore } from '@violet-crate/host/blobStore';
import { ArrayMaxSize, IsArray, IsIn, IsOptional, IsString, MaxLength } from 'class-validator';
import { desc, eq } from 'drizzle-orm';
import type { Response } from 'express';
import { BuildsService } from '../builds/builds.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { packages, releases } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { SettingsService } from '../settings/settings.service.ts';
import { PublishingService } from './publishing.service.ts';

export class PackDto {
  @ApiPropertyOptional({ type: [String], description: 'Ids of platforms of the game that get a package of their own from the same build.' })
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(20)
  @IsString({ each: true })
  @MaxLength(40, { each: true })
  platforms?: string[];
}

export class PublishDto {
  @ApiProperty()
  @IsString()
  @MaxLength(64)
  packageId!: string;

  @ApiPropertyOptional({ description: 'What changed since the last version, in Markdown.' })
  @IsOptional()
  @IsString()
  @MaxLength(20_000)
  notes?: string;

  @ApiPropertyOptional({ enum: ['private', 'code'], description: 'Who sees a mod that is new to the workshop.' })
  @IsOptional()
  @IsIn(['private', 'code'])
  visibility?: 'private' | 'code';
}

export class OrderDto {
  @ApiPropertyOptional()
  @IsOptional()
  @IsString()
  @MaxLength(40)
  version?: string;

  @ApiPropertyOptional()
  @IsOptional()
  @IsString()
  @MaxLength(500)
  reason?: string;

  @ApiPropertyOptional({ enum: ['private', 'code', 'listed'] })
  @IsOptional()
  @IsIn(['private', 'code', 'listed'])
  visibility?: string;
}

export class KeyDto {
  @ApiProperty({ description: 'PKCS #8 as PEM.' })
  @IsString()
  @MaxLength(2000)
  pem!: string;
}

/** Units from the origin beyond which nobody looks. */
const FAR = 1e7;

function vector(name: string, text: unknown): Vec3 {
  const parts = typeof text === 'string' && text.length < 100 ? text.split(',').map(Number) : [];
  if (parts.length !== 3 || !parts.every((value) => Math.abs(value) < FAR))
    throw new Problem(422, 'view', `Say ${name} as three numbers with commas between.`);
  return parts as Vec3;
}

/** What is done to a mod on the workshop, by the address that it is ordered at. */
const ORDERS = ['visibility', 'rollback', 'withdraw', 'restore'] as const;

@ApiTags('publish')
@Controller('api')
export class ReleaseController {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
    private readonly crates: CratesService,
    private readonly builds: BuildsService,
    private readonly jobs: JobsService,
    private readonly blobs: BlobStore,
    private readonly publishing: PublishingService,
    private readonly settings: SettingsService,
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
    const platforms = (body.platforms ?? []).map((platform) => platformOf(world.profile, platform).id);
    const inputHash = this.packageHash(id, mainMap);
    return this.jobs.add(
      'pack',
      id,
      `Package ${world.crate.manifest.name}`,
      { world, artefacts, blobs: this.config.blobs, key: this.config.authorKey, platforms },
      (output, jobId) => {
        const { sha256, bytes, manifest, findings, contents, platforms } = output;
        this.database
          .insert(packages)
          .values({ id: jobId, crateId: id, sha256, bytes, manifest, findings, contents, platforms, inputHash, createdAt: new Date().toISOString() })
          .run();
        return { packageId: jobId };
      },
    );
  }

  @Get('packages/:package/file')
  @ApiOperation({ summary: 'The package itself, or that of one platform.' })
  @ApiQuery({ name: 'platform', required: false, type: String })
  file(@Param('package') packageId: string, @Res() response: Response, @Query('platform') platform?: string) {
    const { manifest, sha256, platforms } = this.publishing.package(packageId);
    const one = platform === undefined ? { sha256 } : platforms.find(({ id }) => id === platform);
    if (!one) throw notFound('package for this platform');
    const name = [manifest.name, manifest.version, ...(platform === undefined ? [] : [platform])].join('-');
    response.type('application/zip').setHeader('content-disposition', `attachment; filename="${name}.zip"`);
    response.send(Buffer.from(this.blobs.read(one.sha256)));
  }

  @Get('packages/:package/picture')
  @ApiOperation({ summary: 'The title picture of a package.' })
  async picture(@Param('package') packageId: string, @Res() response: Response) {
    const { sha256 } = this.publishing.package(packageId);
    const { openRelease } = await import('@violet-crate/core/release/pack');
    const picture = openRelease(this.blobs.read(sha256), 'the package').tree.get('thumbnail.png');
    if (!picture) throw notFound('picture in this package');
    response.type('image/png').setHeader('cache-control', 'private, max-age=86400, immutable');
    response.send(Buffer.from(picture));
  }

  @Get('packages/:package/view')
  @ApiOperation({ summary: 'The main map of a package from a camera: what is compared is seen from one place.' })
  @ApiQuery({ name: 'eye', example: '0,0,64', description: 'Map space, units.' })
  @ApiQuery({ name: 'direction', example: '1,0,0' })
  async view(@Param('package') packageId: string, @Res() response: Response, @Query('eye') eye?: string, @Query('direction') direction?: string) {
    const picture = await this.publishing.seenFrom(packageId, vector('eye', eye), vector('direction', direction));
    response.type('image/png').setHeader('cache-control', 'private, max-age=86400, immutable');
    response.send(Buffer.from(picture));
  }

  @Get('crates/:id/changes')
  @ApiOperation({ summary: 'What is different since the last release, in words, with the next version.' })
  changes(@Param('id') id: string) {
    return this.publishing.changes(id);
  }

  @Get('crates/:id/compare')
  @ApiOperation({ summary: 'Two packages side by side: files by bytes, maps by member.' })
  compare(@Param('id') id: string, @Query('from') from: unknown, @Query('to') to: unknown) {
    if (typeof from !== 'string' || typeof to !== 'string') throw new Problem(422, 'compare', 'Say which two packages, with from and to.');
    return this.publishing.compare(id, from, to);
  }

  @Post('crates/:id/publish')
  @ApiOperation({ summary: 'Sends a package to the workshop of the settings; goes on with what is under way.' })
  publish(@Param('id') id: string, @Body() { packageId, notes = '', visibility = 'code' }: PublishDto) {
    return this.publishing.start(id, { packageId, notes, visibility });
  }

  @Get('crates/:id/uploads')
  @ApiOperation({ summary: 'Packages on their way to the workshop, newest first.' })
  uploads(@Param('id') id: string) {
    this.crates.expect(id);
    return this.publishing.list(id);
  }

  @Post('uploads/:upload/stop')
  @HttpCode(200)
  @ApiOperation({ summary: 'Stops an upload; what has arrived stays at the workshop for a while.' })
  stop(@Param('upload') upload: string) {
    return this.publishing.stop(upload);
  }

  @Post('uploads/:upload/resume')
  @HttpCode(200)
  @ApiOperation({ summary: 'Goes on with an upload where it ended.' })
  resume(@Param('upload') upload: string) {
    return this.publishing.resume(upload);
  }

  @Get('crates/:id/workshop')
  @ApiOperation({ summary: 'What the workshop has of this crate: who sees it, its versions, tests, statistics and what is missing for listing it.' })
  async workshop(@Param('id') id: string) {
    const mod = (await this.publishing.mod(id)) as { name: string } | null;
    if (!mod) return { mod: null, conditions: [], statistics: null };
    const [conditions, statistics] = await Promise.all([
      this.publishing.ask('GET', `/api/mods/${mod.name}/conditions`),
      this.publishing.ask('GET', `/api/mods/${mod.name}/statistics`),
    ]);
    return { mod, conditions, statistics };
  }

  @Post('crates/:id/workshop/:order')
  @HttpCode(200)
  @ApiOperation({ summary: 'Changes who sees a mod, gives another version out, withdraws one, or brings a deleted mod back.' })
  async order(@Param('id') id: string, @Param('order') order: string, @Body() body: OrderDto) {
    if (!(ORDERS as readonly string[]).includes(order)) throw notFound(`order ${order}`);
    return { mod: await this.publishing.act(id, order, body) };
  }

  @Post('workshop/entrance')
  @HttpCode(200)
  @ApiOperation({ summary: 'An address that opens the workshop’s site signed in; it holds once, for a minute.' })
  async entrance() {
    return { url: `${this.settings.workshop().workshop.replace(/\/$/, '')}${await this.publishing.entrance()}` };
  }

  @Get('author')
  @ApiOperation({
    summary: 'The public key that packages of this machine are signed with, and the file that the private one is in: no address gives that out.',
  })
  author() {
    const { publicKey } = authorKey(this.config.authorKey);
    return { publicKey, fingerprint: fingerprint(publicKey), file: this.config.authorKey };
  }

  @Post('author/import')
  @HttpCode(200)
  @ApiOperation({ summary: 'Takes a key from another machine in the place of this one.' })
  importKey(@Body() { pem }: KeyDto) {
    const { publicKey } = importKey(this.config.authorKey, pem);
    return { publicKey, fingerprint: fingerprint(publicKey) };
  }

  /** A package also goes stale when its texts change, which no build notices. */
  private packageHash(id: string, map: string): string {
    const { manifest, files } = this.crates.view(id);
    const { title, description, version, authors, credits, licence, about, ledger, requires, preview } = manifest;
    const pictures = files.flatMap(({ path, sha256 }) => (path === TITLE_PICTURE || takenPictures([{ path }]).length > 0 ? [sha256] : []));
    const parts = [licence, about, ledger, requires, preview, pictures.length > 0 ? pictures : undefined];
    const newer = parts.some((part) => part !== undefined) ? parts : [];
    return this.builds.inputHash(id, map) + JSON.stringify([title, description, version, authors, credits, ...newer]);
  }
}
