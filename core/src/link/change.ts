/** What can be done about links, as orders that fixes and the links page give; each comes to one edit of the crate. */

import { assetKindOf } from '../crate/assetKind.ts';
import { previewPath, sourceFolder } from '../crate/contents.ts';
import { diffCrates, type CrateEdit } from '../crate/crateEdit.ts';
import type { CrateContents } from '../crate/contents.ts';
import { applyEdit } from '../document/edit.ts';
import { nameProblem } from '../crate/naming.ts';
import { findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import { followMaterial, followPath, picturesFollow, renameAsset, renamedPath, renameMaterial, type Renaming } from '../library/rename.ts';
import { replacedMaterial } from '../map/member/find.ts';
import { own } from '../own.ts';
import type { LinkChange } from '../linkChange.ts';
import { UnreadableInput } from '../unreadable.ts';

const MATERIAL = 'material:';
const isMaterial = (entry: string): boolean => entry.startsWith(MATERIAL);
const materialName = (entry: string): string => entry.slice(MATERIAL.length);

function refuse(message: string, hint: string): never {
  throw new UnreadableInput('link-change', message, {}, hint);
}

/** @throws UnreadableInput where the crate does not allow it, with the reason. @returns null where there is nothing to do */
export const planLinkChange = (world: CrateWorld, change: LinkChange): CrateEdit | null =>
  diffCrates(world.crate, changed(world, change), nameOf(change));

/** Several one after the other as one edit; what one before has made needless or impossible is left out and told. */
export function planLinkChanges(world: CrateWorld, changes: readonly LinkChange[]): { edit: CrateEdit | null; leftOut: string[] } {
  if (changes.length === 1) return { edit: planLinkChange(world, changes[0]), leftOut: [] };
  const leftOut: string[] = [];
  let { crate } = world;
  for (const change of changes)
    try {
      crate = changed({ ...world, crate }, change);
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      leftOut.push(`${nameOf(change)}: ${error.message}`);
    }
  return { edit: diffCrates(world.crate, crate, `${changes.length} changes of links`), leftOut };
}

const nameOf = (change: LinkChange): string => wordsOf(change).slice(0, 120);

function wordsOf(change: LinkChange): string {
  switch (change.do) {
    case 'rename':
      return `rename ${change.entry} to ${change.name}`;
    case 'replace':
      return `${change.to} in the place of ${change.from}`;
    case 'merge':
      return `merge ${change.from.length + 1} into ${change.into}`;
    case 'remove':
      return change.entries.length === 1 ? `remove ${change.entries[0]}` : `remove ${change.entries.length} things`;
    case 'keep':
      return `keep ${change.entry}`;
    case 'split':
      return `split ${change.material}`;
  }
}

function changed(world: CrateWorld, change: LinkChange): CrateContents {
  const { crate, profile } = world;
  switch (change.do) {
    case 'rename': {
      const material = isMaterial(change.entry);
      needOwn(world, change.entry);
      const to = material ? `${MATERIAL}${change.name}` : renamedPath(change.entry, change.name);
      const problem = nameProblem(profile, 'file', change.name) ?? (isThere(world, to) ? `"${change.name}" is already taken.` : null);
      if (problem) refuse(problem, 'Choose another name.');
      return renamed(
        crate,
        material ? renameMaterial(world, materialName(change.entry), change.name) : renameAsset(world, change.entry, change.name),
      );
    }
    case 'replace':
      return replaced(world, change.from, change.to);
    case 'merge': {
      const from = change.from.filter((entry) => entry !== change.into);
      for (const entry of from) needOwn(world, entry);
      const pointed = from.reduce((now, entry) => replaced({ ...world, crate: now }, entry, change.into), crate);
      return removed(pointed, from);
    }
    case 'remove':
      for (const entry of change.entries) needOwn(world, entry);
      return removed(crate, change.entries);
    case 'keep':
      return { ...crate, manifest: { ...crate.manifest, kept: { ...crate.manifest.kept, [change.entry]: change.reason } } };
    case 'split':
      return split(world, change);
  }
}

/** Renaming, carried out on a crate in memory. */
function renamed(crate: CrateContents, { manifest, edits, scripts, data, moves }: Partial<Renaming>): CrateContents {
  const to = new Map(moves);
  const moved = (path: string) => to.get(path) ?? path;
  return {
    manifest: manifest ?? crate.manifest,
    maps: Object.fromEntries(Object.entries(crate.maps).map(([name, map]) => [name, edits?.[name] ? applyEdit(map, edits[name]) : map])),
    scripts: Object.fromEntries(Object.entries({ ...crate.scripts, ...scripts }).map(([path, source]) => [moved(path), source])),
    data: { ...crate.data, ...data },
    files: crate.files.map((file) => ({ ...file, path: moved(file.path) })),
  };
}

function replaced(world: CrateWorld, from: string, to: string): CrateContents {
  const { crate } = world;
  if (!isThere(world, to)) refuse(`There is no ${to}.`, 'Choose something that is in the crate or the game.');
  if (isMaterial(from) !== isMaterial(to) || (!isMaterial(from) && assetKindOf(from) !== assetKindOf(to)))
    refuse(`${from} and ${to} are of different kinds.`, 'Choose one of the same kind.');
  if (isMaterial(from)) return renamed(crate, followMaterial(world, materialName(from), materialName(to)));
  return renamed(crate, {
    ...followPath(world, from, to),
    manifest: { ...crate.manifest, materials: picturesFollow(crate.manifest.materials, from, to) },
  });
}

/** Assets with their sources and pictures, and materials; a reason to keep one goes with it. */
function removed(crate: CrateContents, entries: readonly string[]): CrateContents {
  const going = new Set(entries);
  const { manifest } = crate;
  const folders: string[] = [];
  const paths = new Set<string>();
  for (const entry of entries) {
    if (isMaterial(entry)) continue;
    paths.add(entry).add(previewPath(entry));
    const kind = assetKindOf(entry);
    if (kind) folders.push(`${sourceFolder(kind, entry.replace(/^[^/]+\//, '').replace(/\.[^.]+$/, ''))}/`);
    const source = own(manifest.assets, entry)?.source;
    // One file may be the source of several assets, variants of it.
    if (source && !Object.entries(manifest.assets).some(([path, record]) => record.source === source && !going.has(path))) paths.add(source);
  }
  const staying = <T>(records: Readonly<Record<string, T>>) => Object.fromEntries(Object.entries(records).filter(([path]) => !going.has(path)));
  return {
    ...crate,
    scripts: staying(crate.scripts),
    data: staying(crate.data),
    files: crate.files.filter(({ path }) => !paths.has(path) && !folders.some((folder) => path.startsWith(folder))),
    manifest: {
      ...manifest,
      assets: staying(manifest.assets),
      materials: manifest.materials.filter(({ name }) => !going.has(`${MATERIAL}${name}`)),
      ...(manifest.kept ? { kept: staying(manifest.kept) } : {}),
      ...(manifest.scriptOrigins ? { scriptOrigins: staying(manifest.scriptOrigins) } : {}),
    },
  };
}

function split(world: CrateWorld, { material, name, map: mapName, solids }: Extract<LinkChange, { do: 'split' }>): CrateContents {
  const { crate, profile } = world;
  const found = findMaterial(world, material)?.material;
  const map = own(crate.maps, mapName);
  if (!found || !map) refuse(`There is no ${found ? `map ${mapName}` : `material ${material}`}.`, 'Choose one that is there.');
  const problem = nameProblem(profile, 'file', name) ?? (findMaterial(world, name) ? `"${name}" is already taken.` : null);
  if (problem) refuse(problem, 'Choose another name.');
  const chosen = new Set(solids);
  const next = Object.fromEntries(
    Object.entries(map.solids).map(([id, solid]) => [id, chosen.has(id) ? (replacedMaterial(solid, material, name) ?? solid) : solid]),
  );
  if (Object.entries(next).every(([id, solid]) => solid === map.solids[id]))
    refuse(`None of the chosen solids wears ${material}.`, 'Choose solids that wear it.');
  return {
    ...crate,
    maps: { ...crate.maps, [mapName]: { ...map, solids: next } },
    manifest: { ...crate.manifest, materials: [...crate.manifest.materials, { ...found, name }] },
  };
}

const isThere = (world: CrateWorld, entry: string): boolean =>
  isMaterial(entry)
    ? findMaterial(world, materialName(entry)) !== null
    : findFile(world, entry) !== null || own(world.crate.scripts, entry) !== undefined;

function needOwn(world: CrateWorld, entry: string): void {
  const { crate } = world;
  const there = isMaterial(entry)
    ? crate.manifest.materials.some(({ name }) => name === materialName(entry))
    : crate.files.some(({ path }) => path === entry) || own(crate.scripts, entry) !== undefined;
  if (there) return;
  refuse(
    isThere(world, entry) ? `${entry} belongs to the game: it is used, never changed.` : `The crate has no ${entry}.`,
    'Look at what the crate has under Links.',
  );
}
