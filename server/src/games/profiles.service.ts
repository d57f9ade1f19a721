import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Inject, Injectable } from '@nestjs/common';
import { canonicalJson, sha256Hex } from '@violet-crate/core/hash';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { commandsOf, programsHash, type Command } from '@violet-crate/core/setup/programs';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeWhole } from '@violet-crate/host/files';
import { eq } from 'drizzle-orm';
import { CONFIG, type Config } from '../config.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { allowedPrograms, profileVersions } from '../database/schema.ts';
import { notFound, Problem } from '../http/problem.ts';

export interface ProfileEntry {
  id: string;
  title: string;
  description: string;
  version: string | null;
  /** Ships with the application: never changed, its programs are known to be harmless. */
  shipped: boolean;
  hash: string;
}

/** A profile's file that cannot be used, with the reason. */
export interface DamagedProfile {
  file: string;
  message: string;
}

export const profileHash = (profile: Profile): string => sha256Hex(canonicalJson(profile));

/** The profiles: those that ship, and those in the data folder, which the user adds and edits. */
@Injectable()
export class ProfilesService {
  private readonly shipped = new Map<string, Profile>();
  private readonly own = new Map<string, Profile>();
  private damaged: DamagedProfile[] = [];
  private readonly folder: string;

  constructor(
    @Inject(CONFIG) config: Config,
    @Inject(DATABASE) private readonly database: Database,
  ) {
    const shipped = join(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), '..');
    for (const name of readdirSync(shipped).sort()) {
      const profile = loadProfile(readFileSync(join(shipped, name), 'utf8'), name);
      this.shipped.set(profile.id, profile);
    }
    this.folder = join(config.data, 'profiles');
    mkdirSync(this.folder, { recursive: true });
    this.readOwn();
  }

  list(): Profile[] {
    return [...this.shipped.values(), ...this.own.values()];
  }

  entries(): { profiles: ProfileEntry[]; damaged: DamagedProfile[] } {
    return {
      profiles: this.list().map((profile) => ({
        id: profile.id,
        title: profile.title,
        description: profile.description,
        version: profile.version ?? null,
        shipped: this.shipped.has(profile.id),
        hash: profileHash(profile),
      })),
      damaged: this.damaged,
    };
  }

  get(id: string): Profile {
    const profile = this.shipped.get(id) ?? this.own.get(id);
    if (!profile) throw notFound(`profile ${id}`);
    return profile;
  }

  /** The profile as it was when a crate was made with it; as it is now where that is not kept. */
  version(id: string, hash: string | null): Profile {
    const now = this.get(id);
    if (!hash || profileHash(now) === hash) return now;
    return this.database.select().from(profileVersions).where(eq(profileVersions.hash, hash)).get()?.profile ?? now;
  }

  /** Keeps a profile as it is now for those who work with it; answers its hash. */
  keep(profile: Profile): string {
    const hash = profileHash(profile);
    this.database.insert(profileVersions).values({ hash, profile, at: new Date().toISOString() }).onConflictDoNothing().run();
    return hash;
  }

  /** Reads a profile's text without keeping it. @throws UnreadableInput with the place of what is wrong */
  read(text: string, file: string): Profile {
    return loadProfile(text, file);
  }

  /** Adds a profile or puts a changed one in the place of the old. Those that ship stay as they are. */
  save(text: string, file = 'the profile'): Profile {
    const profile = this.read(text, file);
    if (this.shipped.has(profile.id))
      throw new Problem(409, 'profile-shipped', `"${profile.id}" ships with the application and stays as it is. Give yours another id.`);
    writeWhole(join(this.folder, `${profile.id}.json`), new TextEncoder().encode(text.endsWith('\n') ? text : `${text}\n`));
    this.readOwn();
    return this.get(profile.id);
  }

  /** The text of a profile as it was written. */
  text(id: string): string {
    const file = join(this.folder, `${this.get(id).id}.json`);
    return existsSync(file) ? readFileSync(file, 'utf8') : `${JSON.stringify(this.get(id), null, 2)}\n`;
  }

  remove(id: string): void {
    if (this.shipped.has(id)) throw new Problem(409, 'profile-shipped', `${this.get(id).title} ships with the application and cannot be removed.`);
    this.get(id);
    rmSync(join(this.folder, `${id}.json`), { force: true });
    this.readOwn();
  }

  /** What a profile would run, and whether that is allowed. */
  programs(profile: Profile): { commands: Command[]; hash: string; allowed: boolean } {
    return { commands: commandsOf(profile), hash: programsHash(profile), allowed: this.isAllowed(profile) };
  }

  /** Allows the programs of a profile. `hash` is what the user has read: other ones are not allowed by it. */
  allow(id: string, hash: string): void {
    const profile = this.get(id);
    if (programsHash(profile) !== hash)
      throw new Problem(409, 'programs-changed', 'The commands have changed since they were shown. Read them again.');
    this.database.insert(allowedPrograms).values({ hash, profile: id, at: new Date().toISOString() }).onConflictDoNothing().run();
  }

  /** @throws Problem where the profile's programs are not those of a shipped one, and nobody has allowed them */
  needAllowed(profile: Profile): void {
    if (!this.isAllowed(profile))
      throw new Problem(
        403,
        'programs-unread',
        `The profile of ${profile.title} runs programs that you have not allowed yet. Read and allow its commands under Set-up.`,
      );
  }

  isAllowed(profile: Profile): boolean {
    const hash = programsHash(profile);
    const shipped = this.shipped.get(profile.id);
    if (shipped && programsHash(shipped) === hash) return true;
    return commandsOf(profile).length === 0 || this.database.select().from(allowedPrograms).where(eq(allowedPrograms.hash, hash)).get() !== undefined;
  }

  private readOwn(): void {
    this.own.clear();
    this.damaged = [];
    for (const name of readdirSync(this.folder).sort()) {
      if (!name.endsWith('.json')) continue;
      try {
        const profile = loadProfile(readFileSync(join(this.folder, name), 'utf8'), name);
        if (this.shipped.has(profile.id)) this.damaged.push({ file: name, message: `Its id "${profile.id}" is that of a profile that ships.` });
        else this.own.set(profile.id, profile);
      } catch (error) {
        if (!(error instanceof UnreadableInput)) throw error;
        this.damaged.push({ file: name, message: error.message });
      }
    }
  }
}
