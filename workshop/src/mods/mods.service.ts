import { randomInt } from 'node:crypto';
import { rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { WorkshopRelease } from '@violet-crate/core/release/workshop';
import { BlobStore } from '@violet-crate/host/blobStore';
import { and, desc, eq, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import { newestFirst } from '@violet-crate/core/profile/versionRule';
import { AccountsService, type Account } from '../accounts/accounts.service.ts';
import { eligibility, type Condition } from '../accounts/eligibility.ts';
import { CONFIG, KEEPER, type Settings } from '../config.ts';
import { DATABASE, type Database } from '../database.ts';
import { OrganisationsService } from '../organisations/organisations.service.ts';
import { Refusal } from '../refusal.ts';
import { Examiner } from './examiner.ts';
import { accounts, downloads, inUse, keys, log, mods, oldReleases, organisations, ratings, tests, versions, type Visibility } from '../schema.ts';

export type Mod = typeof mods.$inferSelect;
export type Version = typeof versions.$inferSelect;

/** Letters and digits that are not mistaken for one another when read aloud. */
const ALPHABET = '23456789ABCDEFGHJKMNPQRSTVWXYZ';

const newShareCode = (): string => {
  const letters = Array.from({ length: 8 }, () => ALPHABET[randomInt(ALPHABET.length)]).join('');
  return `${letters.slice(0, 4)}-${letters.slice(4)}`;
};

const now = (): string => new Date().toISOString();
const PAGE = 24;

export interface Search {
  query?: string;
  profile?: string;
  tag?: string;
  sort?: 'new' | 'liked' | 'used';
  page?: number;
}

export interface ModCard {
  name: string;
  title: string;
  summary: string;
  profile: string;
  organisation: string;
  version: string;
  shareCode: string;
  tags: string[];
  downloads: number;
  stars: number | null;
  updatedAt: string;
}

/** Mods and their versions: who may see which, and what owners do with them. */
@Injectable()
export class ModsService implements OnApplicationShutdown {
  private readonly blobs: BlobStore;
  private readonly examiner: Examiner;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Settings,
    @Inject(AccountsService) private readonly accounts: AccountsService,
    @Inject(OrganisationsService) private readonly organisations: OrganisationsService,
  ) {
    const content = `${config.files}/content`;
    this.blobs = new BlobStore(content);
    this.examiner = new Examiner(content);
  }

  onApplicationShutdown(): Promise<void> {
    return this.examiner.close();
  }

  /**
   * Takes a package after verifying every file and the signature in it. The same package again is the same release. Its content
   * is on disk before its row is written, and nothing of it is seen before that.
   */
  async publish(file: string, by: Account, given: { organisation?: string; notes?: string; visibility?: Visibility }): Promise<Version> {
    const { manifest, key, document, signature, bytes } = await this.examiner.examine(file);
    if (key === false) throw new Refusal(422, 'The signature of the package is not of what it holds.');
    this.needOwnKey(key, by);
    const organisation = given.organisation ? this.organisations.byName(given.organisation) : this.organisations.byName(by.name);
    const known = this.database.select().from(mods).where(eq(mods.name, manifest.name)).get();
    const owner = known?.organisation ?? organisation.id;
    if (known && this.organisations.roleIn(owner, by.id) === null)
      throw new Refusal(409, `The name ${manifest.name} is taken by somebody else. Rename the crate.`);
    this.organisations.need(owner, by.id, 'owner', 'publisher');
    if (known?.deletedAt) throw new Refusal(409, `${manifest.title} was deleted. Bring it back first.`);
    this.needRoom(owner, bytes);
    if (!manifest.files.some(({ path }) => path === 'thumbnail.png')) throw new Refusal(422, 'The package has no title picture.');
    const { sha256 } = await this.examiner.examine(file, true);
    return this.database.transaction((tx) => {
      this.takeKey(key, by);
      // Another upload may have come first while this one was looked at.
      const first = known ? undefined : tx.select().from(mods).where(eq(mods.name, manifest.name)).get();
      if (first && first.organisation !== owner) throw new Refusal(409, `The name ${manifest.name} is taken by somebody else. Rename the crate.`);
      const mod =
        known ??
        first ??
        tx
          .insert(mods)
          .values({
            name: manifest.name,
            organisation: owner,
            profile: manifest.profile,
            visibility: given.visibility === 'listed' ? 'code' : (given.visibility ?? 'private'),
            createdAt: now(),
            updatedAt: now(),
          })
          .returning()
          .get();
      const there = tx
        .select()
        .from(versions)
        .where(and(eq(versions.mod, mod.id), eq(versions.version, manifest.version)))
        .get();
      if (there?.sha256 === sha256) return there;
      if (there)
        throw new Refusal(
          409,
          `${manifest.title} ${manifest.version} is already published as ${there.shareCode}. Raise the version to publish a change.`,
        );
      const version = tx
        .insert(versions)
        .values({
          mod: mod.id,
          version: manifest.version,
          shareCode: newShareCode(),
          manifest,
          document,
          signature,
          notes: (given.notes ?? '').slice(0, 20_000),
          sha256,
          bytes,
          key: key ?? '',
          by: by.id,
          publishedAt: now(),
        })
        .returning()
        .get();
      tx.update(mods).set({ current: version.id, updatedAt: now() }).where(eq(mods.id, mod.id)).run();
      this.enterSearch(mod.id, version);
      this.note(mod.id, by, `published ${manifest.version}${key === null ? ', not signed' : ''}`);
      return version;
    });
  }

  /** Takes releases over that were kept before there were accounts, as the keeper's, with their share codes. */
  async takeOver(): Promise<void> {
    const keeper = this.accounts.byName(KEEPER)!;
    for (const row of this.database.select().from(oldReleases).orderBy(oldReleases.publishedAt).all()) {
      const file = join(this.config.files, 'taken-over.zip');
      writeFileSync(file, row.package);
      const { id, mod } = await this.publish(file, keeper, { visibility: 'code' });
      rmSync(file);
      this.database.transaction((tx) => {
        tx.update(versions).set({ shareCode: row.shareCode, publishedAt: row.publishedAt }).where(eq(versions.id, id)).run();
        tx.update(mods).set({ visibility: 'listed' }).where(eq(mods.id, mod)).run();
        tx.insert(downloads)
          .values({ version: id, day: row.publishedAt.slice(0, 10), count: row.downloads })
          .onConflictDoNothing()
          .run();
        tx.delete(oldReleases).where(eq(oldReleases.shareCode, row.shareCode)).run();
      });
    }
  }

  /** A release whose very package is there already is published without sending it again. */
  known(sha256: string, by: Account): Version | null {
    const row = this.database.select().from(versions).where(eq(versions.sha256, sha256)).get();
    return row && this.organisations.roleIn(this.mod(row.mod).organisation, by.id) ? row : null;
  }

  content(sha256: string): Buffer {
    return Buffer.from(this.blobs.read(sha256));
  }

  pathOf = (sha256: string): string => this.blobs.pathOf(sha256);

  /** By share code: whoever has it may see it, whatever the visibility but private. */
  byCode(shareCode: string, viewer: Account | null): { mod: Mod; version: Version } {
    const version = this.database.select().from(versions).where(eq(versions.shareCode, shareCode.toUpperCase())).get();
    const mod = version && this.mod(version.mod);
    if (!mod || mod.deletedAt || (mod.visibility === 'private' && !this.inside(mod, viewer)))
      throw new Refusal(404, `There is no release with the share code ${shareCode}.`);
    return { mod, version };
  }

  /** By name: what is listed, and whatever one has a part in. Others learn no more of it than of what is not there. */
  byName(name: string, viewer: Account | null): Mod {
    const mod = this.database.select().from(mods).where(eq(mods.name, name)).get();
    if (!mod || (!this.inside(mod, viewer) && (mod.visibility !== 'listed' || mod.deletedAt))) throw new Refusal(404, `There is no mod ${name}.`);
    return mod;
  }

  inside = (mod: Mod, viewer: Account | null): boolean => viewer !== null && this.organisations.roleIn(mod.organisation, viewer.id) !== null;
  manages = (mod: Mod, viewer: Account | null): boolean =>
    viewer !== null && ['owner', 'publisher'].includes(this.organisations.roleIn(mod.organisation, viewer.id) ?? '');

  versionsOf = (mod: number): Version[] =>
    this.database
      .select()
      .from(versions)
      .where(eq(versions.mod, mod))
      .all()
      .sort((a, b) => newestFirst(a.version, b.version));

  current(mod: Mod): Version | null {
    return mod.current === null ? null : (this.database.select().from(versions).where(eq(versions.id, mod.current)).get() ?? null);
  }

  /** What programs read of a release. */
  release(
    version: Version,
  ): WorkshopRelease & { downloads: number; authors: string[]; credits: { author: string; work: string; licence: string }[] } {
    const { manifest, shareCode, bytes, sha256, publishedAt, key, notes, withdrawnAt } = version;
    const { name, title, description, profile, authors, credits, gameVersion, requires } = manifest;
    return {
      shareCode,
      name,
      title,
      description,
      version: version.version,
      profile,
      bytes,
      sha256,
      publishedAt,
      key,
      notes,
      authors,
      credits,
      ...(gameVersion ? { gameVersion } : {}),
      ...(requires ? { requires } : {}),
      ...(withdrawnAt ? { withdrawnAt } : {}),
      downloads: this.downloadsOf([version.id]),
    };
  }

  search({ query = '', profile, tag, sort = 'new', page = 0 }: Search): { cards: ModCard[]; total: number } {
    const words = query.match(/[\p{L}\p{N}]+/gu)?.slice(0, 12) ?? [];
    // Each word by its beginning; quoted, so that nothing of it is taken for an operator.
    const match = words.map((word) => `"${word}"*`).join(' ');
    const found = match === '' ? sql`1` : sql`mods.id IN (SELECT rowid FROM mods_search WHERE mods_search MATCH ${match})`;
    const where = sql`mods.visibility = 'listed' AND mods.deleted_at IS NULL AND versions.withdrawn_at IS NULL AND ${found}
      ${profile ? sql`AND mods.profile = ${profile}` : sql``}
      ${tag ? sql`AND EXISTS (SELECT 1 FROM json_each(versions.manifest, '$.about.tags') WHERE json_each.value = ${tag})` : sql``}`;
    const order = {
      new: sql`mods.updated_at DESC`,
      liked: sql`(SELECT avg(stars) FROM ratings WHERE ratings.mod = mods.id) DESC NULLS LAST, mods.updated_at DESC`,
      used: sql`(SELECT sum(count) FROM downloads JOIN versions AS v ON v.id = downloads.version WHERE v.mod = mods.id) DESC NULLS LAST`,
    }[sort];
    const rows = this.database.all<{ id: number; version: number }>(
      sql`SELECT mods.id AS id, versions.id AS version FROM mods JOIN versions ON versions.id = mods.current WHERE ${where} ORDER BY ${order} LIMIT ${PAGE} OFFSET ${PAGE * Math.max(0, page)}`,
    );
    const [{ total }] = this.database.all<{ total: number }>(
      sql`SELECT count(*) AS total FROM mods JOIN versions ON versions.id = mods.current WHERE ${where}`,
    );
    return { cards: this.cards(rows.map((row) => row.version)), total };
  }

  /** Everything that an account has a part in. */
  ofAccount(account: number): { mod: Mod; card: ModCard | null }[] {
    const own = this.organisations.ofAccount(account).map(({ id }) => id);
    if (own.length === 0) return [];
    return this.database
      .select()
      .from(mods)
      .where(inArray(mods.organisation, own))
      .orderBy(desc(mods.updatedAt))
      .all()
      .map((mod) => ({ mod, card: mod.current === null ? null : (this.cards([mod.current])[0] ?? null) }));
  }

  ofOrganisation = (organisation: number, viewer: Account | null): ModCard[] => {
    const rows = this.database.select().from(mods).where(eq(mods.organisation, organisation)).all();
    return this.cards(
      rows.flatMap((mod) =>
        mod.current !== null && (this.inside(mod, viewer) || (mod.visibility === 'listed' && !mod.deletedAt)) ? [mod.current] : [],
      ),
    );
  };

  conditions(mod: Mod, by: Account): Condition[] {
    const ids = this.versionsOf(mod.id).map(({ id }) => id);
    const tested =
      ids.length > 0 &&
      this.database
        .select()
        .from(tests)
        .where(and(inArray(tests.version, ids), eq(tests.works, true)))
        .all()
        .some(({ account }) => account !== by.id);
    return eligibility(by, tested, this.config.rules);
  }

  setVisibility(mod: Mod, by: Account, visibility: Visibility): void {
    this.organisations.need(mod.organisation, by.id, 'owner', 'publisher');
    if (visibility === 'listed') {
      if (mod.barredAt) throw new Refusal(403, `A moderator took ${mod.name} off the list. Only a moderator lists it again.`);
      const missing = this.conditions(mod, by).filter(({ met }) => !met);
      if (missing.length > 0) throw new Refusal(409, `It cannot be listed yet: ${missing.map(({ text }) => text.replace(/\.$/, '')).join('; ')}.`);
    }
    this.change(mod, by, { visibility }, { private: 'made it private', code: 'gives it out by share code only', listed: 'listed it' }[visibility]);
  }

  /** Mods that moderators took off the list. */
  barred = (): Mod[] => this.database.select().from(mods).where(isNotNull(mods.barredAt)).orderBy(desc(mods.barredAt)).all();

  /** Its owner may list it again. */
  allow(name: string, by: Account): void {
    if (!by.moderator) throw new Refusal(403, 'Only moderators do that.');
    const mod = this.barred().find((one) => one.name === name);
    if (!mod) throw new Refusal(404, `No moderator took ${name} off the list.`);
    this.change(mod, by, { barredAt: null }, 'allowed it on the list again');
  }

  /** The version that is given out from now on; players who ask for updates go back to it too. */
  rollBack(mod: Mod, by: Account, version: string): void {
    this.organisations.need(mod.organisation, by.id, 'owner', 'publisher');
    const to = this.version(mod, version);
    if (to.withdrawnAt) throw new Refusal(409, `${version} was withdrawn.`);
    this.change(mod, by, { current: to.id }, `gives out ${version} again`);
    this.enterSearch(mod.id, to);
  }

  withdraw(mod: Mod, by: Account, version: string, reason: string): void {
    this.organisations.need(mod.organisation, by.id, 'owner', 'publisher');
    const gone = this.version(mod, version);
    if (gone.withdrawnAt) return;
    if (reason.trim() === '') throw new Refusal(422, 'Say why: players who have it read that.');
    this.database.transaction((tx) => {
      tx.update(versions)
        .set({ withdrawnAt: now(), withdrawnFor: reason.trim().slice(0, 500) })
        .where(eq(versions.id, gone.id))
        .run();
      const next = mod.current === gone.id ? this.versionsOf(mod.id).find((one) => one.id !== gone.id && !one.withdrawnAt) : undefined;
      this.change(mod, by, mod.current === gone.id ? { current: next?.id ?? null } : {}, `withdrew ${version}`);
      if (next) this.enterSearch(mod.id, next);
    });
  }

  setNotes(mod: Mod, by: Account, version: string, notes: string): void {
    this.organisations.need(mod.organisation, by.id, 'owner', 'publisher');
    this.database
      .update(versions)
      .set({ notes: notes.slice(0, 20_000) })
      .where(eq(versions.id, this.version(mod, version).id))
      .run();
    this.note(mod.id, by, `changed the notes of ${version}`);
  }

  move(mod: Mod, by: Account, to: string): void {
    this.organisations.need(mod.organisation, by.id, 'owner');
    const target = this.organisations.byName(to);
    this.organisations.need(target.id, by.id, 'owner', 'publisher');
    this.change(mod, by, { organisation: target.id }, `moved it to ${target.title}`);
  }

  remove(mod: Mod, by: Account): void {
    this.organisations.need(mod.organisation, by.id, 'owner');
    this.change(mod, by, { deletedAt: now() }, 'deleted it');
  }

  bringBack(mod: Mod, by: Account): void {
    this.organisations.need(mod.organisation, by.id, 'owner');
    this.change(mod, by, { deletedAt: null }, 'brought it back');
  }

  /** Clears away what was deleted so long ago that it cannot be had back. */
  clearDeleted(): void {
    const before = new Date(Date.now() - this.config.rules.graceDays * 86_400_000).toISOString();
    for (const mod of this.database.select().from(mods).where(lt(mods.deletedAt, before)).all()) {
      this.database.run(sql`DELETE FROM mods_search WHERE rowid = ${mod.id}`);
      this.database.delete(mods).where(eq(mods.id, mod.id)).run();
    }
  }

  tested(mod: Mod, by: Account, version: string, works: boolean, note: string): void {
    const found = this.version(mod, version);
    const row = { version: found.id, account: by.id, works, note: note.trim().slice(0, 2000), at: now() };
    this.database
      .insert(tests)
      .values(row)
      .onConflictDoUpdate({ target: [tests.version, tests.account], set: row })
      .run();
    this.note(mod.id, by, `tested ${version}: ${works ? 'works' : 'does not work'}`);
  }

  testsOf(mod: Mod) {
    return this.database
      .select({ version: versions.version, who: accounts.name, works: tests.works, note: tests.note, at: tests.at })
      .from(tests)
      .innerJoin(versions, eq(versions.id, tests.version))
      .innerJoin(accounts, eq(accounts.id, tests.account))
      .where(eq(versions.mod, mod.id))
      .orderBy(desc(tests.at))
      .all();
  }

  countDownload(version: number): void {
    this.database
      .insert(downloads)
      .values({ version, day: now().slice(0, 10), count: 1 })
      .onConflictDoUpdate({ target: [downloads.version, downloads.day], set: { count: sql`${downloads.count} + 1` } })
      .run();
  }

  downloadsOf(ids: number[]): number {
    const [row] = this.database
      .select({ sum: sql<number | null>`sum(${downloads.count})` })
      .from(downloads)
      .where(inArray(downloads.version, ids))
      .all();
    return row?.sum ?? 0;
  }

  /** An application says what it has, under a number that it made up for itself. */
  countUse(mod: Mod, who: string, version: string): void {
    if (!/^[A-Za-z0-9_-]{8,64}$/.test(who)) return;
    const row = { who, mod: mod.id, version: version.slice(0, 40), at: now() };
    this.database
      .insert(inUse)
      .values(row)
      .onConflictDoUpdate({ target: [inUse.who, inUse.mod], set: row })
      .run();
  }

  statistics(mod: Mod): { perDay: { day: string; count: number }[]; used: { version: string; count: number }[] } {
    const ids = this.versionsOf(mod.id).map(({ id }) => id);
    const perDay = this.database
      .select({ day: downloads.day, count: sql<number>`sum(${downloads.count})` })
      .from(downloads)
      .where(inArray(downloads.version, ids))
      .groupBy(downloads.day)
      .orderBy(downloads.day)
      .all();
    const used = this.database
      .select({ version: inUse.version, count: sql<number>`count(*)` })
      .from(inUse)
      .where(eq(inUse.mod, mod.id))
      .groupBy(inUse.version)
      .all()
      .sort((a, b) => b.count - a.count);
    return { perDay, used };
  }

  logOf = (mod: Mod) => this.database.select().from(log).where(eq(log.mod, mod.id)).orderBy(desc(log.id)).limit(200).all();

  note(mod: number, by: Pick<Account, 'name'>, what: string): void {
    this.database.insert(log).values({ mod, who: by.name, what, at: now() }).run();
  }

  version(mod: Mod, version: string): Version {
    const row = this.database
      .select()
      .from(versions)
      .where(and(eq(versions.mod, mod.id), eq(versions.version, version)))
      .get();
    if (!row) throw new Refusal(404, `There is no version ${version} of ${mod.name}.`);
    return row;
  }

  private mod = (id: number): Mod => this.database.select().from(mods).where(eq(mods.id, id)).get()!;

  private change(mod: Mod, by: Account, set: Partial<Mod>, what: string): void {
    this.database
      .update(mods)
      .set({ ...set, updatedAt: now() })
      .where(eq(mods.id, mod.id))
      .run();
    this.note(mod.id, by, what);
  }

  /** The first package that is published with a key makes it its account's; one that is refused does not. */
  private takeKey(key: string | null, by: Account): void {
    this.needOwnKey(key, by);
    if (key !== null) this.database.insert(keys).values({ key, account: by.id, at: now() }).onConflictDoNothing().run();
  }

  private needOwnKey(key: string | null, by: Account): void {
    const row = key === null ? undefined : this.database.select().from(keys).where(eq(keys.key, key)).get();
    if (row && row.account !== by.id)
      throw new Refusal(403, `The package is signed with the key of ${this.accounts.get(row.account).name}, not with yours.`);
  }

  private needRoom(organisation: number, bytes: number): void {
    const { quota, packageBytes } = this.config.rules;
    if (bytes > packageBytes) throw new Refusal(413, `The package has ${bytes} bytes; at most ${packageBytes} are taken.`);
    const used = this.usedBy(organisation);
    if (used + bytes > quota)
      throw new Refusal(
        413,
        `Releases of ${this.organisations.get(organisation).title} have ${used} of ${quota} bytes; there is no room for ${bytes} more.`,
      );
  }

  usedBy(organisation: number): number {
    const rows = this.database
      .selectDistinct({ sha256: versions.sha256, bytes: versions.bytes })
      .from(versions)
      .innerJoin(mods, eq(mods.id, versions.mod))
      .where(eq(mods.organisation, organisation))
      .all();
    return rows.reduce((sum, row) => sum + row.bytes, 0);
  }

  private enterSearch(mod: number, { manifest }: Version): void {
    const { name, title, description, authors, about } = manifest;
    this.database.run(sql`DELETE FROM mods_search WHERE rowid = ${mod}`);
    this.database.run(
      sql`INSERT INTO mods_search (rowid, name, title, description, people, tags)
        VALUES (${mod}, ${name}, ${title}, ${description}, ${authors.join(' ')}, ${(about?.tags ?? []).join(' ')})`,
    );
  }

  private cards(ids: number[]): ModCard[] {
    if (ids.length === 0) return [];
    const rows = this.database
      .select({ mod: mods, version: versions, organisation: organisations.title })
      .from(versions)
      .innerJoin(mods, eq(mods.id, versions.mod))
      .innerJoin(organisations, eq(organisations.id, mods.organisation))
      .where(inArray(versions.id, ids))
      .all();
    const stars = new Map(
      this.database
        .select({ mod: ratings.mod, stars: sql<number>`avg(${ratings.stars})` })
        .from(ratings)
        .where(
          inArray(
            ratings.mod,
            rows.map(({ mod }) => mod.id),
          ),
        )
        .groupBy(ratings.mod)
        .all()
        .map((row) => [row.mod, row.stars]),
    );
    const ofMods = rows.map(({ mod }) => mod.id);
    const counts = new Map(
      this.database
        .select({ mod: versions.mod, sum: sql<number>`sum(${downloads.count})` })
        .from(downloads)
        .innerJoin(versions, eq(versions.id, downloads.version))
        .where(and(inArray(versions.mod, ofMods), isNull(versions.withdrawnAt)))
        .groupBy(versions.mod)
        .all()
        .map(({ mod, sum }) => [mod, sum]),
    );
    const place = new Map(ids.map((id, n) => [id, n]));
    return rows
      .sort((a, b) => place.get(a.version.id)! - place.get(b.version.id)!)
      .map(({ mod, version, organisation }) => ({
        name: mod.name,
        title: version.manifest.title,
        summary: version.manifest.description.slice(0, 240),
        profile: mod.profile,
        organisation,
        version: version.version,
        shareCode: version.shareCode,
        tags: version.manifest.about?.tags ?? [],
        downloads: counts.get(mod.id) ?? 0,
        stars: stars.get(mod.id) ?? null,
        updatedAt: mod.updatedAt,
      }));
  }
}
