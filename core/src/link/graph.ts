/** What a map needs, where each part comes from and how big it is; and what the crate carries in vain. */

import { isFileKind, type AssetKind } from '../crate/assetKind.ts';
import { isSymbol } from '../overview/symbols.ts';
import { isWorkingFile } from '../crate/contents.ts';
import { MATERIAL_PICTURES } from '../library/usage.ts';
import { assetRecord, findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import { surfacesOf } from '../map/member/members.ts';
import { materialsOn } from '../map/member/surface.ts';
import { expandMap } from '../map/prefab.ts';
import { classOf } from '../profile/schema.ts';
import { globalFunctions } from '../script/check.ts';
import { own } from '../own.ts';

export type LinkKind = 'material' | AssetKind | 'function';

export interface Link {
  kind: LinkKind;
  /** Path of a file, or the name of a material or function. */
  name: string;
  origin: 'crate' | 'game' | 'missing';
  bytes: number;
  /** Who needs it: maps, materials or objects, in plain words; sorted. */
  usedBy: string[];
  /** Ids in the map of those who need it, for *Show*. */
  solids: string[];
  objects: string[];
}

export interface LinkReport {
  map: string;
  links: Link[];
  /** Files of the crate that no map of it needs. */
  unused: { path: string; bytes: number }[];
  /** Bytes that the package will carry: the crate's own used files. */
  ownBytes: number;
  gameBytes: number;
}

export function linkMap(world: CrateWorld, mapName: string): LinkReport {
  const map = expandMap(world.crate.maps[mapName], world.profile);
  const links = new Map<string, Link>();
  // By link, who is listed already: a material of thousands of solids would look through them for each.
  const listed = new Map<Link, Set<string>>();
  const list = (link: Link, into: 'usedBy' | 'solids' | 'objects', name: string | undefined) => {
    const known = listed.get(link)!;
    if (name === undefined || known.has(`${into} ${name}`)) return;
    known.add(`${into} ${name}`);
    link[into].push(name);
  };
  const need = (kind: LinkKind, name: string, user: string, at: { solid?: string; object?: string } = {}): Link => {
    const key = `${kind}:${name}`;
    let link = links.get(key);
    if (!link) {
      link = { kind, name, origin: 'missing', bytes: 0, usedBy: [], solids: [], objects: [] };
      links.set(key, link);
      listed.set(link, new Set());
    }
    list(link, 'usedBy', user);
    list(link, 'solids', at.solid);
    list(link, 'objects', at.object);
    return link;
  };
  const needFile = (kind: LinkKind, path: string, user: string, at: { object?: string } = {}) => {
    const link = need(kind, path, user, at);
    const file = findFile(world, path);
    if (file) Object.assign(link, { origin: file.origin, bytes: file.bytes });
  };
  const needMaterial = (name: string, user: string, at: { solid?: string; object?: string }) => {
    const link = need('material', name, user, at);
    const found = findMaterial(world, name);
    if (!found) return;
    link.origin = found.origin;
    for (const picture of MATERIAL_PICTURES) {
      const path = found.material[picture];
      if (path) needFile('texture', path, `material ${name}`);
    }
  };

  for (const surface of surfacesOf(map)) for (const material of materialsOn(surface)) needMaterial(material, surface.of, { solid: surface.id });
  for (const { name, surfaces, things } of Object.values(map.terrains)) {
    for (const { material } of surfaces) needMaterial(material, `the ground ${name}`, {});
    for (const { model } of things) needFile('model', model, `the ground ${name}`);
  }
  if (map.settings.skyMaterial) needMaterial(map.settings.skyMaterial, 'the sky', {});
  const calls: { name: string; user: string; object: string }[] = [];
  for (const [id, object] of Object.entries(map.objects)) {
    for (const property of classOf(world.profile, object.class)?.properties ?? []) {
      const value = object.properties[property.id] ?? property.default;
      if (typeof value !== 'string' || value === '') continue;
      if (isFileKind(property.type) && !(property.symbols && isSymbol(value))) {
        needFile(property.type, value, object.name, { object: id });
        // A model's slots that take materials need those as well.
        for (const slot of assetRecord(world, value)?.slots ?? []) if (slot.material) needMaterial(slot.material, `model ${value}`, { object: id });
      }
      if (property.type === 'material') needMaterial(value, object.name, { object: id });
      if (property.type === 'script') calls.push({ name: value, user: object.name, object: id });
    }
  }
  const functions = new Set(globalFunctions(world.crate.scripts));
  for (const signal of Object.values(map.signals))
    if ('script' in signal.to) calls.push({ name: signal.to.script, user: own(map.objects, signal.from)?.name ?? signal.from, object: signal.from });
  for (const { name, user, object } of calls) {
    const link = need('function', name, user, { object });
    if (functions.has(name)) link.origin = 'crate';
  }
  for (const [path, source] of Object.entries(world.crate.scripts)) {
    const link = need('script', path, 'the game');
    link.origin = 'crate';
    link.bytes = new TextEncoder().encode(source).length;
  }
  const sorted = [...links.values()].sort((a, b) => (a.kind < b.kind ? -1 : a.kind > b.kind ? 1 : a.name < b.name ? -1 : 1));
  for (const link of sorted) link.usedBy.sort();
  const usedPaths = new Set(sorted.map((link) => link.name));
  const sum = (origin: Link['origin']) => sorted.filter((link) => link.origin === origin).reduce((total, link) => total + link.bytes, 0);
  return {
    map: mapName,
    links: sorted,
    unused: world.crate.files.filter((file) => !usedPaths.has(file.path) && !isWorkingFile(file.path)).map(({ path, bytes }) => ({ path, bytes })),
    ownBytes: sum('crate'),
    gameBytes: sum('game'),
  };
}

/** Missing links are blockers; a near miss in case or extension is named. Unused files are notes. */
export function checkLinks(world: CrateWorld, reports: readonly LinkReport[]): Finding[] {
  const findings: Finding[] = [];
  for (const report of reports) {
    for (const link of report.links) {
      // A signal's missing function is already a finding of the map.
      if (link.origin !== 'missing' || link.kind === 'function') continue;
      const near = nearMiss(world, link.name);
      findings.push({
        code: 'link-missing',
        severity: 'blocker',
        stage: 'links',
        message: `The ${link.kind} ${link.name} is missing; ${link.usedBy.join(', ')} ${link.usedBy.length === 1 && link.usedBy[0] !== 'solids' ? 'needs' : 'need'} it.`,
        hint: near ? `There is ${near}: the names differ only in case or ending.` : 'Import it, or choose another.',
        place: { map: report.map, solid: link.solids[0], object: link.objects[0] },
      });
    }
  }
  const placeholders = new Set(world.profile.placeholders);
  for (const report of reports)
    for (const link of report.links)
      if (link.origin === 'game' && placeholders.has(link.name))
        findings.push({
          code: 'link-placeholder',
          severity: 'warning',
          stage: 'links',
          message: `The ${link.kind} ${link.name} is a placeholder of ${world.profile.title}; ${link.usedBy.join(', ')} ${link.usedBy.length === 1 && link.usedBy[0] !== 'solids' ? 'uses' : 'use'} it.`,
          hint: 'Choose a finished one before publishing.',
          place: { map: report.map, solid: link.solids[0], object: link.objects[0] },
        });
  const needed = new Set(reports.flatMap((report) => report.links.map((link) => link.name)));
  for (const file of world.crate.files) {
    if (needed.has(file.path) || isWorkingFile(file.path)) continue;
    findings.push({
      code: 'link-unused',
      severity: 'note',
      stage: 'links',
      message: `${file.path} is in the crate, but no map needs it.`,
      hint: 'It will not be packaged.',
      place: { file: file.path },
    });
  }
  return findings;
}

function nearMiss(world: CrateWorld, name: string): string | null {
  const stem = (path: string) => path.toLowerCase().replace(/\.[a-z0-9]+$/, '');
  const all = [
    ...world.crate.files.map((f) => f.path),
    ...world.base.files.map((f) => f.path),
    ...world.crate.manifest.materials.map((m) => m.name),
    ...world.base.materials.map((m) => m.name),
  ];
  return all.find((other) => stem(other) === stem(name)) ?? null;
}
