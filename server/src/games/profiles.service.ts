import { existsSync, mkdirSync, readdirSync, readFileSync, realpathSync, rmSync } from 'node:fs';
import { join, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Inject, Injectable } from '@nestjs/common';
import { canonicalJson, sha256Hex } from '@violet-crate/core/hash';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { commandsOf } from '@violet-crate/core/setup/programs';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeWhole } from '@violet-crate/host/files';
import { resolveCommands, type ResolvedCommand } from '@violet-crate/host/setup/commands';
import type { GameInstall } from '@violet-crate/host/setup/readFacts';
import { eq } from 'drizzle-orm';
import { CONFIG, type Config } from '../config.ts';
import { Consents } from '../consents/consents.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { profileVersions } from '../database/schema.ts';
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

const subjectOf = ({ profile, folder }: GameInstall): string => `${profile.id} ${folder}`;
const realFolder = (folder: string): string => (existsSync(folder) ? realpathSync(folder) : folder);

export const profileHash = (profile: Profile): string => sha256Hex(canonicalJson(profile));

/** The profiles: those that ship, and those in the data folder, which the user adds and edits. */
@Injectable()
export class ProfilesService {
  private readonly shipped = new Map<string, Profile>();
  private readonly own = new Map<string, Profile>();
  private damaged: DamagedProfile[] = [];
  private readonly folder: string;

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    @Inject(DATABASE) private readonly database: Database,
    @Inject(Consents) private readonly consents: Consents,
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

  /** What a profile would run with an install, and whether that is allowed. */
  programs(game: GameInstall): { commands: ResolvedCommand[]; hash: string; allowed: boolean } {
    return { ...resolveCommands(game), allowed: this.isAllowed(game) };
  }

  /** Allows the programs of a profile with an install. `hash` is what the user has read: other ones are not allowed by it. */
  allow(game: GameInstall, hash: string): void {
    this.consents.give('programs', subjectOf(game), hash, resolveCommands(game).hash);
  }

  /** @throws Problem where nobody has allowed them, as they are now */
  needAllowed(game: GameInstall): void {
    if (!this.isAllowed(game))
      throw new Problem(
        403,
        'programs-unread',
        `The profile of ${game.profile.title} runs programs that you have not allowed yet, or that have changed. Read and allow its commands under Set-up, Programs and settings.`,
      );
  }

  /** Whether its programs may run: there are none, they are the demo's own, or the user has allowed these very ones. */
  isAllowed(game: GameInstall): boolean {
    if (commandsOf(game.profile).length === 0 || this.isOurs(game)) return true;
    return this.consents.holds('programs', subjectOf(game), resolveCommands(game).hash);
  }

  /** A profile as it ships, with an install that this application laid out itself. */
  isOurs({ profile, folder }: GameInstall): boolean {
    const shipped = this.shipped.get(profile.id);
    return shipped !== undefined && profileHash(shipped) === profileHash(profile) && folder.startsWith(realFolder(this.config.games) + sep);
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
