import { Body, Controller, Delete, Get, HttpCode, Inject, Param, Patch, Post, Query, Req, Res } from '@nestjs/common';
import { IsArray, IsBoolean, IsIn, IsInt, IsOptional, IsString, Length, Matches, Max, MaxLength, Min } from 'class-validator';
import { Type } from 'class-transformer';
import type { Request, Response } from 'express';
import { AccountsService } from '../accounts/accounts.service.ts';
import { For } from '../accounts/access.ts';
import { Limiter } from '../accounts/limits.ts';
import { addressOf, needViewer, viewerOf } from '../accounts/viewer.ts';
import { CONFIG, type Settings } from '../config.ts';
import { OrganisationsService } from '../organisations/organisations.service.ts';
import { Refusal } from '../refusal.ts';
import { SCOPES, VISIBILITIES, type Scope, type Visibility } from '../schema.ts';
import { ModsService, type Mod, type Version } from './mods.service.ts';
import { UploadsService } from './uploads.service.ts';

class SearchDto {
  @IsOptional() @IsString() @MaxLength(200) q?: string;
  @IsOptional() @IsString() @MaxLength(40) profile?: string;
  @IsOptional() @IsString() @MaxLength(30) tag?: string;
  @IsOptional() @IsIn(['new', 'liked', 'used']) sort?: 'new' | 'liked' | 'used';
  @IsOptional() @Type(() => Number) @IsInt() @Min(0) @Max(100_000) page?: number;
}

class SignInDto {
  @IsString() @MaxLength(60) name!: string;
  @IsString() @MaxLength(200) password!: string;
  @IsOptional() @IsString() @MaxLength(60) device?: string;
  @IsOptional() @IsArray() @IsIn(SCOPES, { each: true }) scopes?: Scope[];
}

class KnownDto {
  @Matches(/^[0-9a-f]{64}$/) sha256!: string;
}
class VisibilityDto {
  @IsIn(VISIBILITIES) visibility!: Visibility;
}
class VersionDto {
  @Length(1, 40) version!: string;
}
class WithdrawDto extends VersionDto {
  @IsString() @MaxLength(500) reason!: string;
}
class TestedDto extends VersionDto {
  @IsBoolean() works!: boolean;
  @IsOptional() @IsString() @MaxLength(2000) note?: string;
}
class MoveDto {
  @Length(1, 40) organisation!: string;
}
class NotesDto {
  @IsString() @MaxLength(20_000) notes!: string;
}

/** What programs ask of the workshop: docs/workshop.md describes it. */
@Controller('api')
export class ModsController {
  /** Share codes are short: whoever guesses at them is slowed down. */
  private readonly guesses = new Limiter(20, 60_000);

  constructor(
    @Inject(ModsService) private readonly mods: ModsService,
    @Inject(UploadsService) private readonly uploads: UploadsService,
    @Inject(AccountsService) private readonly accounts: AccountsService,
    @Inject(OrganisationsService) private readonly organisations: OrganisationsService,
    @Inject(CONFIG) private readonly config: Settings,
  ) {}

  @For('anyone')
  @Get('rules')
  rules() {
    return this.config.rules;
  }

  @For('read')
  @Get('me')
  me(@Req() request: Request) {
    const { account, scopes } = needViewer(request, 'read');
    const { name, createdAt, confirmedAt, termsAt } = account;
    return {
      name,
      createdAt,
      confirmed: confirmedAt !== null,
      terms: termsAt !== null,
      scopes,
      organisations: this.organisations.ofAccount(account.id),
    };
  }

  /** For programs: a token of their own, for a name and a password that they forget again. */
  @For('anyone')
  @Post('sign-in')
  @HttpCode(200)
  async signIn(@Req() request: Request, @Body() body: SignInDto) {
    const account = await this.accounts.signIn(body.name, body.password, addressOf(request));
    return {
      token: this.accounts.makeToken(account.id, body.device ?? 'command line', body.scopes ?? ['read', 'publish', 'manage']),
      name: account.name,
    };
  }

  /** Lets the user of a program in with a browser: only where its token may do all that a browser may. */
  @For('manage')
  @Post('entrance')
  @HttpCode(200)
  entrance(@Req() request: Request) {
    for (const scope of SCOPES) needViewer(request, scope);
    return { path: this.accounts.entrance(needViewer(request, 'manage').account.id) };
  }

  @For('anyone')
  @Get('releases')
  list() {
    return this.mods.search({}).cards.map((card) => this.mods.release(this.mods.byCode(card.shareCode, null).version));
  }

  @For('anyone')
  @Get('releases/:code')
  get(@Req() request: Request, @Param('code') code: string) {
    return this.mods.release(this.given(request, code));
  }

  @For('anyone')
  @Get('releases/:code/manifest')
  manifest(@Req() request: Request, @Param('code') code: string) {
    const { document, signature } = this.givenOut(request, code);
    return { document, signature };
  }

  /** The mod that a release is of, for who has its share code: its versions, and which is given out. */
  @For('anyone')
  @Get('releases/:code/mod')
  modOf(@Req() request: Request, @Param('code') code: string) {
    this.given(request, code);
    return this.seen(request, this.mods.byCode(code, viewerOf(request)?.account ?? null).mod);
  }

  @For('anyone')
  @Get('releases/:code/package')
  package(@Req() request: Request, @Param('code') code: string, @Res() response: Response) {
    const version = this.givenOut(request, code);
    // A range is a part of a download that counts already.
    if (!/^bytes=[1-9]/.test(request.headers.range ?? '')) this.mods.countDownload(version.id);
    response.type('application/zip').sendFile(this.mods.pathOf(version.sha256), { dotfiles: 'allow', cacheControl: false });
  }

  /** One file of a package, for who has the others. */
  @For('anyone')
  @Get('releases/:code/files/:sha256')
  file(@Req() request: Request, @Param('code') code: string, @Param('sha256') sha256: string, @Res() response: Response) {
    const version = this.givenOut(request, code);
    if (!version.manifest.files.some((file) => file.sha256 === sha256)) throw new Refusal(404, 'The release has no such file.');
    response.type('application/octet-stream').sendFile(this.mods.pathOf(sha256), { dotfiles: 'allow', cacheControl: false });
  }

  @For('anyone')
  @Get('releases/:code/thumbnail')
  thumbnail(@Req() request: Request, @Param('code') code: string, @Res() response: Response) {
    this.picture(this.given(request, code), 'thumbnail.png', response);
  }

  /** What moves. */
  @For('anyone')
  @Get('releases/:code/preview')
  preview(@Req() request: Request, @Param('code') code: string, @Res() response: Response) {
    const version = this.given(request, code);
    this.picture(version, version.manifest.preview ?? '', response);
  }

  @For('anyone')
  @Get('releases/:code/pictures/:number')
  gallery(@Req() request: Request, @Param('code') code: string, @Param('number') number: string, @Res() response: Response) {
    const version = this.given(request, code);
    this.picture(version, version.manifest.pictures?.[Number(number)] ?? '', response);
  }

  /** A release whose package is there already needs no upload. */
  @For('publish')
  @Post('releases/known')
  @HttpCode(200)
  known(@Req() request: Request, @Body() { sha256 }: KnownDto) {
    const version = this.mods.known(sha256, needViewer(request, 'publish').account);
    return { release: version && this.mods.release(version) };
  }

  @For('publish')
  @Get('uploads/:id/release')
  async outcome(@Req() request: Request, @Param('id') id: string) {
    return this.mods.release(await this.uploads.outcome(id, { account: needViewer(request, 'publish').account.id }));
  }

  @For('anyone')
  @Get('mods')
  search(@Query() { q, ...filter }: SearchDto) {
    return this.mods.search({ query: q, ...filter });
  }

  /** All that one has a part in. */
  @For('read')
  @Get('mine')
  mine(@Req() request: Request) {
    return this.mods.ofAccount(needViewer(request, 'read').account.id).map(({ mod }) => this.view(mod));
  }

  @For('anyone')
  @Get('mods/:name')
  mod(@Req() request: Request, @Param('name') name: string) {
    return this.seen(request, this.find(request, name));
  }

  private seen(request: Request, mod: Mod) {
    // An application that asks for updates says which version it has.
    const [who, has] = [request.headers['x-installation'], request.headers['x-version']];
    if (typeof who === 'string' && typeof has === 'string') this.mods.countUse(mod, who, has);
    return this.view(mod);
  }

  @For('anyone')
  @Get('mods/:name/statistics')
  statistics(@Req() request: Request, @Param('name') name: string) {
    return this.mods.statistics(this.find(request, name));
  }

  @For('read')
  @Get('mods/:name/conditions')
  conditions(@Req() request: Request, @Param('name') name: string) {
    return this.mods.conditions(this.find(request, name), needViewer(request, 'read').account);
  }

  @For('manage')
  @Post('mods/:name/visibility')
  @HttpCode(200)
  visibility(@Req() request: Request, @Param('name') name: string, @Body() body: VisibilityDto) {
    return this.managed(request, name, (mod, account) => this.mods.setVisibility(mod, account, body.visibility));
  }

  @For('manage')
  @Post('mods/:name/rollback')
  @HttpCode(200)
  rollBack(@Req() request: Request, @Param('name') name: string, @Body() body: VersionDto) {
    return this.managed(request, name, (mod, account) => this.mods.rollBack(mod, account, body.version));
  }

  @For('manage')
  @Post('mods/:name/withdraw')
  @HttpCode(200)
  withdraw(@Req() request: Request, @Param('name') name: string, @Body() body: WithdrawDto) {
    return this.managed(request, name, (mod, account) => this.mods.withdraw(mod, account, body.version, body.reason));
  }

  @For('manage')
  @Patch('mods/:name/versions/:version')
  notes(@Req() request: Request, @Param('name') name: string, @Param('version') version: string, @Body() body: NotesDto) {
    return this.managed(request, name, (mod, account) => this.mods.setNotes(mod, account, version, body.notes));
  }

  @For('read')
  @Post('mods/:name/tested')
  @HttpCode(200)
  tested(@Req() request: Request, @Param('name') name: string, @Body() body: TestedDto) {
    const { account } = needViewer(request, 'read');
    const mod = this.find(request, name);
    this.mods.tested(mod, account, body.version, body.works, body.note ?? '');
    return this.view(mod);
  }

  @For('manage')
  @Post('mods/:name/move')
  @HttpCode(200)
  move(@Req() request: Request, @Param('name') name: string, @Body() body: MoveDto) {
    return this.managed(request, name, (mod, account) => this.mods.move(mod, account, body.organisation));
  }

  @For('manage')
  @Delete('mods/:name')
  remove(@Req() request: Request, @Param('name') name: string) {
    return this.managed(request, name, (mod, account) => this.mods.remove(mod, account));
  }

  @For('manage')
  @Post('mods/:name/restore')
  @HttpCode(200)
  bringBack(@Req() request: Request, @Param('name') name: string) {
    return this.managed(request, name, (mod, account) => this.mods.bringBack(mod, account));
  }

  private managed(request: Request, name: string, act: (mod: Mod, account: ReturnType<typeof needViewer>['account']) => void) {
    const { account } = needViewer(request, 'manage');
    act(this.find(request, name), account);
    return this.view(this.find(request, name));
  }

  private find = (request: Request, name: string): Mod => this.mods.byName(name, viewerOf(request)?.account ?? null);

  private view(mod: Mod) {
    const all = this.mods.versionsOf(mod.id);
    const { name, profile, visibility, deletedAt } = mod;
    return {
      name,
      profile,
      visibility,
      deletedAt,
      organisation: this.organisations.get(mod.organisation).name,
      current: all.find(({ id }) => id === mod.current)?.version ?? null,
      versions: all.map((version) => ({ ...this.mods.release(version), withdrawnFor: version.withdrawnFor })),
      tests: this.mods.testsOf(mod),
    };
  }

  private given(request: Request, code: string): Version {
    const who = addressOf(request);
    if (this.guesses.blocked(who)) throw new Refusal(429, 'Too many share codes that are none. Wait a minute.');
    try {
      return this.mods.byCode(code, viewerOf(request)?.account ?? null).version;
    } catch (error) {
      this.guesses.failed(who);
      throw error;
    }
  }

  private givenOut(request: Request, code: string): Version {
    const version = this.given(request, code);
    if (version.withdrawnAt) throw new Refusal(410, `${version.manifest.title} ${version.version} was withdrawn: ${version.withdrawnFor}`);
    return version;
  }

  private picture({ manifest }: Version, path: string, response: Response): void {
    const file = manifest.files.find((one) => one.path === path);
    if (!file) throw new Refusal(404, 'There is no such picture.');
    response
      .type(path.endsWith('.webp') ? 'image/webp' : path.endsWith('.jpg') ? 'image/jpeg' : 'image/png')
      .sendFile(this.mods.pathOf(file.sha256), { dotfiles: 'allow', immutable: true, maxAge: '1h' });
  }
}
