import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Inject, Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { mendMods } from '@violet-crate/host/modsFolder';
import { CONFIG, type Config } from '../config.ts';
import { notFound } from '../http/problem.ts';
import { readBasePack, type GameInstall } from './install.ts';

/** The profiles that ship with the application, and the games found for them. */
@Injectable()
export class GamesService implements OnApplicationBootstrap {
  private readonly profiles = new Map<string, Profile>();

  constructor(@Inject(CONFIG) private readonly config: Config) {
    const folder = join(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), '..');
    for (const name of readdirSync(folder).sort()) {
      const profile = loadProfile(readFileSync(join(folder, name), 'utf8'), name);
      this.profiles.set(profile.id, profile);
    }
  }

  /** Installations of mods that were killed are brought to an end before anybody looks. */
  onApplicationBootstrap(): void {
    for (const profile of this.list()) {
      const mods = join(this.install(profile.id).folder, profile.install.mods);
      try {
        mendMods(mods);
      } catch (error) {
        new Logger('games').warn(`${mods} could not be mended: ${String(error)}`);
      }
    }
  }

  list(): Profile[] {
    return [...this.profiles.values()];
  }

  profile(id: string): Profile {
    const profile = this.profiles.get(id);
    if (!profile) throw notFound(`profile ${id}`);
    return profile;
  }

  /** The install of a profile's game: where it lies, or where it would be expected. */
  install(id: string): GameInstall {
    const profile = this.profile(id);
    for (const name of existsSync(this.config.games) ? readdirSync(this.config.games) : []) {
      const folder = join(this.config.games, name);
      try {
        const version = JSON.parse(readFileSync(join(folder, profile.install.versionFile), 'utf8')) as { game?: string };
        if (version.game === id) return { profile, folder };
      } catch {
        // Not a game of this profile; go on looking.
      }
    }
    return { profile, folder: join(this.config.games, id) };
  }

  /** Where the stock files of a game lie. */
  basePackFolder(id: string): string {
    const { profile, folder } = this.install(id);
    return join(folder, profile.install.basePack);
  }

  basePack(id: string): BasePack {
    return readBasePack(this.install(id));
  }
}
