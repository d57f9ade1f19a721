/** What each kind of member, material, asset and script needs by itself, named but not looked up. */

import { isFileKind } from '../crate/assetKind.ts';
import type { AssetRecord, CrateMaterial } from '../crate/manifest.ts';
import type { Copy, MapObject, Prefab, Signal, Solid, Terrain } from '../document/schema.ts';
import { MATERIAL_PICTURES } from '../library/usage.ts';
import { isSymbol } from '../overview/symbols.ts';
import { classOf, type Profile, type PropertySchema } from '../profile/schema.ts';
import type { Static } from '@sinclair/typebox';
import { assetsOf, type Effect } from '../effect/document.ts';
import { own } from '../own.ts';
import type { TableDocument } from '../table/document.ts';
import type { Table } from '../table/schema.ts';
import { lineOfStep, type Talk } from '../talk/document.ts';
import { thingId } from './thing.ts';

/** @property to id of a thing; see `thing.ts` */
export interface Need {
  to: string;
  /** Of what member in which role: "6 faces", "its model", "slot skin", "line 12". */
  what: string;
  line?: number;
}

type Property = Static<typeof PropertySchema>;

export function needsOfSolid(solid: Solid): Need[] {
  const faces = new Map<string, number>();
  for (const { material } of solid.faces) faces.set(material, (faces.get(material) ?? 0) + 1);
  return [...faces].map(([material, count]) => ({ to: thingId('material', material), what: `${count} ${count === 1 ? 'face' : 'faces'}` }));
}

/** What one property of an object needs. @param map where paths are looked up */
function needOfProperty({ type, label, symbols, table }: Property, value: unknown, map: string): Need[] {
  if (typeof value !== 'string' || value === '') return [];
  const what = label.toLowerCase();
  if (symbols && isSymbol(value)) return [{ to: thingId('icon', value), what }];
  if (isFileKind(type)) return [{ to: thingId(type, value), what }];
  if (type === 'material') return [{ to: thingId('material', value), what }];
  if (type === 'script') return [{ to: thingId('function', value), what }];
  if (type === 'record' && table) return [{ to: thingId('table', table), what }];
  if (type === 'talk' || type === 'effect') return [{ to: thingId(type, value), what }];
  if (type === 'path') return [{ to: thingId('path', `${map}/${value}`), what }];
  return [];
}

export function needsOfObject(profile: Profile, object: MapObject, map: string): Need[] {
  const properties = classOf(profile, object.class)?.properties ?? [];
  const needs = properties.flatMap((property) => needOfProperty(property, object.properties[property.id] ?? property.default, map));
  if (object.script !== undefined) needs.push({ to: thingId('script', object.script), what: 'its script' });
  return needs;
}

export const needsOfSignal = ({ to, event }: Signal): Need[] => ('script' in to ? [{ to: thingId('function', to.script), what: `at ${event}` }] : []);

/** A copy needs its prefab, and what its own values of parameters name. */
export function needsOfCopy(profile: Profile, copy: Copy, map: string, prefab: { id: string; of: Prefab | undefined }): Need[] {
  const needs: Need[] = [{ to: prefab.id, what: 'a copy of it' }];
  for (const { id, object, property } of prefab.of?.parameters ?? []) {
    const described = classOf(profile, prefab.of?.objects[object]?.class ?? '')?.properties.find((one) => one.id === property);
    if (described) needs.push(...needOfProperty(described, copy.values[id], map));
  }
  return needs;
}

/** A ground needs its surfaces, which need their materials, and the models of what grows on it. @param scope `MAP/TERRAIN` */
export const needsOfTerrain = ({ surfaces, things }: Terrain, scope: string): Need[] => [
  ...surfaces.map(({ id, label }) => ({ to: thingId('surface', `${scope}/${id}`), what: label.toLowerCase() })),
  ...things.map(({ model, label }) => ({ to: thingId('model', model), what: `${label.toLowerCase()} that grow on it` })),
];

export const needsOfMaterial = (material: CrateMaterial): Need[] =>
  MATERIAL_PICTURES.flatMap((picture) => {
    const path = material[picture];
    return path ? [{ to: thingId('texture', path), what: PICTURE_WORDS[picture] }] : [];
  });

/** A table needs the pictures and sounds of its rows, and the tables that they refer to; each is one reason, however many rows. */
export function needsOfTable(table: Table, { rows }: TableDocument): Need[] {
  const needs = new Map<string, Need & { rows: number }>();
  const add = (to: string, what: string) => {
    const known = needs.get(to);
    if (known) known.rows++;
    else needs.set(to, { to, what, rows: 1 });
  };
  for (const row of rows)
    for (const column of table.columns) {
      const value = own(row, column.id);
      if (value === undefined || value === null || value === '' || (Array.isArray(value) && value.length === 0)) continue;
      if (column.type === 'picture') add(thingId('texture', String(value)), column.label.toLowerCase());
      else if (column.type === 'sound') add(thingId('sound', String(value)), column.label.toLowerCase());
      else if ((column.type === 'reference' || column.type === 'rows') && column.table !== table.id)
        add(thingId('table', column.table!), column.label.toLowerCase());
    }
  return [...needs.values()].map(({ to, what, rows: count }) => ({ to, what: `${what} of ${count} ${count === 1 ? 'row' : 'rows'}` }));
}

export const needsOfEffect = (effect: Effect): Need[] =>
  assetsOf(effect).map(({ kind, path, emitter, what }) => ({ to: thingId(kind, path), what: `${what} of ${emitter}` }));

export const needsOfTalk = ({ steps }: Talk): Need[] =>
  steps.flatMap((step, n): Need[] => {
    const line = lineOfStep(n);
    if (step.do === 'say') return step.voice ? [{ to: thingId('sound', step.voice), what: `voice of step ${n + 1}`, line }] : [];
    if (step.do === 'sound') return step.sound ? [{ to: thingId('sound', step.sound), what: `step ${n + 1}`, line }] : [];
    return step.do === 'call' && step.function ? [{ to: thingId('function', step.function), what: `step ${n + 1}`, line }] : [];
  });

const PICTURE_WORDS: Record<(typeof MATERIAL_PICTURES)[number], string> = {
  texture: 'its picture',
  normal: 'its normal map',
  packed: 'its surface map',
  emissionMap: 'its glow',
};

export const needsOfAsset = ({ slots = [], origin }: AssetRecord): Need[] => [
  ...slots.flatMap(({ slot, material }) => (material ? [{ to: thingId('material', material), what: `slot ${slot}` }] : [])),
  ...(origin?.pack ? [{ to: thingId('pack', origin.pack), what: 'came with it' }] : []),
];
