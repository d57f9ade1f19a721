import { Inject, Injectable } from '@nestjs/common';
import { and, asc, eq } from 'drizzle-orm';
import type { Account } from '../accounts/accounts.service.ts';
import { AccountsService } from '../accounts/accounts.service.ts';
import { DATABASE, type Database } from '../database.ts';
import { Refusal } from '../refusal.ts';
import { accounts, invitations, members, organisations, type Role } from '../schema.ts';

const now = (): string => new Date().toISOString();

/** Organisations, who is in them and as what. */
@Injectable()
export class OrganisationsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(AccountsService) private readonly accounts: AccountsService,
  ) {}

  byName(name: string) {
    const row = this.database.select().from(organisations).where(eq(organisations.name, name)).get();
    if (!row) throw new Refusal(404, `There is no organisation ${name}.`);
    return row;
  }

  get = (id: number) => this.database.select().from(organisations).where(eq(organisations.id, id)).get()!;

  roleIn(organisation: number, account: number | undefined): Role | null {
    if (account === undefined) return null;
    const row = this.database
      .select()
      .from(members)
      .where(and(eq(members.organisation, organisation), eq(members.account, account)))
      .get();
    return row?.role ?? null;
  }

  /** @throws Refusal where the account is not in it in one of the roles */
  need(organisation: number, account: number, ...roles: Role[]): void {
    const role = this.roleIn(organisation, account);
    if (!role) throw new Refusal(403, `You are not in ${this.get(organisation).title}.`);
    if (!roles.includes(role)) throw new Refusal(403, `A ${role} of ${this.get(organisation).title} may not do that.`);
  }

  ofAccount(account: number) {
    return this.database
      .select({ id: organisations.id, name: organisations.name, title: organisations.title, role: members.role })
      .from(members)
      .innerJoin(organisations, eq(organisations.id, members.organisation))
      .where(eq(members.account, account))
      .orderBy(asc(organisations.id))
      .all();
  }

  membersOf(organisation: number) {
    return this.database
      .select({ account: accounts.id, name: accounts.name, role: members.role })
      .from(members)
      .innerJoin(accounts, eq(accounts.id, members.account))
      .where(eq(members.organisation, organisation))
      .orderBy(asc(accounts.name))
      .all();
  }

  make(account: Account, given: { name: string; title: string }) {
    const name = given.name.trim().toLowerCase();
    if (!/^[a-z][a-z0-9_-]{2,29}$/.test(name)) throw new Refusal(422, 'A name has 3 to 30 small letters, digits, - and _, and begins with a letter.');
    if (this.accounts.byName(name) || this.database.select().from(organisations).where(eq(organisations.name, name)).get())
      throw new Refusal(409, `The name ${name} is taken.`);
    const title = given.title.trim().slice(0, 80) || name;
    return this.database.transaction((tx) => {
      const row = tx.insert(organisations).values({ name, title, createdAt: now() }).returning().get();
      tx.insert(members).values({ organisation: row.id, account: account.id, role: 'owner' }).run();
      return row;
    });
  }

  invite(organisation: number, by: Account, name: string, role: Role): void {
    this.need(organisation, by.id, 'owner');
    const account = this.accounts.byName(name.trim());
    if (!account) throw new Refusal(404, `There is no account ${name.trim().slice(0, 40)}.`);
    if (this.roleIn(organisation, account.id)) throw new Refusal(409, `${account.name} is in it already.`);
    const { title } = this.get(organisation);
    const row = this.database.insert(invitations).values({ organisation, account: account.id, role, at: now() }).returning().get();
    const code = this.accounts.letter({ kind: 'invitation', account: account.id, invitation: row.id });
    this.accounts.send(account.mail, `Come to ${title}`, `${by.name} asks you to be a ${role} of ${title}.`, `/invitation/${code}`);
  }

  /** Whoever is asked accepts, signed in as the account that was asked. */
  accept(code: string, account: Account): string {
    return this.database.transaction((tx) => {
      const letter = this.accounts.take(code, 'invitation', (one) => one.account === account.id);
      const row = tx.select().from(invitations).where(eq(invitations.id, letter.invitation!)).get();
      if (!row) throw new Refusal(404, 'That invitation was taken back.');
      tx.insert(members).values({ organisation: row.organisation, account: account.id, role: row.role }).onConflictDoNothing().run();
      tx.update(invitations).set({ acceptedAt: now() }).where(eq(invitations.id, row.id)).run();
      return this.get(row.organisation).name;
    });
  }

  /** Another role, or out of it where there is none. One owner always stays. */
  change(organisation: number, by: Account, account: number, role: Role | null): void {
    this.need(organisation, by.id, 'owner');
    const owners = this.membersOf(organisation).filter((member) => member.role === 'owner');
    if (role !== 'owner' && owners.length === 1 && owners[0].account === account)
      throw new Refusal(409, 'An organisation needs an owner: make somebody else one first.');
    const here = and(eq(members.organisation, organisation), eq(members.account, account));
    if (role === null) this.database.delete(members).where(here).run();
    else this.database.update(members).set({ role }).where(here).run();
  }
}
