import { existsSync } from 'node:fs';
import { isAbsolute, join, resolve } from 'node:path';
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { checkInstall, type SetupCheck } from '@violet-crate/core/setup/checks';
import type { InstallFacts } from '@violet-crate/core/setup/facts';
import { setupReport } from '@violet-crate/core/setup/report';
import type { Finding, Stage } from '@violet-crate/core/finding';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { mendMods } from '@violet-crate/host/modsFolder';
import { findGames, gameIn, installId, type FoundGame } from '@violet-crate/host/setup/findGames';
import { inInstall, placesOf, type Places } from '@violet-crate/host/setup/places';
import { doStep, stepStates, type StepState } from '@violet-crate/host/setup/preparation';
import { gameVersion, readFacts, readStock, type GameInstall } from '@violet-crate/host/setup/readFacts';
import { repairInstall } from '@violet-crate/host/setup/repair';
import { watch as watchFiles, type FSWatcher } from 'chokidar';
import { and, eq } from 'drizzle-orm';
import { CONFIG, type Config } from '../config.ts';
import { consentHash, Consents } from '../consents/consents.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { installs, prepared } from '../database/schema.ts';
import { Problem } from '../http/problem.ts';
import { Notices } from '../notices/notices.ts';
import { ProfilesService } from './profiles.service.ts';

/** Milliseconds after which a game that is being updated is looked at. */
const SETTLE = 500;

const placesSubject = ({ profile, folder }: GameInstall): string => `${profile.id} ${folder}`;

/** The games on this machine: where they are, whether all is in order, and what is to be done once. */
@Injectable()
export class GamesService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly machine: Places;
  private watcher: FSWatcher | undefined;
  private settling: NodeJS.Timeout | undefined;
  private watched = new Set<string>();
  /** Folders that crates are made with, there or not, by the id that addresses have for them. */
  private readonly named = new Map<string, string>();

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    @Inject(DATABASE) private readonly database: Database,
    @Inject(ProfilesService) private readonly profiles: ProfilesService,
    @Inject(Notices) private readonly notices: Notices,
    @Inject(Consents) private readonly consents: Consents,
  ) {
    this.machine = placesOf(config.games);
  }

  /** Installations of mods that were killed are brought to an end before anybody looks. */
  onApplicationBootstrap(): void {
    for (const profile of this.list())
      for (const { folder } of this.installs(profile.id)) {
        try {
          mendMods(inInstall(folder, profile.install.mods));
        } catch (error) {
          new Logger('games').warn(`${join(folder, profile.install.mods)} could not be mended: ${String(error)}`);
        }
      }
    this.follow();
  }

  async onApplicationShutdown(): Promise<void> {
    clearTimeout(this.settling);
    await this.watcher?.close();
  }

  list(): Profile[] {
    return this.profiles.list();
  }

  profile(id: string): Profile {
    return this.profiles.get(id);
  }

  /** All installs of a game, the one that is used unless a crate says otherwise first. */
  installs(id: string): FoundGame[] {
    const chosen = this.database.select({ folder: installs.folder }).from(installs).where(eq(installs.profile, id)).all();
    return findGames(
      this.profile(id),
      this.machine,
      chosen.map(({ folder }) => folder),
    );
  }

  /** @param folder of the install that is meant; the first that is found without it, or where one would be expected */
  install(id: string, folder?: string | null): GameInstall {
    const profile = this.profile(id);
    const chosen = folder ?? this.installs(id)[0]?.folder ?? join(this.config.games, id);
    this.named.set(installId(chosen), chosen);
    return { profile, folder: chosen };
  }

  /** An install by its id, as addresses name it; without one the first. */
  installById(id: string, install?: string): GameInstall {
    if (install === undefined || install === '') return this.install(id);
    // A crate's game may be gone from where it was, and is named all the same: its checks say so.
    const folder = this.installs(id).find((one) => one.id === install)?.folder ?? this.named.get(install);
    if (!folder) throw new Problem(404, 'install-unknown', `There is no such install of ${this.profile(id).title} any more.`);
    return this.install(id, folder);
  }

  /** Takes a folder of this machine as an install. */
  addInstall(id: string, folder: string): FoundGame {
    const profile = this.profile(id);
    if (!isAbsolute(folder)) throw new Problem(422, 'install-folder', 'Give the whole path of the folder, from the root of the disk.');
    const path = resolve(folder);
    if (!existsSync(path)) throw new Problem(422, 'install-folder', `There is no folder ${path} on this machine.`);
    if (!gameIn(profile, path)) {
      const other = this.list().find((one) => one.id !== id && gameIn(one, path));
      throw new Problem(
        422,
        'install-folder',
        other
          ? `${path} holds ${other.title}, not ${profile.title}.`
          : `${path} does not hold ${profile.title}: ${profile.install.versionFile} of this game is not in it. Choose the folder that it is in, not one above or below.`,
      );
    }
    this.database.insert(installs).values({ folder: path, profile: id, addedAt: new Date().toISOString() }).onConflictDoNothing().run();
    this.changed();
    return this.installs(id).find((one) => one.id === installId(path) || one.folder === path) ?? this.installs(id)[0];
  }

  /** Forgets a folder that was chosen by hand. Nothing on disk is touched. */
  forgetInstall(id: string, install: string): void {
    const found = this.installs(id).find((one) => one.id === install);
    if (!found) throw new Problem(404, 'install-unknown', `There is no such install of ${this.profile(id).title} any more.`);
    const { changes } = this.database.delete(installs).where(eq(installs.folder, found.folder)).run();
    if (changes === 0)
      throw new Problem(
        409,
        'install-found',
        `${found.folder} was found ${found.how} and would be found again. Only a folder that you chose can be forgotten.`,
      );
    this.changed();
  }

  /** What is seen of an install; its tools are run to ask for their version only where the user allowed that. */
  facts(game: GameInstall, hash = true): Promise<InstallFacts> {
    return readFacts(game, { hash, ask: this.profiles.isAllowed(game) });
  }

  async checks(game: GameInstall, hash = true): Promise<SetupCheck[]> {
    return checkInstall(game.profile, await this.facts(game, hash));
  }

  async report(game: GameInstall, withPaths: boolean): Promise<string> {
    const facts = await this.facts(game);
    const { home, games } = this.machine;
    const personal: [string, string][] = withPaths
      ? []
      : [
          [game.folder, '[game]'],
          [games, '[games]'],
          [this.config.data, '[data]'],
          [home, '~'],
        ];
    return setupReport(
      game.profile,
      facts,
      checkInstall(game.profile, facts),
      personal.sort((a, b) => b[0].length - a[0].length),
    );
  }

  repair(game: GameInstall, action: string): string {
    return repairInstall(game, action);
  }

  preparation(game: GameInstall): StepState[] {
    return stepStates(game, this.machine, this.records(game));
  }

  /** Ticks a step that is done by hand, or takes its tick back. */
  tick(game: GameInstall, id: string, done: boolean): void {
    const step = game.profile.preparation?.find((one) => one.id === id);
    if (!step) throw new Problem(404, 'step-unknown', `There is no step "${id}" in the profile of ${game.profile.title}.`);
    if (step.done.when !== 'hand') throw new Problem(422, 'step-by-rule', `"${step.title}" ticks itself: ${step.how}`);
    if (done) this.record(game, id);
    else
      this.database
        .delete(prepared)
        .where(and(eq(prepared.install, game.folder), eq(prepared.step, id)))
        .run();
  }

  async doStep(game: GameInstall, id: string): Promise<{ done: string; findings: Finding[] }> {
    const step = game.profile.preparation?.find((one) => one.id === id);
    if (step?.offer?.do === 'run') this.profiles.needAllowed(game);
    if (step?.offer?.do === 'write') this.needPlaces(game);
    const { message, findings, ran } = await doStep(game, this.machine, id);
    if (ran) this.record(game, `ran:${ran}`);
    return { done: message, findings };
  }

  /** What the steps of a profile would write on this machine, and whether the user has said yes to that. */
  places(game: GameInstall): { writes: NonNullable<StepState['writes']>[]; hash: string; allowed: boolean } {
    const writes = stepStates(game, this.machine, new Set()).flatMap(({ writes: one }) => one ?? []);
    const hash = consentHash(writes);
    return { writes, hash, allowed: writes.length === 0 || this.profiles.isOurs(game) || this.consents.holds('places', placesSubject(game), hash) };
  }

  allowPlaces(game: GameInstall, hash: string): void {
    this.consents.give('places', placesSubject(game), hash, this.places(game).hash);
  }

  private needPlaces(game: GameInstall): void {
    if (!this.places(game).allowed)
      throw new Problem(
        403,
        'places-unread',
        `The profile of ${game.profile.title} writes settings that you have not seen yet. Read and allow them under Set-up, Programs and settings.`,
      );
  }

  /** @throws Problem where a step is not done that a stage needs */
  needPrepared(game: GameInstall, stage: Stage): void {
    const open = this.preparation(game).filter(({ step, done }) => !done && step.concerns.includes(stage));
    if (open.length > 0)
      throw new Problem(
        409,
        'not-prepared',
        `${game.profile.title} is not prepared for that: ${open.map(({ step }) => step.title).join('; ')}. See Set-up.`,
      );
  }

  /** Where the stock files of a game lie. */
  basePackFolder({ profile, folder }: GameInstall): string {
    return inInstall(folder, profile.install.basePack);
  }

  basePack(game: GameInstall): BasePack {
    return readStock(game);
  }

  version(game: GameInstall): string | null {
    return gameVersion(game);
  }

  private records({ folder }: GameInstall): Set<string> {
    return new Set(
      this.database
        .select({ step: prepared.step })
        .from(prepared)
        .where(eq(prepared.install, folder))
        .all()
        .map(({ step }) => step),
    );
  }

  private record({ folder }: GameInstall, step: string): void {
    this.database.insert(prepared).values({ install: folder, step, at: new Date().toISOString() }).onConflictDoNothing().run();
  }

  /** Tells open pages that games are other than they were, and watches those that are there now. */
  changed(): void {
    this.follow();
    this.notices.games.next({});
  }

  /** Watches the version file of every install: a game that is updated or moved away is noticed at once. */
  private follow(): void {
    const wanted = new Set<string>();
    for (const profile of this.list()) for (const { folder } of this.installs(profile.id)) wanted.add(join(folder, profile.install.versionFile));
    if (wanted.size === this.watched.size && [...wanted].every((file) => this.watched.has(file))) return;
    void this.watcher?.close();
    this.watched = wanted;
    if (wanted.size === 0) return;
    this.watcher = watchFiles([...wanted], { ignoreInitial: true, followSymlinks: false });
    this.watcher.on('all', () => {
      clearTimeout(this.settling);
      this.settling = setTimeout(() => this.changed(), SETTLE);
    });
    this.watcher.on('error', () => {});
  }
}
