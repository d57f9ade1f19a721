/** What is different between a crate as it was released and as it is: in words for players, and which version it makes. */

import { assetKindOf, ASSETS, FILE_KINDS } from '../crate/assetKind.ts';
import { isWorkingFile, type CrateContents } from '../crate/contents.ts';
import { mapDifference, type MapDifference } from '../document/changeWords.ts';
import { canonicalJson } from '../hash.ts';
import { own } from '../own.ts';
import { readScript } from '../script/check.ts';

export interface Changes {
  /** By map, where it is in both. */
  maps: Record<string, MapDifference>;
  mapsAdded: string[];
  mapsGone: string[];
  scripts: { path: string; words: string }[];
  /** Assets by what happened to them. */
  added: string[];
  changed: string[];
  gone: string[];
  materials: string[];
  texts: string[];
}

export function changesBetween(before: CrateContents, after: CrateContents): Changes {
  const names = (record: object) => Object.keys(record);
  const [was, is] = [before, after].map(
    ({ files }) => new Map(files.filter(({ path }) => !isWorkingFile(path) && assetKindOf(path)).map((file) => [file.path, file.sha256])),
  );
  const same = (a: unknown, b: unknown) => a === b || (a !== undefined && b !== undefined && canonicalJson(a) === canonicalJson(b));
  const maps = Object.fromEntries(
    names(after.maps).flatMap((name) => {
      const old = own(before.maps, name);
      const difference = old && !same(old, after.maps[name]) ? mapDifference(old, after.maps[name]) : null;
      return difference ? [[name, difference]] : [];
    }),
  );
  const materials = (crate: CrateContents) => Object.fromEntries(crate.manifest.materials.map((material) => [material.name, material]));
  const [oldMaterials, newMaterials] = [materials(before), materials(after)];
  const texts = (['title', 'description', 'authors', 'credits', 'licence', 'about', 'requires'] as const).filter(
    (key) => !same(before.manifest[key] ?? null, after.manifest[key] ?? null),
  );
  return {
    maps,
    mapsAdded: names(after.maps).filter((name) => !own(before.maps, name)),
    mapsGone: names(before.maps).filter((name) => !own(after.maps, name)),
    scripts: [...new Set([...names(before.scripts), ...names(after.scripts)])].sort().flatMap((path) => {
      const [old, fresh] = [own(before.scripts, path), own(after.scripts, path)];
      return old === fresh ? [] : [{ path, words: scriptWords(path, old, fresh) }];
    }),
    added: [...is.keys()].filter((path) => !was.has(path)),
    changed: [...is].flatMap(([path, hash]) => (was.has(path) && was.get(path) !== hash ? [path] : [])),
    gone: [...was.keys()].filter((path) => !is.has(path)),
    materials: [...new Set([...names(oldMaterials), ...names(newMaterials)])].filter(
      (name) => !same(own(oldMaterials, name), own(newMaterials, name)),
    ),
    texts,
  };
}

function scriptWords(path: string, before: string | undefined, after: string | undefined): string {
  if (before === undefined) return 'new';
  if (after === undefined) return 'gone';
  const functions = (source: string) => new Set((readScript(path, source).outline?.functions ?? []).flatMap(({ name }) => name ?? []));
  const [old, fresh] = [functions(before), functions(after)];
  const come = [...fresh].filter((name) => !old.has(name));
  const go = [...old].filter((name) => !fresh.has(name));
  const parts = [
    ...(come.length > 0 ? [`with ${come.map((name) => `${name}()`).join(', ')}`] : []),
    ...(go.length > 0 ? [`without ${go.map((name) => `${name}()`).join(', ')}`] : []),
  ];
  return parts.length > 0 ? parts.join(', ') : 'changed';
}

export const isUnchanged = (changes: Changes): boolean =>
  Object.values(changes).every((part: unknown) => (Array.isArray(part) ? part.length === 0 : Object.keys(part as object).length === 0));

const NAMED = 6;
const listed = (names: readonly string[]): string =>
  `${names.slice(0, NAMED).join(', ')}${names.length > NAMED ? ` and ${names.length - NAMED} more` : ''}`;
const stem = (path: string): string => path.replace(/^[^/]+\//, '').replace(/\.[^.]+$/, '');

/** A draft of change notes in Markdown, which its author goes on with. @param bytes of the packages, where both are known */
export function draftNotes(changes: Changes, bytes?: { before: number; after: number }): string {
  const lines: string[] = [];
  for (const name of changes.mapsAdded) lines.push(`- New map ${name}`);
  for (const name of changes.mapsGone) lines.push(`- Map ${name} is no longer there`);
  for (const [name, { words }] of Object.entries(changes.maps)) lines.push(`- Map ${name}: ${words.join('; ')}`);
  for (const { path, words } of changes.scripts) lines.push(`- Script ${stem(path)}: ${words}`);
  for (const [verb, paths] of [
    ['New', changes.added],
    ['Changed', changes.changed],
    ['Gone', changes.gone],
  ] as const)
    for (const kind of FILE_KINDS) {
      const names = paths.filter((path) => assetKindOf(path) === kind).map(stem);
      if (names.length > 0) lines.push(`- ${verb} ${ASSETS[kind].words.toLowerCase()}: ${listed(names)}`);
    }
  if (changes.materials.length > 0) lines.push(`- Materials: ${listed(changes.materials)}`);
  if (changes.texts.length > 0) lines.push(`- Changed ${listed(changes.texts)}`);
  if (lines.length === 0) return 'Nothing is different from the last release.';
  if (bytes && bytes.before !== bytes.after) {
    const by = Math.abs(bytes.after - bytes.before);
    lines.push(
      `- ${by < 1024 ? `${by} bytes` : by < 1 << 20 ? `${Math.round(by / 1024)} KiB` : `${(by / (1 << 20)).toFixed(1)} MiB`} ${bytes.after > bytes.before ? 'larger' : 'smaller'}`,
    );
  }
  return lines.join('\n');
}

/**
 * The next version as Semantic Versioning 2.0.0 counts, with a mod for an API: what others may build on that goes makes a major
 * one, what comes a minor one, everything else a patch.
 */
export function nextVersion(version: string, { mapsAdded, mapsGone, gone, added, scripts, texts, maps }: Changes): { version: string; why: string } {
  const [major, minor, patch] = version.split('.').map(Number);
  if (mapsGone.length > 0) return { version: `${major + 1}.0.0`, why: `map ${mapsGone[0]} is no longer there, which other mods may lead to` };
  const lost = scripts.find(({ words }) => words === 'gone' || words.includes('without'));
  if (gone.length > 0 || lost)
    return { version: `${major + 1}.0.0`, why: `${gone[0] ?? `${lost!.path} ${lost!.words}`} is what other mods may use, and goes` };
  if (mapsAdded.length > 0 || added.length > 0 || scripts.length > 0 || Object.keys(maps).length > 0)
    return { version: `${major}.${minor + 1}.0`, why: 'there is something new to play' };
  return { version: `${major}.${minor}.${patch + 1}`, why: texts.length > 0 ? 'only texts are different' : 'only looks or sounds are different' };
}
