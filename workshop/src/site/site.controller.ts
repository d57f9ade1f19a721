import { Body, Controller, Get, Header, HttpCode, Inject, Param, Post, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { For } from '../accounts/access.ts';
import { AccountsService, type Account } from '../accounts/accounts.service.ts';
import { addressOf, COOKIE, sessionOf, viewerOf } from '../accounts/viewer.ts';
import { eligibility } from '../accounts/eligibility.ts';
import { CONFIG, type Settings } from '../config.ts';
import { ModsService, type Mod } from '../mods/mods.service.ts';
import { OrganisationsService } from '../organisations/organisations.service.ts';
import { problemOf, Refusal } from '../refusal.ts';
import { ROLES, SCOPES, VISIBILITIES, type Role, type Scope, type Visibility } from '../schema.ts';
import { TalkService } from '../talk/talk.service.ts';
import * as account from './accountPages.ts';
import { dayChart, versionChart } from './charts.ts';
import type { Html } from './html.ts';
import { layout, SCRIPT, STYLE } from './layout.ts';
import { frontPage, modPage } from './pages.ts';

/** A form as it was sent: texts, or several of one name. */
type Form = Record<string, string | string[] | undefined>;
const field = (form: Form, name: string): string => [form[name]].flat()[0] ?? '';
const fields = (form: Form, name: string): string[] => [form[name]].flat().filter((value): value is string => value !== undefined);

const PROFILES = ['brinewick', 'skarrow'];
const DAYS = 14;

/** The site that people see. Every form comes back as a page: with what was done, or with what is wrong and what was typed still there to go back to. */
@For('person')
@Controller()
export class SiteController {
  constructor(
    @Inject(ModsService) private readonly mods: ModsService,
    @Inject(AccountsService) private readonly accounts: AccountsService,
    @Inject(OrganisationsService) private readonly organisations: OrganisationsService,
    @Inject(TalkService) private readonly talk: TalkService,
    @Inject(CONFIG) private readonly config: Settings,
  ) {}

  @Get('site.css')
  @Header('content-type', 'text/css; charset=utf-8')
  style(): string {
    return STYLE;
  }

  @Get('site.js')
  @Header('content-type', 'text/javascript; charset=utf-8')
  script(): string {
    return SCRIPT;
  }

  /** Browsers ask for one; the site has none. */
  @Get('favicon.ico')
  @HttpCode(204)
  icon(): void {}

  @Get()
  front(@Req() request: Request, @Res() response: Response, @Query() query: Form): void {
    this.page(request, response, 'Mods', () => {
      const sort = field(query, 'sort');
      const asked = {
        query: field(query, 'q').slice(0, 200),
        profile: field(query, 'profile').slice(0, 40),
        tag: field(query, 'tag').slice(0, 30),
        sort: (['new', 'liked', 'used'] as const).find((one) => one === sort) ?? ('new' as const),
        page: Math.max(0, Math.min(100_000, Math.floor(Number(field(query, 'page')) || 0))),
      };
      return frontPage(this.mods.search(asked), asked, PROFILES);
    });
  }

  @Get('mods/:name')
  mod(@Req() request: Request, @Res() response: Response, @Param('name') name: string): void {
    this.page(request, response, name, (viewer) => {
      const mod = this.mods.byName(name, viewer);
      const versions = this.mods.versionsOf(mod.id);
      const version = this.mods.current(mod) ?? versions[0];
      return modPage({
        mod,
        version,
        versions,
        organisation: this.organisations.get(mod.organisation),
        rating: this.talk.ratingOf(mod),
        downloads: this.mods.downloadsOf(versions.map(({ id }) => id)),
        comments: this.talk.commentsOf(mod),
        log: this.mods.logOf(mod),
        signedIn: viewer !== null,
        inside: this.mods.inside(mod, viewer),
        manages: this.mods.manages(mod, viewer),
      });
    });
  }

  @Get('mods/:name/manage')
  manage(@Req() request: Request, @Res() response: Response, @Param('name') name: string): void {
    this.page(request, response, `Manage ${name}`, (viewer) => {
      const by = needed(viewer);
      const mod = this.mods.byName(name, by);
      this.organisations.need(mod.organisation, by.id, 'owner', 'publisher');
      const { perDay, used } = this.mods.statistics(mod);
      return account.managePage({
        mod,
        versions: this.mods.versionsOf(mod.id),
        conditions: this.mods.conditions(mod, by),
        tests: this.mods.testsOf(mod),
        perDay: dayChart(perDay),
        used: versionChart(used),
        organisations: this.organisations.ofAccount(by.id),
        graceDays: this.config.rules.graceDays,
      });
    });
  }

  @Post('mods/:name/:what')
  change(@Req() request: Request, @Res() response: Response, @Param('name') name: string, @Param('what') what: string, @Body() form: Form): void {
    const visibility = VISIBILITIES.find((one) => one === field(form, 'visibility')) as Visibility;
    const version = field(form, 'version');
    const acts: Record<string, [then: string, act: (mod: Mod, by: Account) => void]> = {
      comments: [`/mods/${name}`, (mod, by) => this.talk.comment(mod, by, field(form, 'text'))],
      ratings: [`/mods/${name}`, (mod, by) => this.talk.rate(mod, by, Number(field(form, 'stars')))],
      reports: [`/mods/${name}`, (mod, by) => this.talk.report(mod, by, field(form, 'reason'), Number(field(form, 'comment')) || null)],
      tests: [`/mods/${name}`, (mod, by) => this.mods.tested(mod, by, version, field(form, 'works') === 'yes', field(form, 'note'))],
      visibility: [`/mods/${name}/manage`, (mod, by) => this.mods.setVisibility(mod, by, visibility)],
      rollback: [`/mods/${name}/manage`, (mod, by) => this.mods.rollBack(mod, by, version)],
      withdraw: [`/mods/${name}/manage`, (mod, by) => this.mods.withdraw(mod, by, version, field(form, 'reason'))],
      move: [`/mods/${name}/manage`, (mod, by) => this.mods.move(mod, by, field(form, 'organisation'))],
      delete: [`/mods/${name}/manage`, (mod, by) => this.mods.remove(mod, by)],
      restore: [`/mods/${name}/manage`, (mod, by) => this.mods.bringBack(mod, by)],
    };
    this.act(request, response, `/mods/${name}`, (by) => {
      const found = Object.hasOwn(acts, what) ? acts[what] : undefined;
      if (!found) throw new Refusal(404, 'There is no such page.');
      if (what === 'visibility' && !visibility) throw new Refusal(422, 'Choose who sees it.');
      found[1](this.mods.byName(name, by), by);
      return found[0];
    });
  }

  @Get('sign-in')
  signInForm(@Req() request: Request, @Res() response: Response): void {
    this.page(request, response, 'Sign in', account.signInPage);
  }

  @Post('sign-in')
  async signIn(@Req() request: Request, @Res() response: Response, @Body() form: Form): Promise<void> {
    try {
      const found = await this.accounts.signIn(field(form, 'name'), field(form, 'password'), addressOf(request));
      this.open(request, response, found);
      response.redirect(303, '/account');
    } catch (error) {
      this.wrong(request, response, 'Sign in', error, account.signInPage());
    }
  }

  @Get('enter/:code')
  enter(@Req() request: Request, @Res() response: Response, @Param('code') code: string): void {
    try {
      this.open(request, response, this.accounts.get(this.accounts.take(code, 'enter').account!));
      response.redirect(303, '/account');
    } catch (error) {
      this.wrong(request, response, 'Sign in', error, account.signInPage());
    }
  }

  @Get('sign-up')
  signUpForm(@Req() request: Request, @Res() response: Response): void {
    this.page(request, response, 'Sign up', account.signUpPage);
  }

  @Post('sign-up')
  async signUp(@Req() request: Request, @Res() response: Response, @Body() form: Form): Promise<void> {
    try {
      const made = await this.accounts.signUp(request.ip ?? '', {
        name: field(form, 'name'),
        mail: field(form, 'mail'),
        password: field(form, 'password'),
      });
      if (made.id < 0) return void response.redirect(303, '/mailbox');
      this.open(request, response, made);
      response.redirect(303, '/account');
    } catch (error) {
      this.wrong(request, response, 'Sign up', error, account.signUpPage());
    }
  }

  @Post('sign-out')
  signOut(@Req() request: Request, @Res() response: Response): void {
    const session = sessionOf(request);
    if (session) this.accounts.closeSession(session);
    response.clearCookie(COOKIE).redirect(303, '/');
  }

  @Get('account')
  account(@Req() request: Request, @Res() response: Response): void {
    this.page(request, response, 'Account', (viewer) => this.accountOf(needed(viewer)));
  }

  @Post('tokens')
  @HttpCode(200)
  token(@Req() request: Request, @Res() response: Response, @Body() form: Form): void {
    this.page(request, response, 'Account', (viewer) => {
      const by = needed(viewer);
      const scopes = fields(form, 'scopes').filter((scope): scope is Scope => (SCOPES as readonly string[]).includes(scope));
      if (scopes.length === 0) throw new Refusal(422, 'Choose what the token may do.');
      return this.accountOf(by, this.accounts.makeToken(by.id, field(form, 'name'), scopes));
    });
  }

  @Post('tokens/:id/revoke')
  revoke(@Req() request: Request, @Res() response: Response, @Param('id') id: string): void {
    this.act(request, response, '/account', (by) => {
      this.accounts.revoke(by.id, Number(id));
      return '/account';
    });
  }

  @Get('confirm/:code')
  confirmForm(@Req() request: Request, @Res() response: Response, @Param('code') code: string): void {
    this.page(request, response, 'Confirm', () => account.confirmPage(code, 'Confirm your mail address?'));
  }

  @Post('confirm/:code')
  confirm(@Req() request: Request, @Res() response: Response, @Param('code') code: string): void {
    this.page(
      request,
      response,
      'Confirmed',
      () => {
        this.accounts.confirm(code);
        return account.signInPage();
      },
      'Your mail address is confirmed.',
    );
  }

  @Get('mailbox')
  mailbox(@Req() request: Request, @Res() response: Response): void {
    this.page(request, response, 'Mailbox', (viewer) => account.mailboxPage(this.accounts.mailbox(needed(viewer))));
  }

  @Get('terms')
  terms(@Req() request: Request, @Res() response: Response): void {
    this.page(request, response, 'Terms', (viewer) => account.termsPage(viewer?.termsAt ?? null, viewer !== null));
  }

  @Post('terms')
  acceptTerms(@Req() request: Request, @Res() response: Response): void {
    this.act(request, response, '/terms', (by) => {
      this.accounts.acceptTerms(by.id);
      return '/account';
    });
  }

  @Post('organisations')
  makeOrganisation(@Req() request: Request, @Res() response: Response, @Body() form: Form): void {
    this.act(
      request,
      response,
      '/account',
      (by) => `/organisations/${this.organisations.make(by, { name: field(form, 'name'), title: field(form, 'title') }).name}`,
    );
  }

  @Get('organisations/:name')
  organisation(@Req() request: Request, @Res() response: Response, @Param('name') name: string): void {
    this.page(request, response, name, (viewer) => {
      const found = this.organisations.byName(name);
      const owner = this.organisations.roleIn(found.id, viewer?.id) === 'owner';
      return account.organisationPage(found, this.organisations.membersOf(found.id), this.mods.ofOrganisation(found.id, viewer), owner);
    });
  }

  @Post('organisations/:name/invitations')
  invite(@Req() request: Request, @Res() response: Response, @Param('name') name: string, @Body() form: Form): void {
    this.act(request, response, `/organisations/${name}`, (by) => {
      this.organisations.invite(this.organisations.byName(name).id, by, field(form, 'account'), roleIn(form)!);
      return `/organisations/${name}`;
    });
  }

  @Post('organisations/:name/members/:account')
  member(
    @Req() request: Request,
    @Res() response: Response,
    @Param('name') name: string,
    @Param('account') member: string,
    @Body() form: Form,
  ): void {
    this.act(request, response, `/organisations/${name}`, (by) => {
      this.organisations.change(this.organisations.byName(name).id, by, Number(member), field(form, 'role') === 'nobody' ? null : roleIn(form));
      return `/organisations/${name}`;
    });
  }

  @Get('invitation/:code')
  invitationForm(@Req() request: Request, @Res() response: Response, @Param('code') code: string): void {
    this.page(request, response, 'Invitation', (viewer) => (needed(viewer), account.confirmPage(code, 'Accept the invitation?')));
  }

  @Post('invitation/:code')
  accept(@Req() request: Request, @Res() response: Response, @Param('code') code: string): void {
    this.act(request, response, '/account', (by) => `/organisations/${this.organisations.accept(code, by)}`);
  }

  @Get('moderation')
  moderation(@Req() request: Request, @Res() response: Response): void {
    this.page(request, response, 'Reports', (viewer) => {
      if (!needed(viewer).moderator) throw new Refusal(403, 'This page is for moderators.');
      return account.moderationPage(this.talk.openReports(), this.mods.barred());
    });
  }

  @Post('moderation/mods/:name')
  allow(@Req() request: Request, @Res() response: Response, @Param('name') name: string): void {
    this.act(request, response, '/moderation', (by) => {
      this.mods.allow(name, by);
      return '/moderation';
    });
  }

  @Post('moderation/:id')
  settle(@Req() request: Request, @Res() response: Response, @Param('id') id: string, @Body() form: Form): void {
    this.act(request, response, '/moderation', (by) => {
      const act = (['unlist', 'hide', 'nothing'] as const).find((one) => one === field(form, 'act'));
      if (!act) throw new Refusal(422, 'Choose what is done.');
      this.talk.settle(Number(id), by, act);
      return '/moderation';
    });
  }

  private accountOf(by: Account, fresh?: string): Html {
    const mods = this.mods.ofAccount(by.id);
    const tested = mods.some(({ mod }) => this.mods.conditions(mod, by).every(({ id, met }) => id !== 'tested' || met));
    return account.accountPage({
      account: by,
      conditions: eligibility(by, tested, this.config.rules),
      organisations: this.organisations.ofAccount(by.id),
      mods,
      tokens: this.accounts.tokensOf(by.id),
      fresh,
    });
  }

  private open(request: Request, response: Response, found: Account): void {
    // No Secure: the stand-in speaks plain HTTP to this machine alone. Lax keeps other sites' forms out.
    response.cookie(COOKIE, this.accounts.openSession(found.id, sessionOf(request)), {
      httpOnly: true,
      sameSite: 'lax',
      path: '/',
      maxAge: DAYS * 86_400_000,
    });
  }

  /** @param told what a page that was asked for says that it did */
  private page(request: Request, response: Response, title: string, body: (viewer: Account | null) => Html, told?: string): void {
    const viewer = viewerOf(request)?.account ?? null;
    try {
      response.type('html').send(layout({ title, viewer, told }, body(viewer)));
    } catch (error) {
      this.wrong(request, response, title, error, viewer ? undefined : account.signInPage());
    }
  }

  /** Does something for who is signed in, and leads on. */
  private act(request: Request, response: Response, back: string, act: (by: Account) => string): void {
    try {
      response.redirect(303, act(needed(viewerOf(request)?.account ?? null)));
    } catch (error) {
      this.wrong(request, response, 'That did not work', error, undefined, back);
    }
  }

  private wrong(request: Request, response: Response, title: string, error: unknown, body?: Html, back?: string): void {
    const { status, detail } = problemOf(error);
    if (status >= 500) console.error(error);
    const viewer = viewerOf(request)?.account ?? null;
    const rest = status === 401 && !body ? account.signInPage() : (body ?? (back ? account.backTo(back) : account.backTo('/')));
    response
      .status(status)
      .type('html')
      .send(layout({ title, viewer, wrong: detail }, status === 404 ? account.backTo('/') : rest));
  }
}

function needed(viewer: Account | null): Account {
  if (!viewer) throw new Refusal(401, 'Sign in first.');
  return viewer;
}

function roleIn(form: Form): Role | null {
  const role = ROLES.find((one) => one === field(form, 'role'));
  if (!role) throw new Refusal(422, 'Choose a role.');
  return role;
}
