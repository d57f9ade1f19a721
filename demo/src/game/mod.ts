/** A mod as a stand-in game opens it: every file that `release.json` names, and what the game refuses. */

import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  readCollision,
  readGlb,
  readKtx2,
  readNavigation,
  readProbes,
  readTerrain,
  readVisibility,
  Refusal,
  type CollisionGround,
  type CollisionSolid,
} from './readers.ts';

export interface GameObject {
  class: string;
  name: string;
  position: [number, number, number];
  properties: Record<string, unknown>;
  /** A script that runs for this object alone. */
  script?: string;
}
export interface Signal {
  from: string;
  event: string;
  to: { object: string; action: string } | { script: string };
  delay?: number;
  value?: string;
}
export interface LoadedMap {
  objects: Record<string, GameObject>;
  signals: Record<string, Signal>;
  scripts: string[];
  solids: CollisionSolid[];
  grounds: CollisionGround[];
  /** What was loaded, for the log. */
  words: string;
}
/** What the game knows of itself: its classes, in `profile.json` beside it. */
export interface GameData {
  folder: string;
  version: string;
  basePack: string;
  mods: string;
  player: { height: number; radius: number; gravity: number; reach: number };
  classes: Map<string, { parts: string[]; useEvent?: string }>;
  startup: string;
  /** Texts that a contest of each kind has to have. */
  contests: Map<string, string[]>;
}

const json = (file: string, what: string): Record<string, unknown> => {
  if (!existsSync(file)) throw new Refusal(`${what}: is missing`);
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as Record<string, unknown>;
  } catch {
    throw new Refusal(`${what}: is no JSON`);
  }
};

export function readGame(folder: string): GameData {
  const profile = json(join(folder, 'profile.json'), 'profile.json') as unknown as {
    install: { versionFile: string; basePack: string; mods: string };
    player: GameData['player'];
    classes: { id: string; parts: string[]; useEvent?: string }[];
    scripts: { startup: string };
    contests?: { id: string; texts: { id: string }[] }[];
  };
  const { version } = json(join(folder, profile.install.versionFile), profile.install.versionFile);
  return {
    folder,
    version: String(version),
    basePack: join(folder, profile.install.basePack),
    mods: join(folder, profile.install.mods),
    player: profile.player,
    classes: new Map(profile.classes.map(({ id, parts, useEvent }) => [id, { parts, useEvent }])),
    startup: profile.scripts.startup,
    contests: new Map((profile.contests ?? []).map(({ id, texts }) => [id, texts.map((text) => text.id)])),
  };
}

const series = (version: string): string => version.split('.').slice(0, 2).join('.');

/** Opens a mod and verifies its files. */
export function openMod(game: GameData, name: string): { folder: string; mainMap: string } {
  if (!/^[a-z][a-z0-9_]*$/.test(name)) throw new Refusal(`"${name}": names of mods are small letters, digits and underlines, without spaces`);
  const folder = join(game.mods, name);
  if (!existsSync(folder)) throw new Refusal(`mods/${name}: is missing`);
  const release = json(join(folder, 'release.json'), 'release.json') as unknown as {
    format: number;
    mainMap: string;
    gameVersion?: string;
    files: { path: string; bytes: number; sha256: string }[];
  };
  if (release.format !== 1) throw new Refusal(`release.json: format ${release.format}, this game reads 1`);
  if (release.gameVersion && series(release.gameVersion) !== series(game.version))
    throw new Refusal(`release.json: made for ${release.gameVersion}, this is ${game.version}`);
  for (const { path, bytes, sha256 } of release.files) {
    if (/\s/.test(path)) throw new Refusal(`${path}: names of files have no spaces`);
    const file = join(folder, path);
    if (!existsSync(file)) throw new Refusal(`${path}: is missing`);
    const content = readFileSync(file);
    if (content.length !== bytes || createHash('sha256').update(content).digest('hex') !== sha256)
      throw new Refusal(`${path}: is not what release.json says`);
  }
  return { folder, mainMap: release.mainMap };
}

export function loadMap(game: GameData, folder: string, name: string): LoadedMap {
  const place = join('maps', name);
  const read = (file: string): Uint8Array => {
    const path = join(folder, place, file);
    if (!existsSync(path)) throw new Refusal(`${place}/${file}: is missing`);
    return new Uint8Array(readFileSync(path));
  };
  const there = (file: string): boolean => existsSync(join(folder, place, file));
  const map = json(join(folder, place, 'map.json'), `${place}/map.json`) as unknown as LoadedMap & {
    format: number;
    models: Record<string, unknown>;
    routes?: Record<string, { name: string; stops: unknown[] }>;
  };
  if (map.format !== 1) throw new Refusal(`${place}/map.json: format ${map.format}, this game reads 1`);
  const starts = Object.values(map.objects).filter((object) => game.classes.get(object.class)?.parts.includes('start'));
  if (starts.length === 0) throw new Refusal(`${place}/map.json: has no start, so that nobody could play it`);
  for (const { class: of, name: own } of Object.values(map.objects))
    if (!game.classes.has(of)) throw new Refusal(`${place}/map.json: ${own} is of the class "${of}", which this game does not know`);
  for (const model of Object.keys(map.models)) {
    // What begins with mods/ is of another mod.
    const [, other] = /^mods\/(.+)$/.exec(model) ?? [];
    const file = [join(folder, model), join(game.basePack, model), ...(other ? [join(game.mods, other)] : [])].find(existsSync);
    if (!file) throw new Refusal(`${model}: is missing, ${other ? `in the mod ${other.split('/')[0]}` : 'in the mod and in the base pack'}`);
    readGlb(new Uint8Array(readFileSync(file)), model);
  }
  const { solids, grounds } = readCollision(read('collision.bin'));
  const { triangles, pictures } = readGlb(read('map.glb'), `${place}/map.glb`);
  const { sectors } = readVisibility(read('visibility.bin'));
  const words = [`${solids.length} solids`, `${triangles} triangles`, `${pictures} pictures`, `${sectors} sectors`];
  if (there('nav.bin')) words.push(`${readNavigation(read('nav.bin')).polygons} polygons to walk on`);
  if (there('terrain.bin'))
    for (const { id, triangles: ground, things } of readTerrain(read('terrain.bin'))) {
      readKtx2(read(`weights_${id}_0.ktx2`), `weights_${id}_0.ktx2`);
      words.push(`ground of ${ground} triangles with ${things} things on it`);
    }
  if (there('overview.json')) {
    const { pictures } = json(join(folder, place, 'overview.json'), `${place}/overview.json`) as {
      pictures: { file: string; width: number; height: number }[];
    };
    for (const { file } of pictures) if (read(file)[1] !== 0x50) throw new Refusal(`${place}/${file}: is no PNG`);
    words.push(`a map of ${pictures.map(({ width, height }) => `${width} × ${height}`).join(' and ')} to look at`);
  }
  if (there('probes.bin')) words.push(`${readProbes(read('probes.bin'))} probes`);
  if (there('lightmap.ktx2')) {
    const { width, height } = readKtx2(read('lightmap.ktx2'), 'lightmap.ktx2');
    words.push(`light of ${width} × ${height}`);
  }
  for (const { name: own, stops } of Object.values(map.routes ?? {})) words.push(`the route ${own} with ${stops.length} stops`);
  for (const script of map.scripts) if (!existsSync(join(folder, script))) throw new Refusal(`${script}: is missing`);
  return { objects: map.objects, signals: map.signals, scripts: map.scripts, solids, grounds, words: words.join(', ') };
}
