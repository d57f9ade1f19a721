/** Gives an asset or material another name and follows it through manifest, maps and scripts. */

import { FILE_KINDS } from '../crate/assetKind.ts';
import { diffMaps, type MapEdit } from '../document/edit.ts';
import { replacedMaterial } from '../map/member/find.ts';
import { prefabsOf, type FindPrefab } from '../document/prefabGraph.ts';
import type { Copy, MapObject, Signal, Solid, Terrain, MapSettings } from '../document/schema.ts';
import { classOf } from '../profile/schema.ts';
import { globalName, replaceAt } from '../script/names.ts';
import { replaceStrings } from '../script/strings.ts';
import { previewPath } from '../crate/contents.ts';
import type { AssetRecord, CrateManifest, CrateMaterial } from '../crate/manifest.ts';
import { writeTalk } from '../talk/document.ts';
import { talksOf } from '../talk/talks.ts';
import { MATERIAL_PICTURES } from './usage.ts';
import type { CrateWorld } from '../crate/world.ts';

export interface Renaming {
  manifest: CrateManifest;
  /** Edits by map: one each, so that one undo takes it back. */
  edits: Record<string, MapEdit>;
  /** New text of the scripts that change. */
  scripts: Record<string, string>;
  /** New text of tables and conversations that change. */
  data?: Record<string, string>;
  /** Files that move: from, to. */
  moves: [string, string][];
}

const folderAndEnding = (path: string): [string, string] => {
  const [, folder, ending] = /^([^/]+\/).*?(\.[^.]+)$/.exec(path)!;
  return [folder, ending];
};

export function renamedPath(path: string, name: string): string {
  const [folder, ending] = folderAndEnding(path);
  return folder + name + ending;
}

/** Materials that take a picture, with another in its place. */
export const picturesFollow = (materials: readonly CrateMaterial[], from: string, to: string): CrateMaterial[] =>
  materials.map((material) => {
    const next = { ...material };
    for (const picture of MATERIAL_PICTURES) if (next[picture] === from) next[picture] = to;
    return next;
  });

/** What has to follow when an asset's file gets another path: maps and scripts. */
export const followPath = (world: CrateWorld, from: string, to: string): Pick<Renaming, 'edits' | 'scripts' | 'data'> => ({
  data: changedData(world, from, to),
  edits: mapEdits(world, `Rename ${from} to ${to}`, FILE_KINDS, from, to),
  scripts: changedScripts(world, from, to),
});

export function renameAsset(world: CrateWorld, path: string, name: string): Renaming {
  const { manifest } = world.crate;
  const to = renamedPath(path, name);
  const record = manifest.assets[path];
  const moves: [string, string][] = [[path, to]];
  const renamed: AssetRecord = { ...record };
  if (world.crate.files.some((file) => file.path === previewPath(path))) moves.push([previewPath(path), previewPath(to)]);
  if (record) {
    // Sources live under the asset's name; files that came along lie in a folder of that name.
    const [, ending] = folderAndEnding(record.source);
    const folder = record.source.slice(0, record.source.length - ending.length);
    const moved = folder.replace(/[^/]+$/, name);
    renamed.source = moved + ending;
    for (const file of world.crate.files)
      if (file.path === record.source) moves.push([file.path, renamed.source]);
      else if (file.path.startsWith(`${folder}/`)) moves.push([file.path, moved + file.path.slice(folder.length)]);
  }
  const assets = Object.fromEntries(Object.entries(manifest.assets).map(([key, value]) => (key === path ? [to, renamed] : [key, value])));
  const materials = picturesFollow(manifest.materials, path, to);
  const origin = manifest.scriptOrigins?.[path];
  const { [path]: _old, ...others } = manifest.scriptOrigins ?? {};
  return {
    manifest: { ...manifest, assets, materials, ...(origin ? { scriptOrigins: { ...others, [to]: origin } } : {}) },
    ...followPath(world, path, to),
    moves,
  };
}

/** Has all that uses one material use another: maps, scripts, slots of models. */
export function followMaterial(world: CrateWorld, from: string, to: string): Pick<Renaming, 'manifest' | 'edits' | 'scripts'> {
  const { manifest } = world.crate;
  const inOptions = (record: AssetRecord): AssetRecord => {
    const chosen = record.options.materials as Record<string, string> | undefined;
    const materials = chosen && Object.fromEntries(Object.entries(chosen).map(([slot, material]) => [slot, material === from ? to : material]));
    return {
      ...record,
      options: materials ? { ...record.options, materials } : record.options,
      slots: record.slots?.map((slot) => (slot.material === from ? { ...slot, material: to } : slot)),
    };
  };
  return {
    manifest: {
      ...manifest,
      assets: Object.fromEntries(Object.entries(manifest.assets).map(([path, record]) => [path, record.slots ? inOptions(record) : record])),
    },
    edits: mapEdits(world, `Rename material ${from} to ${to}`, ['material'], from, to),
    scripts: changedScripts(world, from, to),
  };
}

export function renameMaterial(world: CrateWorld, from: string, to: string): Renaming {
  const followed = followMaterial(world, from, to);
  const materials = followed.manifest.materials.map((material) => (material.name === from ? { ...material, name: to } : material));
  return { ...followed, manifest: { ...followed.manifest, materials }, moves: [] };
}

/** Gives a global function of the scripts another name, with all that call it: scripts, signals, properties of objects, prefabs. */
export function renameFunction(world: CrateWorld, from: string, to: string): Pick<Renaming, 'edits' | 'scripts' | 'data'> {
  const { occurrences } = globalName(world.crate.scripts, from);
  const scripts: Record<string, string> = {};
  for (const [path, source] of Object.entries(world.crate.scripts)) {
    const own = occurrences.filter((one) => one.path === path);
    if (own.length > 0) scripts[path] = replaceAt(source, own, to);
  }
  const inSignal = (signal: Signal): Signal => ('script' in signal.to && signal.to.script === from ? { ...signal, to: { script: to } } : signal);
  const data = Object.fromEntries(
    talksOf(world.crate.data).talks.flatMap(({ path, talk }) => {
      const calls = talk.steps.some((step) => step.do === 'call' && step.function === from);
      const steps = talk.steps.map((step) => (step.do === 'call' && step.function === from ? { ...step, function: to } : step));
      return calls ? [[path, writeTalk({ ...talk, steps })] as const] : [];
    }),
  );
  return { scripts, data, edits: mapEdits(world, `Rename ${from}() to ${to}()`, ['script'], from, to, inSignal) };
}

function mapEdits(
  world: CrateWorld,
  name: string,
  types: readonly string[],
  from: string,
  to: string,
  inSignal?: (signal: Signal) => Signal,
): Record<string, MapEdit> {
  const inSolid = (solid: Solid): Solid => (types.includes('material') ? (replacedMaterial(solid, from, to) ?? solid) : solid);
  const inObject = (object: MapObject): MapObject => {
    const named = (classOf(world.profile, object.class)?.properties ?? []).filter((p) => types.includes(p.type) && object.properties[p.id] === from);
    const renamed =
      named.length > 0 ? { ...object, properties: { ...object.properties, ...Object.fromEntries(named.map((p) => [p.id, to])) } } : object;
    return object.script === from ? { ...renamed, script: to } : renamed;
  };
  const inValues = (copy: Copy, find: FindPrefab): Copy => {
    const named = (find(copy.prefab)?.parameters ?? []).filter(({ id, object, property }) => {
      const type = classOf(world.profile, find(copy.prefab)!.objects[object]?.class ?? '')?.properties.find((one) => one.id === property)?.type;
      return type !== undefined && types.includes(type) && copy.values[id] === from;
    });
    return named.length === 0 ? copy : { ...copy, values: { ...copy.values, ...Object.fromEntries(named.map(({ id }) => [id, to])) } };
  };
  const inTerrain = (terrain: Terrain): Terrain => {
    const surfaces = types.includes('material') && terrain.surfaces.some(({ material }) => material === from);
    const things = types.includes('model') && terrain.things.some(({ model }) => model === from);
    if (!surfaces && !things) return terrain;
    return {
      ...terrain,
      surfaces: terrain.surfaces.map((surface) => (surfaces && surface.material === from ? { ...surface, material: to } : surface)),
      things: terrain.things.map((thing) => (things && thing.model === from ? { ...thing, model: to } : thing)),
    };
  };
  const inSettings = (settings: MapSettings): MapSettings => {
    const sounds = types.includes('sound') && settings.beds?.some(({ loops, shots }) => [...loops, ...shots].some(({ sound }) => sound === from));
    const sky = types.includes('material') && settings.skyMaterial === from;
    if (!sounds && !sky) return settings;
    const follow = <L extends { sound: string }>(layer: L): L => (layer.sound === from ? { ...layer, sound: to } : layer);
    return {
      ...settings,
      ...(sky ? { skyMaterial: to } : {}),
      ...(sounds ? { beds: settings.beds!.map((bed) => ({ ...bed, loops: bed.loops.map(follow), shots: bed.shots.map(follow) })) } : {}),
    };
  };
  const inAll = <T>(members: Record<string, T>, change: (member: T) => T): Record<string, T> =>
    Object.fromEntries(Object.entries(members).map(([id, member]) => [id, change(member)]));
  const edits: Record<string, MapEdit> = {};
  for (const [mapName, map] of Object.entries(world.crate.maps)) {
    const find = prefabsOf(map, world.profile);
    const renamed = {
      ...map,
      terrains: inAll(map.terrains, inTerrain),
      copies: inAll(map.copies, (copy) => inValues(copy, find)),
      settings: inSettings(map.settings),
      solids: inAll(map.solids, inSolid),
      objects: inAll(map.objects, inObject),
      ...(inSignal ? { signals: inAll(map.signals, inSignal) } : {}),
      prefabs: inAll(map.prefabs, (prefab) => ({
        ...prefab,
        solids: inAll(prefab.solids, inSolid),
        objects: inAll(prefab.objects, inObject),
        copies: inAll(prefab.copies, (copy) => inValues(copy, find)),
        ...(inSignal ? { signals: inAll(prefab.signals, inSignal) } : {}),
      })),
    };
    const edit = diffMaps(map, renamed, name);
    if (edit) edits[mapName] = edit;
  }
  return edits;
}

/** Paths stand in tables and conversations as whole texts of JSON. */
function changedData({ crate }: CrateWorld, from: string, to: string): Record<string, string> {
  return Object.fromEntries(
    Object.entries(crate.data).flatMap(([path, text]) => {
      const next = text.split(JSON.stringify(from)).join(JSON.stringify(to));
      return next === text ? [] : [[path, next]];
    }),
  );
}

function changedScripts(world: CrateWorld, from: string, to: string): Record<string, string> {
  return Object.fromEntries(
    Object.entries(world.crate.scripts).flatMap(([path, source]) => {
      const next = replaceStrings(source, from, to);
      return next === source ? [] : [[path, next]];
    }),
  );
}
