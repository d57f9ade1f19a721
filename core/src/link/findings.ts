/** What is wrong with links, each with what mends it: one file a family of them would be one file a rule. */

import { assetKindOf } from '../crate/assetKind.ts';
import { isBankPatch, isWorkingFile } from '../crate/contents.ts';
import type { FileRecord } from '../crate/basePack.ts';
import type { AssetRecord } from '../crate/manifest.ts';
import { assetRecord, findMaterial, type CrateWorld } from '../crate/world.ts';
import type { Finding, Fix } from '../finding.ts';
import { likenessDistance } from '../asset/texture/likeness.ts';
import { own } from '../own.ts';
import { nearest } from '../script/nearest.ts';
import type { LinkChange } from '../linkChange.ts';
import type { LinkGraph } from './graph.ts';
import type { Link, LinkReport } from './report.ts';
import { checkRequired } from './required.ts';
import { thingId, type LinkKind } from './thing.ts';

export const crateFix = (label: string, change: LinkChange): Fix => ({ kind: 'crate', label, change });

const entryOf = (kind: LinkKind, name: string): string => (kind === 'material' ? `material:${name}` : name);

/** Everything that links say of a crate. @param graph brought up to the world; reports of all its maps */
export function checkLinks(world: CrateWorld, graph: LinkGraph, reports: readonly LinkReport[]): Finding[] {
  return [
    ...reports.flatMap((report) => missing(world, report)),
    ...reports.flatMap((report) => placeholders(world, report)),
    ...unused(world, graph),
    ...doubles(world),
    ...alike(world),
    ...likeNames(world),
    ...ofTwoMeanings(world),
    ...checkRequired(world),
    ...largerThanUse(world, graph),
  ];
}

const need = (link: Link, one: string, several: string): string => (link.usedBy.length === 1 && link.usedBy[0] !== 'solids' ? one : several);
const placeOf = (map: string, link: Link) => ({ map, solid: link.solids[0], object: link.objects[0] });
/** Kinds that a file or a list of the crate brings; all others are findings of what names them. */
const BROUGHT: readonly LinkKind[] = ['material', 'texture', 'model', 'sound', 'subtitle', 'script'];

function missing(world: CrateWorld, { map, links }: LinkReport): Finding[] {
  const gone = links.filter((link) => link.origin === 'missing' && BROUGHT.includes(link.kind));
  if (gone.length === 0) return [];
  const names = namesByKind(world);
  return gone.map((link): Finding => {
    const { kind, name } = link;
    const there = names.get(kind) ?? [];
    const other = there.find((one) => stem(one) === stem(name));
    const who = `${link.usedBy.join(', ')}`;
    if (other !== undefined)
      return {
        code: 'link-case',
        severity: 'blocker',
        stage: 'links',
        message: `${who} ${need(link, 'asks', 'ask')} for the ${kind} ${name}; there is ${other}, which differs only in case or ending.`,
        hint: 'A file system that ignores case finds it anyway; those of players need not.',
        place: placeOf(map, link),
        fix: crateFix(`Ask for ${other}`, { do: 'replace', from: entryOf(kind, name), to: entryOf(kind, other) }),
      };
    const near = nearest(name, there);
    const record = own(world.crate.manifest.assets, name);
    const source = record && world.crate.files.some(({ path }) => path === record.source) ? record : null;
    const like = near ? [crateFix(`Take ${near}`, { do: 'replace', from: entryOf(kind, name), to: entryOf(kind, near) })] : [];
    const fixes: Fix[] = source
      ? [{ kind: 'reconvert', label: `Make it again from ${source.source}`, file: name, options: source.options }, ...like]
      : like;
    return {
      code: 'link-missing',
      severity: 'blocker',
      stage: 'links',
      message: `The ${kind} ${name} is missing; ${who} ${need(link, 'needs', 'need')} it.`,
      hint: near ? `There is ${near}. Import it, or choose another.` : 'Import it, or choose another.',
      place: placeOf(map, link),
      ...(fixes.length > 0 ? { fix: fixes[0] } : {}),
      ...(fixes.length > 1 ? { others: fixes.slice(1) } : {}),
    };
  });
}

const stem = (path: string): string => path.toLowerCase().replace(/\.[a-z0-9]+$/, '');

function namesByKind({ crate, base }: CrateWorld): Map<LinkKind, string[]> {
  const names = new Map<LinkKind, string[]>([
    ['material', [...crate.manifest.materials, ...base.materials].map(({ name }) => name)],
    ['script', Object.keys(crate.scripts)],
  ]);
  for (const { path } of [...crate.files, ...base.files]) {
    const kind = isWorkingFile(path) ? null : assetKindOf(path);
    if (!kind) continue;
    const list = names.get(kind);
    if (list) list.push(path);
    else names.set(kind, [path]);
  }
  return names;
}

function placeholders({ profile }: CrateWorld, { map, links }: LinkReport): Finding[] {
  const stand = new Set(profile.placeholders);
  return links
    .filter((link) => link.origin === 'game' && stand.has(link.name))
    .map((link) => ({
      code: 'link-placeholder',
      severity: 'warning',
      stage: 'links',
      message: `The ${link.kind} ${link.name} is a placeholder of ${profile.title}; ${link.usedBy.join(', ')} ${need(link, 'uses', 'use')} it.`,
      hint: 'Choose a finished one before publishing.',
      place: placeOf(map, link),
    }));
}

/** Files and materials that no map comes to need, and nobody has said why they stay. */
function unused({ crate }: CrateWorld, graph: LinkGraph): Finding[] {
  const reached = graph.reach(graph.roots);
  const kept = crate.manifest.kept ?? {};
  const has = (entry: string) => own(kept, entry) !== undefined;
  const findings: Finding[] = [];
  const idle = crate.manifest.materials.filter(({ name }) => !reached.has(thingId('material', name)) && !has(`material:${name}`));
  for (const { path } of crate.files) {
    const kind = assetKindOf(path);
    if (isWorkingFile(path) || isBankPatch(path) || has(path) || (kind && reached.has(thingId(kind, path)))) continue;
    const along = idle.filter((material) => [material.texture, material.normal, material.packed, material.emissionMap].includes(path));
    findings.push({
      code: 'link-unused',
      severity: 'note',
      stage: 'links',
      message: `${path} is in the crate, but no map needs it.`,
      hint:
        along.length > 0
          ? `It will not be packaged. Only ${along.map(({ name }) => name).join(', ')} has it, which nothing wears.`
          : 'It will not be packaged.',
      place: { file: path },
      fix: crateFix('Remove it', { do: 'remove', entries: [path, ...along.map(({ name }) => `material:${name}`)] }),
      others: [crateFix('Keep it', { do: 'keep', entry: path, reason: 'wanted later' })],
    });
  }
  const files = new Set(crate.files.map(({ path }) => path));
  for (const { name, texture } of idle) {
    // One with a picture of the crate goes with that, and its finding says so; or the picture is used by itself, as an icon is.
    if (texture && files.has(texture)) continue;
    findings.push({
      code: 'link-unused',
      severity: 'note',
      stage: 'links',
      message: `The material ${name} is in the crate, but nothing wears it.`,
      place: { file: `material:${name}` },
      fix: crateFix('Remove it', { do: 'remove', entries: [`material:${name}`] }),
      others: [crateFix('Keep it', { do: 'keep', entry: `material:${name}`, reason: 'wanted later' })],
    });
  }
  return findings;
}

/** Files of the same content under two names, and files of the game that would travel. */
function doubles({ crate, base }: CrateWorld): Finding[] {
  const findings: Finding[] = [];
  const stock = new Map(base.files.map((file) => [file.sha256, file.path]));
  const first = new Map<string, FileRecord>();
  for (const file of crate.files) {
    const kind = assetKindOf(file.path);
    if (isWorkingFile(file.path) || !kind) continue;
    const ofGame = stock.get(file.sha256);
    if (ofGame !== undefined && assetKindOf(ofGame) === kind) {
      findings.push({
        code: 'link-stock',
        severity: 'warning',
        stage: 'links',
        message: `${file.path} is the game's own ${ofGame}, to the byte: it would travel with the package.`,
        hint: 'Players have it already, and its author may not want it passed on.',
        place: { file: file.path },
        fix:
          ofGame === file.path
            ? crateFix('Remove the copy', { do: 'remove', entries: [file.path] })
            : crateFix(`Use the game's`, { do: 'merge', into: ofGame, from: [file.path] }),
      });
      continue;
    }
    const twin = first.get(file.sha256);
    if (!twin) first.set(file.sha256, file);
    else
      findings.push({
        code: 'link-twice',
        severity: 'warning',
        stage: 'links',
        message: `${file.path} and ${twin.path} are the same, to the byte.`,
        hint: `One of them would do: ${file.bytes} bytes less in the package.`,
        place: { file: file.path },
        fix: crateFix(`Use ${twin.path} everywhere`, { do: 'merge', into: twin.path, from: [file.path] }),
      });
  }
  return findings;
}

/** Bits of 64 in which hashes of one picture at two sizes may differ. */
const SAME_LOOK = 3;

/** Pictures that look the same, and meshes that are the same, though the files differ. */
function alike({ crate }: CrateWorld): Finding[] {
  const findings: Finding[] = [];
  const hashes = new Map(crate.files.map((file) => [file.path, file.sha256]));
  const twins = (path: string, other: string) => hashes.get(path) === hashes.get(other);
  const shapes = new Map<string, string>();
  // Hashes of 64 bits that differ in three at most have a quarter in common: only those are compared.
  const quarters = new Map<string, { path: string; record: AssetRecord }[]>();
  for (const [path, record] of Object.entries(crate.manifest.assets)) {
    if (!hashes.has(path)) continue;
    if (record.shape) {
      const other = shapes.get(record.shape);
      if (other === undefined) shapes.set(record.shape, path);
      else if (!twins(path, other) && !record.variantOf)
        findings.push(
          likeness(path, other, `${path} and ${other} are the same mesh.`, 'They may differ in materials or settings: look before you merge them.'),
        );
    }
    const { look } = record;
    if (!look) continue;
    let found: string | null = null;
    for (let q = 0; q < 4; q++) {
      const key = `${q}${look.slice(q * 4, q * 4 + 4)}`;
      const group = quarters.get(key) ?? [];
      if (!quarters.has(key)) quarters.set(key, group);
      found ??=
        group.find(
          (one) => likenessDistance(one.record.look!, look) <= SAME_LOOK && one.record.options.use === record.options.use && !twins(one.path, path),
        )?.path ?? null;
      // Many of one quarter are flat pictures; a few of them stand for all.
      if (group.length < 64) group.push({ path, record });
    }
    if (found === null) continue;
    const other = crate.manifest.assets[found];
    const sizes = other.width && record.width && other.width !== record.width ? `, ${record.width} and ${other.width} pixels wide` : '';
    const [large, small] = (other.width ?? 0) >= (record.width ?? 0) ? [found, path] : [path, found];
    findings.push(likeness(small, large, `${path} and ${found} look the same${sizes}.`, 'Look at both before you merge them.'));
  }
  return findings;
}

const likeness = (path: string, into: string, message: string, hint: string): Finding => ({
  code: 'link-alike',
  severity: 'note',
  stage: 'links',
  message,
  hint,
  place: { file: path },
  fix: crateFix(`Use ${into} everywhere`, { do: 'merge', into, from: [path] }),
});

/** Without case, accents and the two ways of writing them (Unicode normal forms, UAX #15). */
const folded = (path: string): string => path.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();

/** Names that some systems or people take for one another. */
function likeNames({ crate }: CrateWorld): Finding[] {
  const first = new Map<string, string>();
  const findings: Finding[] = [];
  for (const path of [...crate.files.map((file) => file.path), ...Object.keys(crate.scripts), ...Object.keys(crate.data)]) {
    const key = folded(path);
    const other = first.get(key);
    if (other === undefined) {
      first.set(key, path);
      continue;
    }
    const onlyCase = path.toLowerCase() === other.toLowerCase();
    findings.push({
      code: 'link-like-name',
      severity: onlyCase ? 'blocker' : 'warning',
      stage: 'links',
      message: `${path} and ${other} differ only in ${onlyCase ? 'case' : 'accents'}.`,
      hint: onlyCase
        ? 'Where the file system ignores case only one of them can be there: rename one.'
        : 'Some systems write accents in another way: rename one.',
      place: { file: path },
    });
  }
  return findings;
}

/** Names that stand for two things: in the crate, or in the crate and the game. */
function ofTwoMeanings({ crate, base }: CrateWorld): Finding[] {
  const findings: Finding[] = [];
  const stock = new Set(base.files.map((file) => file.path));
  for (const { path } of crate.files)
    if (stock.has(path) && assetKindOf(path))
      findings.push({
        code: 'link-two',
        severity: 'note',
        stage: 'links',
        message: `${path} is there twice: in the crate and in the game. The crate's is used.`,
        hint: 'Rename it where that is not meant.',
        place: { file: path },
      });
  const named = new Set<string>();
  for (const { name } of crate.manifest.materials) {
    if (named.has(name))
      findings.push({
        code: 'link-two',
        severity: 'warning',
        stage: 'links',
        message: `Two materials of the crate are called ${name}; the first counts.`,
        place: { file: `material:${name}` },
      });
    named.add(name);
  }
  return findings;
}

/** How many times finer than the game's finest a picture may be before it is told. */
const TOO_FINE = 2;

/**
 * Pictures that are finer wherever they are seen than the game's own finest, which is what its profile gives one repeat of the
 * largest picture. Faces are measured by their projection, models by the mean of their texture coordinates.
 */
function largerThanUse(world: CrateWorld, graph: LinkGraph): Finding[] {
  const { profile, crate } = world;
  const finest = profile.textures.maxSize / profile.textures.unitsPerRepeat;
  const reached = graph.reach(graph.roots);
  // For each picture the most that is asked of it: repeats per unit where it is stretched furthest.
  const loosest = new Map<string, number>();
  const ask = (material: string, repeats: number) => {
    const texture = findMaterial(world, material)?.material.texture;
    if (texture) loosest.set(texture, Math.min(loosest.get(texture) ?? Infinity, repeats));
  };
  for (const map of Object.values(crate.maps)) {
    const places = [map.solids, ...Object.values(map.prefabs).map((prefab) => prefab.solids)];
    for (const solids of places)
      for (const { faces } of Object.values(solids))
        for (const { material, scale = 1 } of faces) {
          const found = findMaterial(world, material)?.material;
          if (found) ask(material, 1 / (found.unitsPerRepeat * Math.max(...[scale].flat().map(Math.abs))));
        }
    for (const { surfaces } of Object.values(map.terrains))
      for (const { material } of surfaces) ask(material, 1 / (findMaterial(world, material)?.material.unitsPerRepeat ?? 1));
  }
  for (const id of reached) {
    if (!id.startsWith('model:')) continue;
    const record = assetRecord(world, id.slice('model:'.length));
    for (const { material } of record?.slots ?? []) if (material && record?.repeats) ask(material, record.repeats);
  }
  const findings: Finding[] = [];
  for (const [path, record] of Object.entries(crate.manifest.assets)) {
    const repeats = loosest.get(path);
    const { width, height, options } = record;
    if (repeats === undefined || !Number.isFinite(repeats) || !width || !height || options.use === 'sky') continue;
    const density = Math.max(width, height) * repeats;
    if (density <= finest * TOO_FINE) continue;
    const enough = 2 ** Math.ceil(Math.log2(finest / repeats));
    findings.push({
      code: 'link-too-fine',
      severity: 'note',
      stage: 'links',
      message: `${path} is ${width} × ${height} pixels: ${tidy(density)} to one of ${profile.unit.plural} wherever it is seen, where ${profile.title} has ${tidy(finest)} at most.`,
      hint: `${enough} along its longer side would look the same.`,
      place: { file: path },
      fix: { kind: 'reconvert', label: `Make it ${enough} wide`, file: path, options: { ...options, maxSize: enough } },
    });
  }
  return findings;
}

const tidy = (value: number): string => (value >= 10 ? String(Math.round(value)) : value.toFixed(1));
