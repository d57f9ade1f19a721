import { randomUUID } from 'node:crypto';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { fingerprint } from '@violet-crate/core/release/signature';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { GameRun } from '@violet-crate/host/launchGame';
import {
  clashes,
  enableMod,
  goBack,
  installMod,
  OtherSigner,
  listMods,
  modOrder,
  removeMod,
  setModOrder,
  updateOf,
  verifyMod,
  type Clash,
  type Installed,
  type Update,
} from '@violet-crate/host/mods';
import { gameVersion, type GameInstall } from '@violet-crate/host/setup/readFacts';
import { askWorkshop } from '@violet-crate/host/workshopClient';
import { inInstall } from '@violet-crate/host/setup/places';
import { eq } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.ts';
import { settings } from '../database/schema.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { Problem } from '../http/problem.ts';
import { SettingsService } from '../settings/settings.service.ts';

export interface ModView {
  name: string;
  title: string;
  version: string;
  description: string;
  authors: string[];
  enabled: boolean;
  /** A copy that its author put there to try it. */
  local: boolean;
  bytes: number;
  shareCode: string | null;
  before: string | null;
  /** Fingerprint of who signed it; null where nobody did, false where the signature is not of it. */
  signer: string | null | false;
  requires: Record<string, string>;
}

export interface ModsView {
  game: string;
  mods: ModView[];
  conflicts: Clash[];
  order: string[];
  /** A mod that the game runs with. */
  running: string | null;
}

/** The players' side: mods that are in a game. */
@Injectable()
export class ModsService implements OnApplicationShutdown {
  private run: { mod: string; game: GameRun } | null = null;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly games: GamesService,
    private readonly profiles: ProfilesService,
    private readonly settings: SettingsService,
  ) {}

  async onApplicationShutdown(): Promise<void> {
    await this.run?.game.quit();
  }

  view(profile: string): ModsView {
    const { mods, install } = this.folder(profile);
    const list = listMods(mods, install.folder);
    const order = modOrder(mods);
    return {
      game: install.folder,
      mods: list.map(({ name, manifest, enabled, bytes, from, before, signer }) => ({
        name,
        title: manifest.title,
        version: manifest.version,
        description: manifest.description,
        authors: manifest.authors,
        enabled,
        local: manifest.local === true,
        bytes,
        shareCode: from?.shareCode ?? null,
        before,
        signer: typeof signer === 'string' ? fingerprint(signer) : signer,
        requires: manifest.requires ?? {},
      })),
      conflicts: clashes(list, order),
      order,
      running: this.run?.mod ?? null,
    };
  }

  /** @param signers by name of a mod, who may sign it from now on, though somebody else did before */
  async install(profile: string, shareCode: string, signers: Record<string, string> = {}): Promise<Installed[]> {
    const { mods, install } = this.folder(profile);
    this.needIdle();
    this.games.needPrepared(install, 'publish');
    try {
      return await installMod(mods, profile, { ...this.settings.workshop(), shareCode, signers }, install.folder);
    } catch (error) {
      if (error instanceof OtherSigner) throw new Problem(409, error.code, `${error.message} ${error.hint}`, { signer: error.signer });
      throw error;
    }
  }

  /** What the workshop gives out instead of what is there, by name. One that does not answer is told once. */
  async updates(profile: string): Promise<{ updates: Record<string, Update>; problem: string | null }> {
    const { mods } = this.folder(profile);
    const updates: Record<string, Update> = {};
    try {
      for (const mod of listMods(mods)) {
        const update = await updateOf(mod, mod.from ? this.settings.tokenFor(mod.from.workshop) : null, this.installation());
        if (update) updates[mod.name] = update;
      }
      return { updates, problem: null };
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      return { updates, problem: error.message };
    }
  }

  verify(profile: string, name: string): { problem: string | null } {
    const { mods, install } = this.folder(profile);
    return { problem: verifyMod(mods, name, install.folder) };
  }

  change(profile: string, name: string, what: 'enable' | 'disable' | 'back' | 'remove', anyway: boolean): ModsView {
    const { mods, install } = this.folder(profile);
    this.needIdle();
    if (what === 'remove') removeMod(mods, name, anyway, install.folder);
    else if (what === 'back') goBack(mods, name, install.folder);
    else enableMod(mods, name, what === 'enable', anyway);
    return this.view(profile);
  }

  setOrder(profile: string, order: string[]): ModsView {
    setModOrder(this.folder(profile).mods, order);
    return this.view(profile);
  }

  /** Starts the game with a mod, at its main map. */
  play(profile: string, name: string): ModsView {
    const { mods, install } = this.folder(profile);
    this.needIdle();
    this.profiles.needAllowed(install);
    const mod = listMods(mods, install.folder).find((one) => one.name === name && one.enabled);
    if (!mod) throw new Problem(409, 'mod-disabled', `${name} is not there, or is disabled. Enable it first.`);
    const wrong = verifyMod(mods, name, install.folder);
    if (wrong) throw new Problem(409, 'mod-damaged', `${wrong} Install it again, or go back to the version before.`);
    const run = new GameRun(
      { profile: install.profile, game: install.folder, mod: name, map: mod.manifest.mainMap },
      { line: () => {}, ended: () => void (this.run?.game === run && (this.run = null)) },
    );
    this.run = { mod: name, game: run };
    return this.view(profile);
  }

  async quit(profile: string): Promise<ModsView> {
    await this.run?.game.quit();
    this.run = null;
    return this.view(profile);
  }

  /** Asked in the name of the user, so that what is private to their organisation is found too. */
  browse(profile: string, asked: [string, string][]): Promise<unknown> {
    const path = `/api/mods?${new URLSearchParams([...asked, ['profile', this.games.install(profile).profile.id]]).toString()}`;
    const { workshop, token } = this.settings.workshop();
    return askWorkshop(workshop, token, 'GET', path);
  }

  private folder(profile: string): { mods: string; install: GameInstall } {
    const install = this.games.install(profile);
    if (!gameVersion(install)) throw new Problem(409, 'game-missing', `${install.profile.title} was not found; see Set-up.`);
    return { mods: inInstall(install.folder, install.profile.install.mods), install };
  }

  private needIdle(): void {
    if (this.run) throw new Problem(409, 'game-running', `The game is running with ${this.run.mod}. End it first.`);
  }

  /** A number that this machine made up, so that the workshop can count versions in use without knowing anybody. */
  private installation(): string {
    const key = 'installation';
    const known = this.database.select().from(settings).where(eq(settings.key, key)).get();
    if (known) return known.value;
    const value = randomUUID();
    this.database.insert(settings).values({ key, value }).onConflictDoNothing().run();
    return value;
  }
}
