/** Prefabs: saving a selection as one, placing copies, and turning copies into what they stand for. */

import type { CrateWorld } from '../crate/world.ts';
import { freeName } from '../crate/naming.ts';
import type { Finding } from '../finding.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';
import { applyAffine, rotation, transformSolid, type Affine } from '../solid/transform.ts';
import { freshId, type Change, type MapEdit } from '../document/edit.ts';
import { deleteMembers, noMembers } from '../document/members.ts';
import { withReferences } from './references.ts';
import { cycleProblem, memberCounter, MOST_MEMBERS, nameOf, prefabCycle, prefabsOf } from '../document/prefabGraph.ts';
import type { Contact, Copy, GameMap, MapObject, Prefab, Signal } from '../document/schema.ts';
import { own } from '../own.ts';

/** The prefab of that id, of the map or else of the game. */
export const findPrefab = (map: GameMap, profile: Profile, id: string): Prefab | undefined => prefabsOf(map, profile)(id);

const placing = (copy: Pick<Copy, 'position' | 'turn'>): Affine => {
  const turn = rotation(2, copy.turn, [0, 0, 0]);
  return { rows: turn.rows, move: copy.position };
};

const placeObject = (object: MapObject, affine: Affine, turn: number): MapObject => ({
  ...object,
  position: applyAffine(affine, object.position),
  turn: (((object.turn + turn) % 360) + 360) % 360,
  ...(object.shape ? { shape: transformSolid(object.shape, affine, true) } : {}),
});

/** Copies that can be laid out, in their order until the map is full, and how much all of them would come to. */
function layOut(map: GameMap, profile: Profile): { fits: Set<string>; members: number } {
  const count = memberCounter(prefabsOf(map, profile));
  const fits = new Set<string>();
  let [members, kept] = [0, 0];
  for (const [id, copy] of Object.entries(map.copies)) {
    const own = count(copy.prefab);
    if (Number.isFinite(own)) members += own;
    if (kept + own > MOST_MEMBERS) continue;
    kept += own;
    fits.add(id);
  }
  return { fits, members };
}

const expanded = new WeakMap<GameMap, { profile: Profile; map: GameMap }>();

/**
 * The map with every copy replaced by its solids, objects and signals. Ids and names within a copy are
 * prefixed by the copy's own, so they stay unique. Copies of unknown prefabs, of prefabs that hold themselves, and
 * those that would bring the map above `MOST_MEMBERS` yield nothing; `checkPrefabs` names them.
 */
export function expandMap(map: GameMap, profile: Profile): GameMap {
  if (Object.keys(map.copies).length === 0) return map;
  const known = expanded.get(map);
  if (known?.profile === profile) return known.map;
  const out: GameMap = { ...map, solids: { ...map.solids }, objects: { ...map.objects }, signals: { ...map.signals }, copies: {} };
  const place = (id: string, name: string, copy: Copy, outer: Affine, outerTurn: number, contact: Contact) => {
    const prefab = findPrefab(map, profile, copy.prefab);
    if (!prefab) return;
    const placed = placing(copy);
    const affine: Affine = {
      rows: placed.rows.map((_, i) => [0, 1, 2].map((j) => outer.rows[i].reduce((sum, v, k) => sum + v * placed.rows[k][j], 0))) as Affine['rows'],
      move: applyAffine(outer, placed.move),
    };
    const turn = outerTurn + copy.turn;
    for (const [solidId, solid] of Object.entries(prefab.solids)) out.solids[`${id}_${solidId}`] = transformSolid(solid, affine, true);
    for (const [objectId, object] of Object.entries(prefab.objects)) {
      const values = prefab.parameters.filter((p) => p.object === objectId && Object.hasOwn(copy.values, p.id));
      const placed = withReferences(profile, placeObject(object, affine, turn), (other) =>
        Object.hasOwn(prefab.objects, other) ? `${id}_${other}` : other,
      );
      out.objects[`${id}_${objectId}`] = {
        ...placed,
        name: `${name}_${object.name}`,
        properties: { ...placed.properties, ...Object.fromEntries(values.map((p) => [p.property, copy.values[p.id]])) },
        ...(contact ? { contact } : {}),
      };
    }
    for (const [signalId, signal] of Object.entries(prefab.signals)) {
      const to: Signal['to'] = 'object' in signal.to ? { ...signal.to, object: `${id}_${signal.to.object}` } : signal.to;
      out.signals[`${id}_${signalId}`] = { ...signal, from: `${id}_${signal.from}`, to };
    }
    for (const [innerId, inner] of Object.entries(prefab.copies)) place(`${id}_${innerId}`, `${name}_${inner.name}`, inner, affine, turn, contact);
  };
  const { fits } = layOut(map, profile);
  for (const [id, copy] of Object.entries(map.copies))
    if (fits.has(id)) place(id, copy.name, copy, placing({ position: [0, 0, 0], turn: 0 }), 0, copy.contact);
  expanded.set(map, { profile, map: out });
  return out;
}

/** The crate as builds and checks of whole maps see it: without copies. */
export function expandWorld(world: CrateWorld): CrateWorld {
  const maps = Object.fromEntries(Object.entries(world.crate.maps).map(([name, map]) => [name, expandMap(map, world.profile)]));
  return { ...world, crate: { ...world.crate, maps } };
}

/** The copy that an id of the expanded map belongs to, or null for the map's own members. */
export function copyOf(map: GameMap, id: string): string | null {
  if (Object.hasOwn(map.solids, id) || Object.hasOwn(map.objects, id)) return null;
  return Object.keys(map.copies).find((copy) => id.startsWith(`${copy}_`)) ?? null;
}

export interface PrefabMembers {
  solids: readonly string[];
  objects: readonly string[];
  copies: readonly string[];
}

/**
 * Takes members out of the map, saves them as a prefab about `origin`, and places one copy where they were.
 * Signals between members go along; signals to others stay behind, at the copy's members, and are kept.
 */
export function makePrefab(
  map: GameMap,
  profile: Profile,
  name: string,
  members: PrefabMembers,
  origin: Vec3,
): { edit: MapEdit; prefab: string; copy: string } {
  const prefabId = freshId(map.prefabs, 'p');
  const copyId = freshId(map.copies, 'c');
  const back: Affine = { rows: placing({ position: [0, 0, 0], turn: 0 }).rows, move: [-origin[0], -origin[1], -origin[2]] };
  const pick = <T>(from: Record<string, T>, ids: readonly string[]) => Object.fromEntries(ids.filter((id) => from[id]).map((id) => [id, from[id]]));
  const inside = new Set(members.objects);
  const prefab: Prefab = {
    name,
    parameters: [],
    solids: Object.fromEntries(Object.entries(pick(map.solids, members.solids)).map(([id, solid]) => [id, transformSolid(solid, back, true)])),
    objects: Object.fromEntries(Object.entries(pick(map.objects, members.objects)).map(([id, object]) => [id, placeObject(object, back, 0)])),
    signals: {},
    copies: Object.fromEntries(
      Object.entries(pick(map.copies, members.copies)).map(([id, copy]) => [id, { ...copy, position: applyAffine(back, copy.position) }]),
    ),
  };
  const copy: Copy = {
    prefab: prefabId,
    name: freeName(
      name,
      Object.values(map.copies).map((c) => c.name),
    ),
    position: origin,
    turn: 0,
    values: {},
  };
  const changes: Change[] = [
    ...members.solids.map((id): Change => ({ of: 'solids', id, to: null })),
    ...members.objects.map((id): Change => ({ of: 'objects', id, to: null })),
    ...members.copies.map((id): Change => ({ of: 'copies', id, to: null })),
  ];
  for (const [id, object] of Object.entries(map.objects)) {
    if (inside.has(id)) continue;
    const next = withReferences(profile, object, (other) => (inside.has(other) ? `${copyId}_${other}` : other));
    if (next !== object) changes.push({ of: 'objects', id, to: next });
  }
  for (const [id, signal] of Object.entries(map.signals)) {
    const target = 'object' in signal.to ? signal.to.object : null;
    const [fromIn, toIn] = [inside.has(signal.from), target !== null && inside.has(target)];
    if (fromIn && (target === null || toIn)) {
      prefab.signals[id] = signal;
      changes.push({ of: 'signals', id, to: null });
    } else if (fromIn || toIn) {
      const to: Signal['to'] = toIn && 'object' in signal.to ? { ...signal.to, object: `${copyId}_${target}` } : signal.to;
      changes.push({ of: 'signals', id, to: { ...signal, from: fromIn ? `${copyId}_${signal.from}` : signal.from, to } });
    }
  }
  changes.push({ of: 'prefabs', id: prefabId, to: prefab }, { of: 'copies', id: copyId, to: copy });
  return { edit: { name: `make prefab ${name}`, changes }, prefab: prefabId, copy: copyId };
}

/** Puts one more copy into the map. */
export function placeCopy(map: GameMap, profile: Profile, prefab: string, position: Vec3, turn = 0): { edit: MapEdit; copy: string } {
  const id = freshId(map.copies, 'c');
  const { name } = findPrefab(map, profile, prefab)!;
  const taken = Object.values(map.copies).map((c) => c.name);
  const copy: Copy = { prefab, name: freeName(name, taken), position, turn, values: {} };
  return { edit: { name: `place ${name}`, changes: [{ of: 'copies', id, to: copy }] }, copy: id };
}

/** Members of one copy as members of the map, no longer linked to the prefab. Signals that name them follow. */
export function makeIndependent(map: GameMap, profile: Profile, copyId: string): { edit: MapEdit; solids: string[]; objects: string[] } {
  const alone = expandMap({ ...map, solids: {}, objects: {}, signals: {}, copies: { [copyId]: map.copies[copyId] } }, profile);
  const changes: Change[] = [{ of: 'copies', id: copyId, to: null }];
  const renamed = new Map<string, string>();
  const names = Object.values(map.objects).map((o) => o.name);
  const solids: string[] = [];
  for (const solid of Object.values(alone.solids)) {
    const id = freshId(map.solids, 's', new Set(solids));
    solids.push(id);
    changes.push({ of: 'solids', id, to: solid });
  }
  for (const old of Object.keys(alone.objects)) renamed.set(old, freshId(map.objects, 'o', new Set(renamed.values())));
  const follow = (id: string) => renamed.get(id) ?? id;
  for (const [old, object] of Object.entries(alone.objects)) {
    const id = follow(old);
    const name = freeName(object.name, names);
    names.push(name);
    changes.push({ of: 'objects', id, to: { ...withReferences(profile, object, follow), name } });
  }
  for (const [id, object] of Object.entries(map.objects)) {
    const next = withReferences(profile, object, follow);
    if (next !== object) changes.push({ of: 'objects', id, to: next });
  }
  const followed = (signal: Signal): Signal => ({
    ...signal,
    from: follow(signal.from),
    to: 'object' in signal.to ? { ...signal.to, object: follow(signal.to.object) } : signal.to,
  });
  const signals = new Set<string>();
  for (const signal of Object.values(alone.signals)) {
    const id = freshId(map.signals, 'g', signals);
    signals.add(id);
    changes.push({ of: 'signals', id, to: followed(signal) });
  }
  for (const [id, signal] of Object.entries(map.signals)) {
    const next = followed(signal);
    if (JSON.stringify(next) !== JSON.stringify(signal)) changes.push({ of: 'signals', id, to: next });
  }
  return { edit: { name: `make ${map.copies[copyId].name} independent`, changes }, solids, objects: [...renamed.values()] };
}

/**
 * A map in which a prefab is edited in place: its members stand where the copy stands, everything else is gone.
 * `savePrefab` takes the outcome back.
 */
export function openPrefab(map: GameMap, copyId: string): GameMap | null {
  const copy = map.copies[copyId];
  const prefab = copy && own(map.prefabs, copy.prefab);
  if (!prefab) return null;
  const affine = placing(copy);
  return {
    ...map,
    solids: Object.fromEntries(Object.entries(prefab.solids).map(([id, solid]) => [id, transformSolid(solid, affine, true)])),
    objects: Object.fromEntries(Object.entries(prefab.objects).map(([id, object]) => [id, placeObject(object, affine, copy.turn)])),
    signals: prefab.signals,
    copies: Object.fromEntries(
      Object.entries(prefab.copies).map(([id, inner]) => [
        id,
        { ...inner, position: applyAffine(affine, inner.position), turn: inner.turn + copy.turn },
      ]),
    ),
  };
}

/** The edit that brings what was done to an opened prefab back into it: all its copies follow. */
export function savePrefab(map: GameMap, copyId: string, opened: GameMap): MapEdit | string {
  const copy = map.copies[copyId];
  const prefab = map.prefabs[copy.prefab];
  const turnBack = rotation(2, -copy.turn, [0, 0, 0]);
  const moved = applyAffine(turnBack, copy.position);
  const back: Affine = { rows: turnBack.rows, move: [-moved[0], -moved[1], -moved[2]] };
  const next: Prefab = {
    ...prefab,
    parameters: prefab.parameters.filter((p) => Object.hasOwn(opened.objects, p.object)),
    solids: Object.fromEntries(Object.entries(opened.solids).map(([id, solid]) => [id, transformSolid(solid, back, true)])),
    objects: Object.fromEntries(Object.entries(opened.objects).map(([id, object]) => [id, placeObject(object, back, -copy.turn)])),
    signals: opened.signals,
    copies: Object.fromEntries(
      Object.entries(opened.copies).map(([id, inner]) => [
        id,
        { ...inner, position: applyAffine(back, inner.position), turn: inner.turn - copy.turn },
      ]),
    ),
  };
  const problem = cycleProblem({ prefabs: { ...map.prefabs, [copy.prefab]: next } });
  if (problem) return problem;
  return { name: `change prefab ${prefab.name}`, changes: [{ of: 'prefabs', id: copy.prefab, to: next }] };
}

/** Takes a prefab out of the map together with its copies; a reason where another prefab holds copies of it. */
export function deletePrefab(map: GameMap, id: string): MapEdit | string {
  const holder = Object.values(map.prefabs).find((prefab) => Object.values(prefab.copies).some((copy) => copy.prefab === id));
  if (holder) return `${holder.name} holds copies of ${map.prefabs[id].name}: take them out of it first.`;
  const copies = Object.keys(map.copies).filter((copy) => map.copies[copy].prefab === id);
  const { changes } = deleteMembers(map, { ...noMembers, copies });
  return { name: `delete prefab ${map.prefabs[id].name}`, changes: [...changes, { of: 'prefabs', id, to: null }] };
}

/** Copies of what does not exist, prefabs that hold themselves, and copies that the game requires and are missing. */
export function checkPrefabs(world: CrateWorld, name: string): Finding[] {
  const map = world.crate.maps[name];
  const findings: Finding[] = [];
  for (const [id, copy] of Object.entries(map.copies)) {
    if (findPrefab(map, world.profile, copy.prefab)) continue;
    findings.push({
      code: 'prefab-missing',
      severity: 'blocker',
      stage: 'map',
      message: `${copy.name} is a copy of a prefab that is gone.`,
      hint: 'Undo the deletion of the prefab, or remove the copy.',
      place: { map: name, copy: id, point: copy.position },
      fix: { kind: 'edit', label: 'Remove the copy', edit: { name: `remove ${copy.name}`, changes: [{ of: 'copies', id, to: null }] } },
    });
  }
  const cycle = prefabCycle(Object.keys(map.prefabs), prefabsOf(map, world.profile));
  if (cycle)
    findings.push({
      code: 'prefab-cycle',
      severity: 'blocker',
      stage: 'map',
      message: `Prefab ${nameOf(map, cycle[0])} holds itself: ${cycle.map((id) => nameOf(map, id)).join(' → ')}.`,
      hint: 'Open it and remove the copy inside. Until then its copies are left out.',
      place: { map: name },
    });
  const { members } = layOut(map, world.profile);
  if (members > MOST_MEMBERS)
    findings.push({
      code: 'prefab-too-many',
      severity: 'blocker',
      stage: 'map',
      message: `The copies of prefabs come to ${members.toLocaleString('en')} solids, objects and signals; at most ${MOST_MEMBERS.toLocaleString('en')} are laid out.`,
      hint: 'Look for a prefab that holds many copies of one which holds many itself.',
      place: { map: name },
    });
  for (const rule of world.profile.requiredPrefabs ?? []) {
    if (Object.values(map.copies).some((copy) => copy.prefab === rule.prefab)) continue;
    const stock = own(world.profile.prefabs ?? {}, rule.prefab);
    if (!stock) continue;
    const { edit } = placeCopy(map, world.profile, rule.prefab, [0, 0, 0]);
    findings.push({
      code: 'required-prefab',
      severity: 'blocker',
      stage: 'map',
      message: `The map has no ${stock.name}: ${rule.reason}.`,
      place: { map: name },
      fix: { kind: 'edit', label: `Place ${stock.name}`, edit },
    });
  }
  return findings;
}
