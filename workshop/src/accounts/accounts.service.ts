import { createHash, randomBytes } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { and, desc, eq, gt, isNull } from 'drizzle-orm';
import { CONFIG, KEEPER, type Settings } from '../config.ts';
import { DATABASE, type Database } from '../database.ts';
import { Refusal } from '../refusal.ts';
import { accounts, letters, mails, members, organisations, sessions, tokens, type Scope } from '../schema.ts';
import { Limiter } from './limits.ts';
import { checkPassword, hashPassword, passwordProblem } from './password.ts';

export type Account = typeof accounts.$inferSelect;

/** Days that a browser stays signed in. */
const SESSION_DAYS = 14;

export const secretHash = (secret: string): string => createHash('sha256').update(secret).digest('hex');
const secret = (): string => randomBytes(24).toString('base64url');
const now = (): string => new Date().toISOString();

/** Accounts, and the ways in which somebody shows to be one. */
@Injectable()
export class AccountsService {
  /** Attempts at one account, from wherever, and from one address, at whichever. */
  private readonly byAccount = new Limiter(8, 60_000);
  private readonly byAddress = new Limiter(40, 60_000);
  private readonly signUps: Limiter;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) config: Settings,
  ) {
    this.signUps = new Limiter(config.rules.signUpsPerHour, 3_600_000);
    this.keeper(config.token);
  }

  get(id: number): Account {
    return this.database.select().from(accounts).where(eq(accounts.id, id)).get()!;
  }

  byName(name: string): Account | undefined {
    return this.database.select().from(accounts).where(eq(accounts.name, name.toLowerCase())).get();
  }

  /** @param from address of whoever asks */
  async signUp(from: string, given: { name: string; mail: string; password: string }): Promise<Account> {
    const name = given.name.trim().toLowerCase();
    const mail = given.mail.trim().toLowerCase();
    if (!/^[a-z][a-z0-9_-]{2,29}$/.test(name)) throw new Refusal(422, 'A name has 3 to 30 small letters, digits, - and _, and begins with a letter.');
    if (!/^[^\s@]{1,64}@[^\s@.]+(\.[^\s@.]+)+$/.test(mail) || mail.length > 200) throw new Refusal(422, 'That is no mail address.');
    const problem = passwordProblem(given.password, name);
    if (problem) throw new Refusal(422, problem);
    const taken = this.database.select().from(accounts).where(eq(accounts.mail, mail)).get();
    if (this.byName(name) || this.database.select().from(organisations).where(eq(organisations.name, name)).get())
      throw new Refusal(409, `The name ${name} is taken.`);
    if (this.signUps.blocked(from)) throw new Refusal(429, 'Too many accounts were opened from your address. Try again in an hour.');
    this.signUps.failed(from);
    const password = await hashPassword(given.password);
    // Whether an address has an account is told to whoever reads its mail, and to nobody else.
    if (taken) {
      this.send(
        mail,
        'You have an account already',
        `Somebody, perhaps you, wanted an account of this address. It is called ${taken.name}.`,
        '/sign-in',
      );
      return { ...taken, id: -1, name };
    }
    const account = this.enter({ name, mail, password });
    const code = this.letter({ kind: 'confirm', account: account.id });
    this.send(mail, 'Confirm your address', `Welcome to the Quayside Workshop, ${name}.`, `/confirm/${code}`);
    return account;
  }

  /** @param from address that is asked from, for slowing down guesses */
  async signIn(name: string, password: string, from: string): Promise<Account> {
    // Written as the account is, so that no other spelling is another one's.
    const who = name.normalize('NFKC').trim().toLowerCase();
    if (this.byAccount.blocked(who) || this.byAddress.blocked(from)) throw new Refusal(429, 'Too many attempts. Wait a minute.');
    // Counted before the password is looked at, which takes a while: many at once would all come through else.
    this.byAccount.failed(who);
    this.byAddress.failed(from);
    const account = this.byName(who);
    if (await checkPassword(password, account?.password ?? '')) {
      this.byAccount.passed(who);
      this.byAddress.takeBack(from);
      return account!;
    }
    throw new Refusal(401, 'Name or password is not right.');
  }

  /** A fresh session: whatever was known before signing in is worth nothing afterwards. */
  openSession(account: number, before?: string): string {
    if (before) this.closeSession(before);
    const value = secret();
    const expiresAt = new Date(Date.now() + SESSION_DAYS * 86_400_000).toISOString();
    this.database
      .insert(sessions)
      .values({ hash: secretHash(value), account, createdAt: now(), expiresAt })
      .run();
    return value;
  }

  closeSession(value: string): void {
    this.database
      .delete(sessions)
      .where(eq(sessions.hash, secretHash(value)))
      .run();
  }

  ofSession(value: string): Account | undefined {
    const row = this.database
      .select()
      .from(sessions)
      .where(and(eq(sessions.hash, secretHash(value)), gt(sessions.expiresAt, now())))
      .get();
    return row && this.get(row.account);
  }

  /** The token itself is answered once and never again. */
  makeToken(account: number, name: string, scopes: Scope[]): string {
    const value = `qw_${secret()}`;
    this.database
      .insert(tokens)
      .values({ hash: secretHash(value), account, name: name.trim().slice(0, 60) || 'token', scopes, createdAt: now() })
      .run();
    return value;
  }

  tokensOf(account: number) {
    return this.database.select().from(tokens).where(eq(tokens.account, account)).orderBy(desc(tokens.id)).all();
  }

  revoke(account: number, id: number): void {
    this.database
      .update(tokens)
      .set({ revokedAt: now() })
      .where(and(eq(tokens.id, id), eq(tokens.account, account)))
      .run();
  }

  ofToken(value: string): { account: Account; scopes: Scope[] } | undefined {
    const row = this.database
      .select()
      .from(tokens)
      .where(and(eq(tokens.hash, secretHash(value)), isNull(tokens.revokedAt)))
      .get();
    if (!row) return undefined;
    // Once a minute is enough to know that it is in use, and spares a write at every request.
    if (!row.usedAt || Date.now() - Date.parse(row.usedAt) > 60_000)
      this.database.update(tokens).set({ usedAt: now() }).where(eq(tokens.id, row.id)).run();
    return { account: this.get(row.account), scopes: row.scopes };
  }

  acceptTerms(account: number): void {
    this.database.update(accounts).set({ termsAt: now() }).where(eq(accounts.id, account)).run();
  }

  confirm(code: string): Account {
    const row = this.take(code, 'confirm');
    this.database.update(accounts).set({ confirmedAt: now() }).where(eq(accounts.id, row.account!)).run();
    return this.get(row.account!);
  }

  /** A link that stands in a mail; what it leads to is done once. */
  letter(of: { kind: 'confirm' | 'invitation' | 'enter'; account: number; invitation?: number; until?: string }): string {
    const code = secret();
    this.database
      .insert(letters)
      .values({ hash: secretHash(code), ...of })
      .run();
    return code;
  }

  /** @param holds whether it is for who asks: what is not stays as it is */
  take(code: string, kind: 'confirm' | 'invitation' | 'enter', holds: (letter: typeof letters.$inferSelect) => boolean = () => true) {
    const row = this.database
      .select()
      .from(letters)
      .where(and(eq(letters.hash, secretHash(code)), eq(letters.kind, kind)))
      .get();
    if (!row || row.usedAt || (row.until && row.until < now())) throw new Refusal(404, 'That link is not known, or was used already.');
    if (!holds(row)) throw new Refusal(403, 'That link is somebody else’s. Sign in as the account that it was sent to.');
    this.database.update(letters).set({ usedAt: now() }).where(eq(letters.hash, row.hash)).run();
    return row;
  }

  send(to: string, subject: string, body: string, link: string): void {
    this.database.insert(mails).values({ to, subject, body, link, at: now() }).run();
  }

  /** What was sent to the address of an account; its links are nobody else's. */
  mailbox({ mail }: Account) {
    return this.database.select().from(mails).where(eq(mails.to, mail)).orderBy(desc(mails.id)).limit(50).all();
  }

  /** A link by which a program that has a token lets its user in with a browser: once, within a minute. */
  entrance(account: number): string {
    return `/enter/${this.letter({ kind: 'enter', account, until: new Date(Date.now() + 60_000).toISOString() })}`;
  }

  private enter(values: { name: string; mail: string; password: string; confirmedAt?: string; termsAt?: string; moderator?: boolean }): Account {
    return this.database.transaction((tx) => {
      const account = tx
        .insert(accounts)
        .values({ ...values, createdAt: now() })
        .returning()
        .get();
      const own = tx.insert(organisations).values({ name: values.name, title: values.name, createdAt: now() }).returning().get();
      tx.insert(members).values({ organisation: own.id, account: account.id, role: 'owner' }).run();
      return account;
    });
  }

  /** Whoever runs this machine publishes without signing up: its workbench has the token. */
  private keeper(token: string): void {
    const at = now();
    const account =
      this.byName(KEEPER) ??
      this.enter({ name: KEEPER, mail: `${KEEPER}@this.machine`, password: '', confirmedAt: at, termsAt: at, moderator: true });
    if (this.ofToken(token)) return;
    this.database
      .insert(tokens)
      .values({ hash: secretHash(token), account: account.id, name: 'this machine', scopes: ['read', 'publish', 'manage'], createdAt: at })
      .run();
  }
}
