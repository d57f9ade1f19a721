/** The keys of a build's stages, and their inputs in parts with names that people know. */

import { canonicalJson, sha256Hex } from '../hash.ts';
import type { CrateWorld } from '../crate/world.ts';
import { expandWorld } from '../map/prefab.ts';
import type { GameMap } from '../document/schema.ts';
import { own } from '../own.ts';
import { PARAMETERS, type BuildParameters } from './contract/parameters.ts';
import { BUILD_STAGES, partHash, STAGE_NEEDS, STAGE_REVISION, type BuildStage, type StageParts } from './contract/stage.ts';
import type { BuildInputs } from './freshness.ts';
import { stageInputs, type KeyedStage, type StageInputs } from './inputs.ts';

export interface BuildPlan extends BuildInputs {
  inputs: StageInputs;
  parts: Record<BuildStage, StageParts>;
  /** Key of every stage's result, as far as it follows from inputs alone. */
  keys: Record<BuildStage, string>;
}

/** @param given a world whose prefabs may still be folded */
export function planBuild(given: CrateWorld, mapName: string, parameters: BuildParameters): BuildPlan {
  const world = expandWorld(given);
  const inputs = stageInputs(world, mapName, parameters);
  const parts = { check: {} } as Record<BuildStage, StageParts>;
  const keys = { check: '' } as Record<BuildStage, string>;
  for (const stage of BUILD_STAGES) {
    if (stage === 'check') continue;
    parts[stage] = partsOf(inputs[stage], world.crate.maps[mapName]);
    const needs = STAGE_NEEDS[stage].map((need) => keys[need]);
    keys[stage] = sha256Hex(`${stage}/${STAGE_REVISION[stage]}\n${canonicalJson(inputs[stage])}\n${needs.join('\n')}`);
  }
  return { revisions: { ...STAGE_REVISION }, inputs, parts, keys };
}

/** Members of an input that is a record, each a part: what they are called. */
const RECORDS: Record<string, (key: string, map: GameMap) => string> = {
  solids: (id) => `solid ${id}`,
  dividers: (id) => `solid ${id}`,
  dark: (id) => `solid ${id}`,
  collision: (id) => `solid ${id}`,
  materials: (name) => `material ${name}`,
  types: (id) => `material type ${id}`,
  models: (path) => `model ${path}`,
  scripts: (path) => `script ${path.replace(/^scripts\//, '')}`,
  signals: (id) => `signal ${id}`,
  terrains: (id, map) => `ground ${own(map.terrains, id)?.name ?? id}`,
  tiles: (id, map) => `ground ${own(map.terrains, own(map.tiles, id)?.terrain ?? '')?.name ?? id}`,
  routes: (id, map) => `route ${own(map.routes, id)?.name ?? id}`,
  roads: (id, map) => `path ${own(map.paths, id)?.name ?? id}`,
  paths: (id, map) => `path ${own(map.paths, id)?.name ?? id}`,
  parameters: (id) => `parameter “${PARAMETERS.find((p) => p.id === id)?.label ?? id}”`,
};

/** Members that are objects of the map, whose own members are parts: `NAME|what`. */
const OBJECTS = new Set(['lights', 'objects', 'shown', 'places', 'stops', 'water']);

const WORDS: Record<string, string> = {
  sky: 'sky',
  luxel: 'luxel of the map',
  player: 'player of the game',
  climbs: 'what can be climbed',
  metresPerUnit: 'unit of the game',
  sealed: 'game’s rule on sealing',
  settings: 'settings of the map',
  feels: 'materials of the ground',
  albedo: 'colours of the ground',
  colours: 'colours of the ground',
  unit: 'unit of the game',
  sides: 'game’s map pictures',
  icons: 'game’s map icons',
  mostThings: 'game’s budget',
  programs: 'programs of the game',
  profile: 'game of the map',
  name: 'name of the map',
};

/** Every member of a stage's inputs lies in one part, so that whatever changes its key has a name. */
function partsOf(inputs: StageInputs[KeyedStage], map: GameMap): StageParts {
  const parts: StageParts = {};
  const put = (name: string, value: unknown) => {
    // Several members may share a name; a change of either is a change of it.
    const hash = partHash(value);
    parts[name] = parts[name] === undefined ? hash : partHash([parts[name], hash]);
  };
  const putAll = (record: object) => {
    for (const [field, value] of Object.entries(record) as [string, unknown][]) {
      if (field === 'map') putAll(value as object);
      else if (RECORDS[field]) for (const [key, member] of Object.entries(value as object)) put(RECORDS[field](key, map), member);
      else if (OBJECTS.has(field)) for (const [id, member] of Object.entries(value as object)) putObject(own(map.objects, id)?.name ?? id, member);
      else put(WORDS[field] ?? field, value);
    }
  };
  const putObject = (name: string, member: unknown) => {
    if (typeof member !== 'object' || member === null) return put(`${name}|model`, member);
    for (const [key, value] of Object.entries(member) as [string, unknown][])
      if (key === 'properties' || key === 'light') for (const [property, inner] of Object.entries(value as object)) put(`${name}|${property}`, inner);
      else put(`${name}|${key === 'shape' ? 'form' : key}`, value);
  };
  putAll(inputs);
  return parts;
}
