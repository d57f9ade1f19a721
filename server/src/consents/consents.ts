import { Inject, Injectable } from '@nestjs/common';
import { canonicalJson, sha256Hex } from '@violet-crate/core/hash';
import { and, eq } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.ts';
import { consents } from '../database/schema.ts';
import { Problem } from '../http/problem.ts';

/** What a user is asked about: programs of a profile, its settings and files on this machine, the git of a folder. */
export type ConsentKind = 'programs' | 'places' | 'git';

/** Hash of what was shown. */
export const consentHash = (shown: unknown): string => sha256Hex(canonicalJson(shown));

/**
 * What the user has said yes to, having seen it: one answer for each thing, which holds for the very content that was shown.
 * Whatever else is said of the same thing later is asked again.
 */
@Injectable()
export class Consents {
  constructor(@Inject(DATABASE) private readonly database: Database) {}

  holds(kind: ConsentKind, subject: string, hash: string): boolean {
    return this.row(kind, subject)?.hash === hash;
  }

  /** @throws Problem where what is meant is not what was shown */
  give(kind: ConsentKind, subject: string, hash: string, shown: string): void {
    if (hash !== shown) throw new Problem(409, 'consent-changed', 'This has changed since it was shown. Read it again.');
    this.database
      .insert(consents)
      .values({ kind, subject, hash, at: new Date().toISOString() })
      .onConflictDoUpdate({ target: [consents.kind, consents.subject], set: { hash, at: new Date().toISOString() } })
      .run();
  }

  private row(kind: ConsentKind, subject: string) {
    return this.database
      .select()
      .from(consents)
      .where(and(eq(consents.kind, kind), eq(consents.subject, subject)))
      .get();
  }
}
