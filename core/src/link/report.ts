/** What one map needs, where each part comes from and how big it is; and what the crate carries in vain. */

import { isBankPatch, isWorkingFile } from '../crate/contents.ts';
import type { CrateWorld } from '../crate/world.ts';
import { LinkGraph } from './graph.ts';
import { thingId, type Thing } from './thing.ts';

export interface Link extends Thing {
  /** Who needs it by itself: maps, materials or objects, in plain words; sorted. */
  usedBy: string[];
  /** Ids in the map of those who need it in the end, for *Show*. */
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

/** @param graph brought up to the world */
export function reportOf(graph: LinkGraph, world: CrateWorld, map: string): LinkReport {
  const root = thingId('map', map);
  const reached = graph.reach([root]);
  const places = placesIn(graph, map);
  const links: Link[] = [];
  for (const id of reached) {
    if (id === root) continue;
    const usedBy = new Set<string>();
    for (const tie of graph.neededBy(id)) {
      if (!reached.has(tie.from)) continue;
      for (const use of tie.uses.values()) usedBy.add(graph.whoIs(use));
    }
    links.push({ ...graph.thing(id), usedBy: [...usedBy].sort(), ...places(id) });
  }
  links.sort((a, b) => (a.kind < b.kind ? -1 : a.kind > b.kind ? 1 : a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
  const sum = (origin: Link['origin']) => links.filter((link) => link.origin === origin).reduce((total, link) => total + link.bytes, 0);
  const everywhere = graph.reach(graph.roots);
  const paths = new Set([...everywhere].map((id) => id.slice(id.indexOf(':') + 1)));
  return {
    map,
    links,
    unused: world.crate.files
      .filter(({ path }) => !paths.has(path) && !isWorkingFile(path) && !isBankPatch(path))
      .map(({ path, bytes }) => ({ path, bytes })),
    ownBytes: sum('crate'),
    gameBytes: sum('game'),
  };
}

/** Members of a map that lead to a thing: its own users, or those of what needs it. */
function placesIn(graph: LinkGraph, map: string): (id: string) => { solids: string[]; objects: string[] } {
  const known = new Map<string, { solids: string[]; objects: string[] }>();
  const find = (id: string): { solids: string[]; objects: string[] } => {
    const done = known.get(id);
    if (done) return done;
    const solids = new Set<string>();
    const objects = new Set<string>();
    const found = { solids: [] as string[], objects: [] as string[] };
    // Before its needers are asked: functions may call one another in a circle.
    known.set(id, found);
    for (const tie of graph.neededBy(id)) {
      for (const use of tie.uses.values()) {
        if (use.map !== map) continue;
        if (use.solid !== undefined) solids.add(use.solid);
        if (use.object !== undefined) objects.add(use.object);
      }
      if (tie.from.startsWith('map:')) continue;
      const above = find(tie.from);
      for (const one of above.solids) solids.add(one);
      for (const one of above.objects) objects.add(one);
    }
    found.solids = [...solids];
    found.objects = [...objects];
    return found;
  };
  return find;
}

/** One map of a crate, looked at anew. Who looks again and again keeps a graph, and asks `reportOf`. */
export const linkMap = (world: CrateWorld, map: string): LinkReport => reportOf(new LinkGraph(world), world, map);
