/**
 * A change of a whole crate as a value: of its maps, scripts, files and manifest at once. It is the difference of two
 * crates, so that whatever makes one crate of another can be shown before it is done, done in one go, and undone.
 */

import { canonicalJson } from '../hash.ts';
import { own } from '../own.ts';
import { mapDifference } from '../document/changeWords.ts';
import { applyEdit, diffMaps, invertEdit, type MapEdit } from '../document/edit.ts';
import type { FileRecord } from './basePack.ts';
import type { CrateContents } from './contents.ts';
import type { CrateManifest, CrateMaterial } from './manifest.ts';

/** Members of a record that are set, or removed where they are null. */
type Members<T> = Record<string, T | null>;

export interface CrateEdit {
  name: string;
  /** By name; maps neither come nor go by such an edit. */
  maps: Record<string, MapEdit>;
  /** Lua by path. */
  scripts: Members<string>;
  /** Game data by path; not there in changes from before there was any. */
  data?: Members<string>;
  /** By path; the content of a new one is known by its hash. */
  files: Members<Omit<FileRecord, 'path'>>;
  manifest: {
    /** By name, at the end of the list where they are new. */
    materials?: Members<CrateMaterial>;
    assets?: Members<CrateManifest['assets'][string]>;
    scriptOrigins?: Members<NonNullable<CrateManifest['scriptOrigins']>[string]>;
    /** Everything else of it, whole. */
    fields?: Partial<Omit<CrateManifest, 'materials' | 'assets' | 'scriptOrigins'>>;
  };
}

const same = (a: unknown, b: unknown): boolean => a === b || (a !== undefined && b !== undefined && canonicalJson(a) === canonicalJson(b));

function diffRecords<T>(before: Readonly<Record<string, T>>, after: Readonly<Record<string, T>>): Members<T> {
  const changed: Members<T> = {};
  for (const key of new Set([...Object.keys(before), ...Object.keys(after)]))
    if (!same(own(before, key), own(after, key))) changed[key] = own(after, key) ?? null;
  return changed;
}

function withMembers<T>(record: Readonly<Record<string, T>>, changed: Members<T> = {}): Record<string, T> {
  const next = { ...record };
  for (const [key, to] of Object.entries(changed))
    if (to === null) delete next[key];
    else next[key] = to;
  return next;
}

const inverted = <T>(record: Readonly<Record<string, T>>, changed: Members<T> = {}): Members<T> =>
  Object.fromEntries(Object.keys(changed).map((key) => [key, own(record, key) ?? null]));

const byPath = (files: readonly FileRecord[]) => Object.fromEntries(files.map(({ path, ...record }) => [path, record]));
const byName = (materials: readonly CrateMaterial[]) => Object.fromEntries(materials.map((material) => [material.name, material]));
const isEmpty = (record: object): boolean => Object.keys(record).length === 0;
const unlessEmpty = <K extends string, T extends object>(key: K, value: T) => (isEmpty(value) ? {} : ({ [key]: value } as Record<K, T>));

/** What makes `after` of `before`; null where nothing does. */
export function diffCrates(before: CrateContents, after: CrateContents, name: string): CrateEdit | null {
  const maps = Object.fromEntries(
    Object.entries(after.maps).flatMap(([map, next]) => {
      const was = own(before.maps, map);
      const edit = was && was !== next ? diffMaps(was, next, name) : null;
      return edit ? [[map, edit]] : [];
    }),
  );
  const scripts = diffRecords(before.scripts, after.scripts);
  const data = diffRecords(before.data, after.data);
  const files = diffRecords(byPath(before.files), byPath(after.files));
  const { materials: wasMaterials, assets: wasAssets, scriptOrigins: wasOrigins = {}, ...wasFields } = before.manifest;
  const { materials, assets, scriptOrigins = {}, ...fields } = after.manifest;
  const changed = diffRecords<unknown>(wasFields, fields);
  const manifest: CrateEdit['manifest'] = {
    ...unlessEmpty('materials', diffRecords(byName(wasMaterials), byName(materials))),
    ...unlessEmpty('assets', diffRecords(wasAssets, assets)),
    ...unlessEmpty('scriptOrigins', diffRecords(wasOrigins, scriptOrigins)),
    ...unlessEmpty('fields', changed as Partial<CrateManifest>),
  };
  return [maps, scripts, data, files, manifest].every(isEmpty) ? null : { name, maps, scripts, data, files, manifest };
}

/** A manifest after the part of an edit that is about it. */
export function editManifest(manifest: CrateManifest, { materials, assets, scriptOrigins, fields }: CrateEdit['manifest']): CrateManifest {
  const next: CrateManifest = { ...manifest, ...fields };
  for (const key of Object.keys(next) as (keyof CrateManifest)[]) if (next[key] === null) delete (next as Partial<CrateManifest>)[key];
  if (materials) {
    const known = byName(manifest.materials);
    next.materials = [
      ...manifest.materials.flatMap((material) => (Object.hasOwn(materials, material.name) ? (materials[material.name] ?? []) : material)),
      ...Object.values(materials).filter((material): material is CrateMaterial => material !== null && !Object.hasOwn(known, material.name)),
    ];
  }
  if (assets) next.assets = withMembers(manifest.assets, assets);
  if (scriptOrigins) next.scriptOrigins = withMembers(manifest.scriptOrigins ?? {}, scriptOrigins);
  return next;
}

export function applyCrateEdit(crate: CrateContents, { maps, scripts, data, files, manifest }: CrateEdit): CrateContents {
  return {
    manifest: editManifest(crate.manifest, manifest),
    maps: Object.fromEntries(Object.entries(crate.maps).map(([name, map]) => [name, maps[name] ? applyEdit(map, maps[name]) : map])),
    scripts: withMembers(crate.scripts, scripts),
    data: withMembers(crate.data, data),
    files: Object.entries(withMembers(byPath(crate.files), files))
      .map(([path, record]) => ({ path, ...record }))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
  };
}

/** The edit that takes a crate after `edit` back to `before`. */
export function invertCrateEdit(before: CrateContents, edit: CrateEdit): CrateEdit {
  const { materials, assets, scriptOrigins, fields } = edit.manifest;
  return {
    name: edit.name,
    maps: Object.fromEntries(Object.entries(edit.maps).map(([name, change]) => [name, invertEdit(before.maps[name], change)])),
    scripts: inverted(before.scripts, edit.scripts),
    data: inverted(before.data, edit.data),
    files: inverted(byPath(before.files), edit.files),
    manifest: {
      ...(materials && { materials: inverted(byName(before.manifest.materials), materials) }),
      ...(assets && { assets: inverted(before.manifest.assets, assets) }),
      ...(scriptOrigins && { scriptOrigins: inverted(before.manifest.scriptOrigins ?? {}, scriptOrigins) }),
      ...(fields && { fields: inverted(before.manifest as Record<string, unknown>, fields as Members<unknown>) as Partial<CrateManifest> }),
    },
  };
}

/** What of an edit is no longer as it left it, in words: to be told before it is undone. */
export function changedSince(crate: CrateContents, edit: CrateEdit): string[] {
  const moved = <T>(what: string, record: Readonly<Record<string, T>>, members: Members<T> = {}) =>
    Object.entries(members).flatMap(([key, to]) => (same(own(record, key), to ?? undefined) ? [] : [`${what} ${key}`.trim()]));
  const { materials, assets } = edit.manifest;
  return [
    ...Object.entries(edit.maps).flatMap(([name, { changes }]) => {
      const map = own(crate.maps, name);
      if (!map) return [`map ${name}`];
      const touched = changes.some((change) =>
        change.of === 'settings'
          ? !same(map.settings, change.to)
          : !same(own(map[change.of] as Record<string, unknown>, change.id), change.to ?? undefined),
      );
      return touched ? [`map ${name}`] : [];
    }),
    ...moved('', crate.scripts, edit.scripts),
    ...moved('', crate.data, edit.data),
    ...moved('', byPath(crate.files), edit.files),
    ...moved('material', byName(crate.manifest.materials), materials),
    ...moved('', crate.manifest.assets, assets),
  ];
}

/** All places that an edit touches, a line each, in words. */
export function placesOf(crate: CrateContents, edit: CrateEdit): string[] {
  const places = Object.entries(edit.maps).flatMap(([name, change]) =>
    mapDifference(crate.maps[name], applyEdit(crate.maps[name], change)).words.map((words) => `map ${name}: ${words}`),
  );
  for (const [path, to] of Object.entries({ ...edit.scripts, ...edit.data })) {
    const before = own({ ...crate.scripts, ...crate.data }, path)?.split('\n') ?? [];
    const lines = to?.split('\n').flatMap((line, n) => (line === before[n] ? [] : [n + 1])) ?? [];
    places.push(
      to === null
        ? `${path} goes`
        : before.length === 0
          ? `${path} comes`
          : `${path}: ${lines.length === 1 ? 'line' : 'lines'} ${lines.slice(0, 8).join(', ')}`,
    );
  }
  const { materials = {}, assets = {}, fields = {} } = edit.manifest;
  const known = byName(crate.manifest.materials);
  for (const [name, to] of Object.entries(materials))
    places.push(to === null ? `material ${name} goes` : own(known, name) ? `material ${name}` : `material ${name} comes`);
  for (const [path, to] of Object.entries(edit.files)) places.push(to === null ? `${path} goes` : `${path} comes`);
  for (const [path, to] of Object.entries(assets))
    if (to !== null && own(crate.manifest.assets, path) !== undefined) places.push(`how ${path} was made`);
  for (const field of Object.keys(fields)) places.push(`crate.json: ${field}`);
  return places;
}
