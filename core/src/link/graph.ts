/**
 * What needs what in a crate, from its maps down to files. The graph is kept: an update goes through the members that are
 * other values than before (edits make new objects of what they change, and of nothing else) and leaves the rest as it is.
 */

import { own } from '../own.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { GameMap, Prefab } from '../document/schema.ts';
import { prefabsOf } from '../document/prefabGraph.ts';
import { assetKindOf, isFileKind } from '../crate/assetKind.ts';
import { readScript } from '../script/check.ts';
import { stringsOf, type LuaString } from '../script/strings.ts';
import {
  needsOfAsset,
  needsOfCopy,
  needsOfMaterial,
  needsOfObject,
  needsOfSignal,
  needsOfSolid,
  needsOfTable,
  needsOfEffect,
  needsOfTalk,
  needsOfTerrain,
  type Need,
} from './needs.ts';
import { recordsPath } from '../table/document.ts';
import { Tables } from '../table/tables.ts';
import { effectName, isEffect } from '../effect/document.ts';
import { effectsOf } from '../effect/effects.ts';
import { isTalk, MEMORY_PATH, talkName } from '../talk/document.ts';
import { talksOf } from '../talk/talks.ts';
import { thingId, thingOf, type Thing } from './thing.ts';

/** One reason why a thing needs another: which member, in which role. */
export interface Use {
  /** In plain words, where it is not an object, whose name is looked up when it is shown: renaming it touches no signal. */
  who: string;
  /** "12 faces", "model", "line 4". */
  what: string;
  /** For *Show*. */
  map?: string;
  solid?: string;
  object?: string;
  line?: number;
}

export interface Tie {
  from: string;
  to: string;
  /** At least one. */
  uses: Map<string, Use>;
}

/** A collection of members as the graph last saw it. */
interface Seen {
  records: unknown;
  /** What else its needs depend on. */
  context: readonly unknown[];
  members: Map<string, { value: unknown; uses: { tie: Tie; key: string }[] }>;
}

/** What a member needs, and by which of the things that it is part of. */
type Asked = { from: string; use: Omit<Use, 'what' | 'line'>; needs: Need[] }[];
type Follow = <T>(scope: string, records: Readonly<Record<string, T>>, needs: (value: T, id: string) => Asked, context?: readonly unknown[]) => void;

export class LinkGraph {
  /** What each thing needs, and what needs it. */
  private readonly needs = new Map<string, Map<string, Tie>>();
  private readonly needers = new Map<string, Map<string, Tie>>();
  private readonly seen = new Map<string, Seen>();
  /** Script that defines each global function. */
  private functions = new Map<string, string>();
  private things = new Map<string, Thing>();
  private world: CrateWorld;

  constructor(world: CrateWorld) {
    this.world = world;
    this.update(world);
  }

  /** Things of the crate that nothing needs for them to travel: its maps. */
  get roots(): string[] {
    return Object.keys(this.world.crate.maps).map((name) => thingId('map', name));
  }

  /** Brings the graph up to a changed crate. */
  update(world: CrateWorld): void {
    this.world = world;
    this.things = new Map();
    const { profile, crate, base } = world;
    const scopes = new Set<string>();
    const follow: Follow = (scope, records, needs, context = [profile]) => {
      scopes.add(scope);
      this.follow(scope, records, needs, context);
    };

    for (const [name, map] of Object.entries(crate.maps)) this.followMap(name, map, follow);
    for (const [id, prefab] of Object.entries(profile.prefabs ?? {}))
      follow(`game/prefabs/${id}`, { [id]: prefab }, (value) => this.prefabNeeds(thingId('prefab', `/${id}`), value, '', profile.prefabs ?? {}));
    // A material or asset of the crate hides the game's of the same name.
    const byName = (list: typeof crate.manifest.materials) => Object.fromEntries(list.map((material) => [material.name, material]));
    follow('materials', { ...byName(base.materials), ...byName(crate.manifest.materials) }, (material) => [
      { from: thingId('material', material.name), use: { who: `material ${material.name}` }, needs: needsOfMaterial(material) },
    ]);
    follow('assets', { ...base.assets, ...crate.manifest.assets }, (record, path) => {
      const kind = assetKindOf(path);
      return kind ? [{ from: thingId(kind, path), use: { who: `${kind} ${path}` }, needs: needsOfAsset(record) }] : [];
    });
    for (const name of Object.keys(crate.maps))
      follow(
        `requires/${name}`,
        crate.manifest.requires ?? {},
        (range, other) => [
          { from: thingId('map', name), use: { who: 'the crate', map: name }, needs: [{ to: thingId('crate', other), what: range }] },
        ],
        [],
      );
    this.followScripts(follow);
    for (const scope of [...this.seen.keys()]) if (!scopes.has(scope)) this.forget(scope);
  }

  thing(id: string): Thing {
    let known = this.things.get(id);
    if (!known) this.things.set(id, (known = thingOf(this.world, this.functions, id)));
    return known;
  }

  /** Who a use is by, in words. */
  whoIs({ who, map, object }: Use): string {
    const found = map !== undefined && object !== undefined ? own(own(this.world.crate.maps, map)?.objects ?? {}, object) : undefined;
    return found?.name ?? who;
  }

  /** What a thing needs by itself. */
  needsOf = (id: string): Tie[] => [...(this.needs.get(id)?.values() ?? [])];
  /** What needs a thing by itself. */
  neededBy = (id: string): Tie[] => [...(this.needers.get(id)?.values() ?? [])];
  tie = (from: string, to: string): Tie | undefined => this.needs.get(from)?.get(to);

  /** All that some things need in the end, with themselves, in the order in which it is come upon. @param without taken out */
  reach(from: readonly string[], without?: string): Set<string> {
    const found = new Set(from.filter((id) => id !== without));
    for (const id of found) for (const to of this.needs.get(id)?.keys() ?? []) if (to !== without) found.add(to);
    return found;
  }

  /** Everything that is there or asked for. */
  all(): Set<string> {
    const all = this.reach(this.roots);
    for (const id of this.needs.keys()) all.add(id);
    for (const id of this.needers.keys()) all.add(id);
    return all;
  }

  private followMap(name: string, map: GameMap, follow: Follow): void {
    const { profile } = this.world;
    const from = thingId('map', name);
    follow(`${name}/solids`, map.solids, (solid, id) => [{ from, use: { who: 'solids', map: name, solid: id }, needs: needsOfSolid(solid) }], []);
    follow(`${name}/objects`, map.objects, (object, id) => [
      { from, use: { who: 'an object', map: name, object: id }, needs: needsOfObject(profile, object, name) },
    ]);
    follow(`${name}/signals`, map.signals, (signal) => [
      { from, use: { who: 'a signal', map: name, object: signal.from }, needs: needsOfSignal(signal) },
    ]);
    follow(
      `${name}/copies`,
      map.copies,
      (copy) => {
        const prefab = { id: this.prefabId(name, map, copy.prefab), of: prefabsOf(map, profile)(copy.prefab) };
        return [{ from, use: { who: copy.name, map: name }, needs: needsOfCopy(profile, copy, name, prefab) }];
      },
      [profile, map.prefabs],
    );
    follow(
      `${name}/prefabs`,
      map.prefabs,
      (prefab, id) => this.prefabNeeds(thingId('prefab', `${name}/${id}`), prefab, name, map.prefabs),
      // A prefab may hold copies of another, with values for that one's parameters.
      [profile, map.prefabs],
    );
    follow(`${name}/terrains`, map.terrains, (terrain, id) => [
      { from, use: { who: `the ground ${terrain.name}`, map: name }, needs: needsOfTerrain(terrain, `${name}/${id}`) },
      ...terrain.surfaces.map((surface) => ({
        from: thingId('surface', `${name}/${id}/${surface.id}`),
        use: { who: `the ground ${terrain.name}`, map: name },
        needs: [{ to: thingId('material', surface.material), what: surface.label.toLowerCase() }],
      })),
    ]);
    follow(`${name}/decals`, map.decals, (decal) => [
      {
        from,
        use: { who: `the decal ${decal.name}`, map: name },
        needs: [{ to: thingId('material', decal.material), what: 'its picture' }],
      },
    ]);
    follow(`${name}/overlays`, map.overlays, (overlay) => [
      {
        from,
        use: { who: `the overlay ${overlay.name}`, map: name },
        needs: [{ to: thingId('material', overlay.material), what: 'its picture' }],
      },
    ]);
    const { skyMaterial, beds = [] } = map.settings;
    follow(`${name}/settings`, { settings: map.settings }, () => [
      { from, use: { who: 'the sky', map: name }, needs: skyMaterial ? [{ to: thingId('material', skyMaterial), what: 'picture' }] : [] },
      ...beds.map((bed) => ({
        from,
        use: { who: `the bed ${bed.name}`, map: name },
        needs: [...bed.loops, ...bed.shots].flatMap(({ sound }) => (sound ? [{ to: thingId('sound', sound), what: 'a sound of it' }] : [])),
      })),
      { from, use: { who: 'the map', map: name }, needs: [{ to: thingId('game', profile.id), what: 'is made for it' }] },
    ]);
  }

  private prefabId(map: string, { prefabs }: GameMap, id: string): string {
    return thingId('prefab', own(prefabs, id) ? `${map}/${id}` : `/${id}`);
  }

  private prefabNeeds(from: string, prefab: Prefab, map: string, siblings: Readonly<Record<string, Prefab>>) {
    const { profile } = this.world;
    const use = { who: `prefab ${prefab.name}`, ...(map ? { map } : {}) };
    return [
      ...Object.values(prefab.solids).map((solid) => ({ from, use, needs: needsOfSolid(solid) })),
      ...Object.values(prefab.objects).map((object) => ({ from, use, needs: needsOfObject(profile, object, map) })),
      ...Object.values(prefab.signals).map((signal) => ({ from, use, needs: needsOfSignal(signal) })),
      ...Object.values(prefab.copies).map((copy) => {
        const of = own(siblings, copy.prefab);
        const id = thingId('prefab', of && map ? `${map}/${copy.prefab}` : `/${copy.prefab}`);
        return { from, use, needs: needsOfCopy(profile, copy, map, { id, of: of ?? own(profile.prefabs ?? {}, copy.prefab) }) };
      }),
    ];
  }

  /** Scripts need what their texts name; a map needs all that the game runs in it, an object's own script through the object. */
  private followScripts(follow: Follow): void {
    const { crate, base } = this.world;
    const { materials } = crate.manifest;
    this.functions = new Map();
    for (const [path, source] of Object.entries(crate.scripts))
      for (const { name } of readScript(path, source).outline?.functions ?? [])
        if (name !== null && !this.functions.has(name)) this.functions.set(name, path);
    follow('scripts', crate.scripts, (source, path) => [{ from: thingId('script', path), use: { who: path }, needs: this.namedIn(source) }], [
      crate.files,
      materials,
      base,
    ]);
    follow(
      'functions',
      Object.fromEntries(this.functions),
      (path, name) => [{ from: thingId('function', name), use: { who: `${name}()` }, needs: [{ to: thingId('script', path), what: 'defines it' }] }],
      [],
    );
    this.followData(follow);
    // A script of objects alone runs with those.
    const byObjects = (path: string) =>
      this.neededBy(thingId('script', path)).some((tie) => [...tie.uses.keys()].some((key) => !/^(runs|functions)\//.test(key)));
    const shared = Object.fromEntries(Object.entries(crate.scripts).filter(([path]) => !byObjects(path)));
    for (const map of Object.keys(crate.maps))
      follow(
        `runs/${map}`,
        shared,
        (_, path) => [{ from: thingId('map', map), use: { who: 'the game', map }, needs: [{ to: thingId('script', path), what: 'runs it' }] }],
        [],
      );
  }

  /** Tables and conversations travel with every map: the game reads them all. */
  private followData(follow: Follow): void {
    const { crate, profile } = this.world;
    const tables = new Tables(profile.tables ?? [], crate.data);
    const held = Object.fromEntries(Object.entries(crate.data).filter(([path]) => path !== MEMORY_PATH));
    const idOf = (path: string) =>
      isTalk(path)
        ? thingId('talk', talkName(path))
        : isEffect(path)
          ? thingId('effect', effectName(path))
          : thingId('table', path.replace(/^records\/|\.json$/g, ''));
    follow('data', held, (text, path) => {
      if (isEffect(path))
        return effectsOf({ [path]: text }).effects.map(({ effect }) => ({ from: idOf(path), use: { who: path }, needs: needsOfEffect(effect) }));
      if (!isTalk(path)) {
        const found = [...tables].find(({ table }) => recordsPath(table.id) === path);
        return found ? [{ from: idOf(path), use: { who: path }, needs: needsOfTable(found.table, found.document) }] : [];
      }
      const { talks } = talksOf({ [path]: text });
      return talks.map(({ talk }) => ({ from: idOf(path), use: { who: path }, needs: needsOfTalk(talk) }));
    });
    for (const map of Object.keys(crate.maps))
      follow(
        `reads/${map}`,
        held,
        (_, path) => [{ from: thingId('map', map), use: { who: 'the game', map }, needs: [{ to: idOf(path), what: 'reads it' }] }],
        [],
      );
  }

  /** Assets and materials that a script names: by a text that is exactly their path or name. */
  private namedIn(source: string): Need[] {
    const { world } = this;
    let names = mentioned.get(world.crate.manifest.materials);
    if (!names) mentioned.set(world.crate.manifest.materials, (names = new Set(world.crate.manifest.materials.map(({ name }) => name))));
    return stringsOf(source).flatMap(({ value, line }: LuaString): Need[] => {
      const kind = /^[a-z]+\/[^\s]+\.[a-z0-9]+$/.test(value) ? assetKindOf(value) : null;
      if (kind && isFileKind(kind) && this.thing(thingId(kind, value)).origin !== 'missing')
        return [{ to: thingId(kind, value), what: `line ${line}`, line }];
      return names.has(value) ? [{ to: thingId('material', value), what: `line ${line}`, line }] : [];
    });
  }

  private follow<T>(scope: string, records: Readonly<Record<string, T>>, needs: (value: T, id: string) => Asked, context: readonly unknown[]): void {
    let seen = this.seen.get(scope);
    if (seen && seen.context.some((value, i) => value !== context[i])) {
      this.forget(scope);
      seen = undefined;
    }
    if (seen?.records === records) return;
    if (!seen) this.seen.set(scope, (seen = { records, context, members: new Map() }));
    seen.records = records;
    for (const [id, { value, uses }] of seen.members)
      if (own(records, id) !== value) {
        uses.forEach(this.untie);
        seen.members.delete(id);
      }
    for (const id in records) {
      if (seen.members.has(id)) continue;
      const value = records[id];
      const uses = needs(value, id).flatMap(({ from, use, needs: named }, part) =>
        named.map((need, n) => this.add(from, need, need.line === undefined ? `${scope}/${id}` : `${scope}/${id}/${part}/${n}`, use)),
      );
      seen.members.set(id, { value, uses });
    }
  }

  private forget(scope: string): void {
    for (const { uses } of this.seen.get(scope)?.members.values() ?? []) uses.forEach(this.untie);
    this.seen.delete(scope);
  }

  /** @param key one for each member, and for each line of a script */
  private add(from: string, { to, what, line }: Need, key: string, use: Omit<Use, 'what' | 'line'>): { tie: Tie; key: string } {
    let tie = this.needs.get(from)?.get(to);
    if (!tie) {
      tie = { from, to, uses: new Map() };
      under(this.needs, from).set(to, tie);
      under(this.needers, to).set(from, tie);
    }
    if (!tie.uses.has(key)) tie.uses.set(key, { ...use, what, ...(line === undefined ? {} : { line }) });
    return { tie, key };
  }

  private untie = ({ tie, key }: { tie: Tie; key: string }): void => {
    tie.uses.delete(key);
    if (tie.uses.size > 0) return;
    for (const [side, at, other] of [
      [this.needs, tie.from, tie.to],
      [this.needers, tie.to, tie.from],
    ] as const) {
      const ties = side.get(at);
      // A tie that went and came again is another one.
      if (ties?.get(other) !== tie) continue;
      ties.delete(other);
      if (ties.size === 0) side.delete(at);
    }
  };
}

/** Names of a crate's materials, by their list. */
const mentioned = new WeakMap<readonly unknown[], Set<string>>();

function under(side: Map<string, Map<string, Tie>>, id: string): Map<string, Tie> {
  let ties = side.get(id);
  if (!ties) side.set(id, (ties = new Map()));
  return ties;
}
