import { Inject, Injectable } from '@nestjs/common';
import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm';
import type { Account } from '../accounts/accounts.service.ts';
import { Limiter } from '../accounts/limits.ts';
import { DATABASE, type Database } from '../database.ts';
import { ModsService, type Mod } from '../mods/mods.service.ts';
import { Refusal } from '../refusal.ts';
import { accounts, comments, mods, ratings, reports } from '../schema.ts';

const now = (): string => new Date().toISOString();
/** Milliseconds between two comments of one account. */
const PAUSE = 5000;

/** Comments, ratings, and what is reported to moderators. */
@Injectable()
export class TalkService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(ModsService) private readonly mods: ModsService,
  ) {}

  /** Reports of one account in an hour. */
  private readonly reported = new Limiter(10, 3_600_000);

  commentsOf = (mod: Mod) =>
    this.database
      .select({ id: comments.id, text: comments.text, at: comments.at, who: accounts.name })
      .from(comments)
      .innerJoin(accounts, eq(accounts.id, comments.account))
      .where(and(eq(comments.mod, mod.id), isNull(comments.hiddenAt)))
      .orderBy(desc(comments.id))
      .limit(200)
      .all();

  comment(mod: Mod, by: Account, given: string): void {
    const text = given.trim();
    if (text === '' || text.length > 4000) throw new Refusal(422, 'A comment has 1 to 4,000 characters.');
    const last = this.database.select().from(comments).where(eq(comments.account, by.id)).orderBy(desc(comments.id)).get();
    if (last && Date.now() - Date.parse(last.at) < PAUSE) throw new Refusal(429, 'Wait a moment before the next comment.');
    this.database.insert(comments).values({ mod: mod.id, account: by.id, text, at: now() }).run();
  }

  ratingOf(mod: Mod): { mean: number | null; count: number } {
    const [row] = this.database
      .select({ mean: sql<number | null>`avg(${ratings.stars})`, count: sql<number>`count(*)` })
      .from(ratings)
      .where(eq(ratings.mod, mod.id))
      .all();
    return row;
  }

  rate(mod: Mod, by: Account, stars: number): void {
    if (!Number.isInteger(stars) || stars < 1 || stars > 5) throw new Refusal(422, 'A rating is 1 to 5 stars.');
    if (this.mods.inside(mod, by)) throw new Refusal(403, 'One does not rate one’s own mod.');
    this.database
      .insert(ratings)
      .values({ mod: mod.id, account: by.id, stars })
      .onConflictDoUpdate({ target: [ratings.mod, ratings.account], set: { stars } })
      .run();
  }

  report(mod: Mod, by: Account, given: string, comment: number | null): void {
    const reason = given.trim().slice(0, 2000);
    if (reason === '') throw new Refusal(422, 'Say what is wrong.');
    const about = comment === null ? isNull(reports.comment) : eq(reports.comment, comment);
    const open = this.database
      .select({ id: reports.id })
      .from(reports)
      .where(and(eq(reports.mod, mod.id), eq(reports.account, by.id), about, isNull(reports.settledAt)))
      .get();
    if (open) throw new Refusal(409, 'You have reported this already. A moderator will look at it.');
    if (this.reported.blocked(by.name)) throw new Refusal(429, 'Too many reports at once. Try again in an hour.');
    this.reported.failed(by.name);
    this.database.insert(reports).values({ mod: mod.id, account: by.id, reason, comment, at: now() }).run();
  }

  openReports() {
    return this.database
      .select({
        id: reports.id,
        mod: mods.name,
        reason: reports.reason,
        at: reports.at,
        who: accounts.name,
        comment: comments.text,
        commentId: comments.id,
      })
      .from(reports)
      .innerJoin(mods, eq(mods.id, reports.mod))
      .innerJoin(accounts, eq(accounts.id, reports.account))
      .leftJoin(comments, eq(comments.id, reports.comment))
      .where(isNull(reports.settledAt))
      .orderBy(asc(reports.id))
      .all();
  }

  /** @param act takes the mod off the list, hides the comment, or leaves things as they are */
  settle(id: number, by: Account, act: 'unlist' | 'hide' | 'nothing'): void {
    if (!by.moderator) throw new Refusal(403, 'Only moderators settle reports.');
    const row = this.database.select().from(reports).where(eq(reports.id, id)).get();
    if (!row || row.settledAt) throw new Refusal(404, 'There is no such open report.');
    this.database.transaction((tx) => {
      if (act === 'unlist') tx.update(mods).set({ visibility: 'code', barredAt: now() }).where(eq(mods.id, row.mod)).run();
      if (act === 'hide' && row.comment !== null) tx.update(comments).set({ hiddenAt: now() }).where(eq(comments.id, row.comment)).run();
      tx.update(reports).set({ settledAt: now(), outcome: act }).where(eq(reports.id, id)).run();
    });
    this.mods.note(
      row.mod,
      by,
      { unlist: 'took it off the list after a report', hide: 'hid a comment after a report', nothing: 'settled a report' }[act],
    );
  }
}
