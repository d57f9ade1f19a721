/** Who uses an asset or material: maps, materials, models and scripts. */

import { isFileKind } from '../crate/assetKind.ts';
import { classOf } from '../profile/schema.ts';
import { stringsOf } from '../script/strings.ts';
import type { CrateWorld } from '../crate/world.ts';
import { own } from '../own.ts';

export interface Use {
  /** `map pumphouse`, `material brick`, `model models/pump.glb`, `script scripts/main.lua`. */
  by: 'map' | 'material' | 'model' | 'script' | 'data';
  name: string;
  /** How often, and in plain words what: "12 faces", "object lamp_3", "line 14". */
  what: string;
  /** For *Show*: an object or a solid of the map. */
  object?: string;
  solid?: string;
  line?: number;
}

export const MATERIAL_PICTURES = ['texture', 'normal', 'packed', 'emissionMap'] as const;

/** Uses by asset path or, under `material:NAME`, by material. */
export function usageOf(world: CrateWorld): Map<string, Use[]> {
  const uses = new Map<string, Use[]>();
  const add = (key: string, use: Use) => {
    const list = uses.get(key);
    if (list) list.push(use);
    else uses.set(key, [use]);
  };
  // Prefabs count by themselves, placed or not: what they use must not vanish from under them.
  const places = Object.entries(world.crate.maps).flatMap(([name, map]) => [
    { name, within: '', shown: true, ...map },
    ...Object.values(map.prefabs).map((prefab) => ({ ...prefab, name, within: ` of prefab ${prefab.name}`, shown: false })),
  ]);
  for (const { name, within, shown, solids, objects } of places) {
    const faces = new Map<string, { count: number; solid: string }>();
    for (const [solid, { faces: own }] of Object.entries(solids))
      for (const { material } of own) {
        const entry = faces.get(material);
        if (entry) entry.count++;
        else faces.set(material, { count: 1, solid });
      }
    for (const [material, { count, solid }] of faces)
      add(`material:${material}`, { by: 'map', name, what: `${count} ${count === 1 ? 'face' : 'faces'}${within}`, ...(shown ? { solid } : {}) });
    for (const [id, object] of Object.entries(objects))
      for (const property of classOf(world.profile, object.class)?.properties ?? []) {
        const value = object.properties[property.id] ?? property.default;
        if (typeof value !== 'string' || value === '') continue;
        const use: Use = { by: 'map', name, what: `object ${object.name}${within}`, ...(shown ? { object: id } : {}) };
        if (isFileKind(property.type)) add(value, use);
        else if (property.type === 'material') add(`material:${value}`, use);
      }
  }
  for (const [name, { settings }] of Object.entries(world.crate.maps))
    for (const bed of settings.beds ?? [])
      for (const { sound } of [...bed.loops, ...bed.shots]) if (sound) add(sound, { by: 'map', name, what: `the bed ${bed.name}` });
  for (const [name, { settings }] of Object.entries(world.crate.maps))
    if (settings.skyMaterial) add(`material:${settings.skyMaterial}`, { by: 'map', name, what: 'the sky' });
  for (const material of world.crate.manifest.materials)
    for (const picture of MATERIAL_PICTURES) {
      const path = material[picture];
      if (path) add(path, { by: 'material', name: material.name, what: picture });
    }
  for (const [path, record] of Object.entries(world.crate.manifest.assets))
    for (const slot of record.slots ?? [])
      if (slot.material) add(`material:${slot.material}`, { by: 'model', name: path, what: `slot ${slot.slot}` });
  const { main } = world.profile.scripts;
  if (own(world.crate.scripts, main) !== undefined) add(main, { by: 'script', name: main, what: 'the game starts with it' });
  const names = new Set(Object.keys(world.crate.manifest.assets));
  const materials = new Set(world.crate.manifest.materials.map((m) => m.name));
  for (const [path, source] of Object.entries(world.crate.scripts))
    for (const { value, line } of stringsOf(source)) {
      const use: Use = { by: 'script', name: path, what: `line ${line}`, line };
      if (names.has(value) || own(world.crate.scripts, value) !== undefined) add(value, use);
      else if (materials.has(value)) add(`material:${value}`, use);
    }
  for (const [path, text] of Object.entries(world.crate.data))
    text.split('\n').forEach((line, n) => {
      for (const [, quoted] of line.matchAll(/"((?:textures|sounds)\/[^"\\]+)"/g))
        add(quoted, { by: 'data', name: path, what: `line ${n + 1}`, line: n + 1 });
    });
  return uses;
}
