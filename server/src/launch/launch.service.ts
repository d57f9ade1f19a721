import { join } from 'node:path';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Finding } from '@violet-crate/core/finding';
import { localRelease } from '@violet-crate/core/release/pack';
import { GameRun, localName, placeLocal } from '@violet-crate/host/launchGame';
import { placeRequired } from '@violet-crate/host/requiredCrates';
import { Subject } from 'rxjs';
import { BlobStore } from '@violet-crate/host/blobStore';
import { BuildsService } from '../builds/builds.service.ts';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { gameVersion } from '@violet-crate/host/setup/readFacts';
import { runProgram } from '@violet-crate/host/setup/runProgram';
import { inInstall } from '@violet-crate/host/setup/places';
import { Problem } from '../http/problem.ts';

/** A game that runs, or ran last, with a crate. */
export interface LaunchView {
  crateId: string;
  map: string;
  running: boolean;
  startedAt: string;
  /** Lines of its log from `from` on; `from` counts all that there were. */
  lines: string[];
  from: number;
  findings: Finding[];
}

/** Lines and findings that are kept of one run. */
const LINES = 5000;
const FINDINGS = 200;

@Injectable()
export class LaunchService implements OnApplicationShutdown {
  /** A run has something new to say. */
  readonly said = new Subject<LaunchView>();
  private readonly views = new Map<string, LaunchView>();
  private readonly runs = new Map<string, GameRun>();

  constructor(
    private readonly crates: CratesService,
    private readonly builds: BuildsService,
    private readonly games: GamesService,
    private readonly profiles: ProfilesService,
    private readonly blobs: BlobStore,
    @Inject(CONFIG) private readonly config: Config,
  ) {
    crates.beforeRemoval.push(async (crateId) => {
      await this.runs.get(crateId)?.quit();
      this.views.delete(crateId);
    });
  }

  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.runs.values()].map((run) => run.quit()));
  }

  /** The last run of a crate with all its lines; null where there was none. */
  view(crateId: string): LaunchView | null {
    return this.views.get(crateId) ?? null;
  }

  /** Puts the built crate into the game's mods as a local copy, and starts the game. */
  async start(crateId: string, map: string): Promise<LaunchView> {
    if (this.runs.has(crateId)) throw new Problem(409, 'game-running', 'The game is running with this crate already. End it first.');
    const world = this.crates.world(crateId);
    if (!Object.hasOwn(world.crate.maps, map)) throw new Problem(422, 'map-unknown', `The crate has no map "${map}".`);
    const findings: Finding[] = [];
    const artefacts = new Map<string, Uint8Array>();
    for (const name of Object.keys(world.crate.maps)) {
      const build = this.builds.latestGood(crateId, name);
      if (!build) throw new Problem(409, 'build-missing', `Map ${name} is not built yet. Build it first.`);
      if (build.inputHash !== this.builds.inputHash(crateId, name))
        findings.push({
          code: 'launch-stale',
          severity: 'note',
          stage: 'trial',
          message: `Map ${name} was changed after it was built; the game shows it as it was built.`,
          hint: 'Build it again, or look at it in the test run, which takes edits in.',
          place: { map: name },
        });
      for (const { path, sha256 } of build.artefacts) artefacts.set(path, this.blobs.read(sha256));
    }
    const install = this.crates.game(crateId);
    if (!gameVersion(install)) throw new Problem(409, 'game-missing', `${install.profile.title} was not found; see Set-up.`);
    this.profiles.needAllowed({ ...install, profile: world.profile });
    this.games.needPrepared(install, 'trial');
    await this.place(crateId, world, artefacts, install.folder);
    for (const program of world.profile.programs ?? []) {
      if (program.at !== 'launch') continue;
      const mod = localName(world.crate.manifest.name);
      const values = {
        game: install.folder,
        in: join(install.folder, install.profile.install.mods, mod),
        map,
        name: mod,
        version: gameVersion(install) ?? '',
      };
      findings.push(...(await runProgram({ program, values, stage: 'trial' })).findings);
    }
    const view: LaunchView = { crateId, map, running: true, startedAt: new Date().toISOString(), lines: [], from: 0, findings };
    const run = new GameRun(
      { profile: world.profile, game: install.folder, mod: localName(world.crate.manifest.name), map },
      {
        line: (text, finding) => {
          view.lines.push(text);
          if (finding && findings.length < FINDINGS) findings.push(finding);
          if (view.lines.length > LINES) {
            view.from += LINES / 10;
            view.lines.splice(0, LINES / 10);
          }
          this.said.next(view);
        },
        ended: ({ finding }) => {
          if (finding) findings.push(finding);
          view.running = false;
          this.runs.delete(crateId);
          this.said.next(view);
        },
      },
    );
    this.views.set(crateId, view);
    this.runs.set(crateId, run);
    this.said.next(view);
    return view;
  }

  /** Tells a running game to load its scripts anew, as they are in the crate now, or another map. */
  async say(crateId: string, command: 'reload' | 'map', map?: string): Promise<LaunchView> {
    const run = this.running(crateId);
    const world = this.crates.world(crateId);
    // It goes into a line of the game's input: no other text than a name of a map may.
    if (map !== undefined && !Object.hasOwn(world.crate.maps, map)) throw new Problem(422, 'map-unknown', 'The crate has no such map.');
    if (command === 'reload') {
      const install = this.crates.game(crateId);
      const built = new Map<string, Uint8Array>();
      for (const name of Object.keys(world.crate.maps))
        for (const { path, sha256 } of this.builds.latestGood(crateId, name)?.artefacts ?? []) built.set(path, this.blobs.read(sha256));
      await this.place(crateId, world, built, install.folder);
    }
    if (!run.say(command, map)) throw new Problem(409, 'game-deaf', 'The game cannot be told that.');
    return this.views.get(crateId)!;
  }

  async quit(crateId: string): Promise<LaunchView> {
    await this.running(crateId).quit();
    return this.views.get(crateId)!;
  }

  private async place(crateId: string, world: CrateWorld, artefacts: FileTree, game: string): Promise<void> {
    const readFile = (path: string) => Promise.resolve(this.crates.readFile(crateId, path));
    placeLocal(world.profile, game, await localRelease({ world, artefacts, readFile }));
    placeRequired(this.config.required, this.crates.lock(crateId).lock, inInstall(game, world.profile.install.mods));
  }

  private running(crateId: string): GameRun {
    const run = this.runs.get(crateId);
    if (!run) throw new Problem(409, 'game-over', 'The game is not running with this crate.');
    return run;
  }
}
