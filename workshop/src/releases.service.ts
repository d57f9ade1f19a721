import { randomInt } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { sha256Hex } from '@violet-crate/core/hash';
import { openRelease } from '@violet-crate/core/release/pack';
import { and, desc, eq, sql } from 'drizzle-orm';
import { DATABASE, type Database } from './database.ts';
import { Refusal } from './refusal.ts';
import { releases } from './schema.ts';

/** Letters and digits that are not mistaken for one another when read aloud. */
const ALPHABET = '23456789ABCDEFGHJKMNPQRSTVWXYZ';

const newShareCode = (): string => {
  const letters = Array.from({ length: 8 }, () => ALPHABET[randomInt(ALPHABET.length)]).join('');
  return `${letters.slice(0, 4)}-${letters.slice(4)}`;
};

const SHOWN = {
  shareCode: releases.shareCode,
  name: releases.name,
  title: releases.title,
  description: releases.description,
  version: releases.version,
  profile: releases.profile,
  authors: releases.authors,
  credits: releases.credits,
  bytes: releases.bytes,
  sha256: releases.sha256,
  publishedAt: releases.publishedAt,
  downloads: releases.downloads,
};

@Injectable()
export class ReleasesService {
  constructor(@Inject(DATABASE) private readonly database: Database) {}

  list() {
    return this.database.select(SHOWN).from(releases).orderBy(desc(releases.publishedAt)).all();
  }

  get(shareCode: string) {
    const row = this.database.select(SHOWN).from(releases).where(eq(releases.shareCode, shareCode.toUpperCase())).get();
    if (!row) throw new Refusal(404, `There is no release with the share code ${shareCode}.`);
    return row;
  }

  content(shareCode: string, part: 'package' | 'thumbnail'): Buffer {
    this.get(shareCode);
    const row = this.database.select({ content: releases[part] }).from(releases).where(eq(releases.shareCode, shareCode.toUpperCase())).get()!;
    if (part === 'package')
      this.database
        .update(releases)
        .set({ downloads: sql`${releases.downloads} + 1` })
        .where(eq(releases.shareCode, shareCode.toUpperCase()))
        .run();
    return row.content;
  }

  /** Takes a package after verifying every file in it. The same package again is the same release. */
  publish(zip: Uint8Array) {
    const { manifest, tree } = openRelease(zip, 'The package');
    const sha256 = sha256Hex(zip);
    const same = this.database.select({ shareCode: releases.shareCode }).from(releases).where(eq(releases.sha256, sha256)).get();
    if (same) return this.get(same.shareCode);
    const taken = this.database
      .select({ shareCode: releases.shareCode })
      .from(releases)
      .where(and(eq(releases.name, manifest.name), eq(releases.version, manifest.version)))
      .get();
    if (taken)
      throw new Refusal(
        409,
        `${manifest.title} ${manifest.version} is already published as ${taken.shareCode}. Raise the version to publish a change.`,
      );
    const { name, title, description, version, profile, authors, credits } = manifest;
    const shareCode = newShareCode();
    this.database
      .insert(releases)
      .values({
        shareCode,
        name,
        title,
        description,
        version,
        profile,
        authors,
        credits,
        bytes: zip.length,
        sha256,
        package: Buffer.from(zip),
        thumbnail: Buffer.from(tree.get('thumbnail.png')!),
        publishedAt: new Date().toISOString(),
      })
      .run();
    return this.get(shareCode);
  }
}
