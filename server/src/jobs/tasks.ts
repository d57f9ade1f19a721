/** The long work, as it runs in a worker thread: pure core functions between plain messages. */

import { buildMap, type BuildResult } from '@violet-crate/core/stages/pipeline';
import type { BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import type { BuildStage, Quality } from '@violet-crate/core/stages/contract/stage';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { FileRecord } from '@violet-crate/core/crate/basePack';
import { readStockFile } from '@violet-crate/host/requiredCrates';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { packRelease } from '@violet-crate/core/release/pack';
import { platformOf, type PlatformPackage } from '@violet-crate/core/release/platform';
import { startView } from '@violet-crate/core/release/startView';
import { FRAMES_PER_SECOND, previewFrames } from '@violet-crate/core/release/moving';
import { picturesOf } from '@violet-crate/core/release/pictures';
import { animatedWebp } from '@violet-crate/host/animatedWebp';
import { renderThumbnail } from '@violet-crate/core/release/thumbnail';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import type { Finding } from '@violet-crate/core/finding';
import { authorKey } from '@violet-crate/host/authorKey';
import { stageCache } from '@violet-crate/host/files';
import { draughtsman } from '@violet-crate/host/draughtsman';
import { lightCrew } from '@violet-crate/host/lightCrew';
import { programRunner } from '@violet-crate/host/setup/runProgram';
import { BlobStore } from '@violet-crate/host/blobStore';

export interface BuildInput {
  world: CrateWorld;
  map: string;
  quality: Quality;
  parameters: Partial<BuildParameters>;
  only?: BuildStage;
  anyway: boolean;
  blobs: string;
  cache: string;
  /** Cores that light may take; all where it is left out. */
  threads?: number;
  /** Folder of the game's base pack, and of required crates. */
  base: string;
  required: string;
  /** The install whose programs run on the built map; null where they may not. */
  game: { folder: string; version: string } | null;
}

export interface BuildOutput extends Omit<BuildResult, 'artefacts'> {
  artefacts: FileRecord[];
  /** SHA-256 of a small picture of the built map; null where the build stopped. */
  picture: string | null;
}

export interface PackInput {
  world: CrateWorld;
  /** Artefacts of every map, by path and blob. */
  artefacts: FileRecord[];
  blobs: string;
  /** File of the author's key that it is signed with. */
  key: string;
  /** Ids of platforms that get a package of their own. */
  platforms: string[];
}

export interface PackOutput {
  manifest: ReleaseManifest;
  sha256: string;
  bytes: number;
  findings: Finding[];
  /** SHA-256 of the crate as it was, for telling what changed since. */
  contents: string;
  platforms: PlatformPackage[];
}

export interface Tasks {
  build: { input: BuildInput; output: BuildOutput };
  pack: { input: PackInput; output: PackOutput };
}

export type TaskKind = keyof Tasks;

export interface Reporter {
  progress(step: string, fraction: number): void;
  log(line: string): void;
  /** A program runs in a group of processes, or has ended. */
  program(group: number, running: boolean): void;
  /** What a running build looks like so far. */
  picture(map: string, files: FileTree): void;
}

/** Milliseconds between two pictures of a running build. */
const PICTURE_EVERY = 2000;

/** Width of the small picture of a result, in pixels. */
const PICTURE_WIDTH = 256;

/** Milliseconds between two signs of life of a build that waits for a program. */
const SIGN_OF_LIFE = 60_000;

/** Shares of the whole that the stages take, for one smooth bar. */
const STAGE_START: Record<BuildStage, [number, number]> = {
  check: [0, 0.03],
  geometry: [0.03, 0.06],
  ground: [0.06, 0.1],
  sealing: [0.1, 0.18],
  visibility: [0.18, 0.3],
  lighting: [0.3, 0.75],
  daylight: [0.75, 0.9],
  navigation: [0.9, 0.93],
  overview: [0.93, 0.94],
  packing: [0.94, 0.98],
  programs: [0.98, 1],
};

export const TASKS: { [K in TaskKind]: (input: Tasks[K]['input'], reporter: Reporter) => Promise<Tasks[K]['output']> } = {
  async build({ world, map, quality, parameters, only, anyway, blobs, cache, threads, base, required, game }, reporter) {
    const store = new BlobStore(blobs);
    let shown = -Infinity;
    // A program may work in silence for as long as its own limit allows: while it runs, the build is no build that hangs.
    let at = 0;
    let alive: NodeJS.Timeout | undefined;
    const result = await buildMap(world, map, {
      quality,
      parameters,
      only,
      anyway,
      cache: stageCache(cache),
      crew: lightCrew(threads),
      draughtsman,
      runProgram: game
        ? programRunner(
            game.folder,
            game.version,
            (line) => reporter.log(line),
            (group, running) => {
              reporter.program(group, running);
              clearInterval(alive);
              if (running) alive = setInterval(() => reporter.progress('programs', at), SIGN_OF_LIFE);
            },
          )
        : undefined,
      readFile: (path) => {
        const own = world.crate.files.find((file) => file.path === path);
        return Promise.resolve(own ? store.read(own.sha256) : readStockFile(base, required, world.required!.lock, path));
      },
      picture: {
        due: () => performance.now() - shown > PICTURE_EVERY,
        show: (files) => {
          shown = performance.now();
          reporter.picture(map, files);
        },
      },
      memory: () => process.memoryUsage.rss(),
      onProgress: (stage, fraction) => {
        const [from, to] = STAGE_START[stage];
        at = from + (to - from) * fraction;
        reporter.progress(stage, at);
      },
      onStage: (report) => reporter.log(`${report.stage}: ${report.state} in ${report.milliseconds} ms. ${report.summary}`),
    });
    const artefacts = [...(result.artefacts ?? [])].map(([path, bytes]) => ({ path, bytes: bytes.length, sha256: store.put(bytes) }));
    const glb = result.artefacts?.get(`maps/${map}/map.glb`);
    const view = { ...startView(world, map), width: PICTURE_WIDTH, height: (PICTURE_WIDTH * 9) / 16 };
    const picture = glb ? store.put(await renderThumbnail(glb, world.profile.unit.metres, view)) : null;
    return { ...result, artefacts, picture };
  },

  async pack({ world, artefacts, blobs, key, platforms: ids }, reporter) {
    const store = new BlobStore(blobs);
    const tree = new Map(artefacts.map((file) => [file.path, store.read(file.sha256)]));
    const main = world.crate.manifest.mainMap;
    const glb = tree.get(`maps/${main}/map.glb`)!;
    const hashes = new Map(world.crate.files.map((file) => [file.path, file.sha256]));
    const readFile = (path: string) => Promise.resolve(store.read(hashes.get(path)!));
    const { title, more } = await picturesOf(glb, world, readFile, (fraction) => reporter.progress('Pictures', 0.1 + 0.3 * fraction));
    const frames = await previewFrames(glb, world, (fraction) => reporter.progress('Moving preview', 0.4 + 0.2 * fraction));
    reporter.progress('Packing', 0.6);
    const inputs = {
      world,
      artefacts: tree,
      thumbnail: title,
      pictures: more,
      ...(frames.length > 0 ? { preview: await animatedWebp(frames, FRAMES_PER_SECOND) } : {}),
      sign: authorKey(key).sign,
      readFile,
    };
    const { manifest, zip, findings } = await packRelease(inputs);
    const platforms: PlatformPackage[] = [];
    for (const id of ids) {
      const platform = platformOf(world.profile, id);
      reporter.progress(`Packing for ${platform.title}`, 0.7 + (0.3 * platforms.length) / ids.length);
      const made = await packRelease({ ...inputs, platform });
      const known = new Set(findings.map(({ message }) => message));
      platforms.push({
        id,
        sha256: store.put(made.zip),
        bytes: made.zip.length,
        differences: made.differences,
        findings: made.findings.filter(({ message }) => !known.has(message)),
      });
    }
    const contents = store.put(new TextEncoder().encode(JSON.stringify(world.crate)));
    return { manifest, sha256: store.put(zip), bytes: zip.length, findings, contents, platforms };
  },
};
