/**
 * Bytes by their cause: each thing lies under the one thing without which it would not be needed, so that a box is as large
 * as what would go with it. These are the immediate dominators of the graph of needs, by Cooper, Harvey and Kennedy, "A Simple,
 * Fast Dominance Algorithm" (2001). Members of maps are things of their own here: "what would go if this prop went".
 */

import type { CrateWorld } from '../crate/world.ts';
import type { LinkGraph } from './graph.ts';
import type { LinkKind } from './thing.ts';
import { splitId } from './thing.ts';

export interface Cause {
  id: string;
  kind: LinkKind | 'object' | 'solids' | 'crate';
  name: string;
  /** Of itself, and with all that is there because of it. */
  bytes: number;
  total: number;
  children: Cause[];
}

const ROOT = 'crate:';

/** The crate's own bytes by cause, the largest first. */
export function causesOf(graph: LinkGraph, world: CrateWorld): Cause {
  const next = steps(graph);
  const order = postorder(ROOT, next);
  const number = new Map(order.map((id, i) => [id, i]));
  const before: number[][] = order.map(() => []);
  order.forEach((id, i) => next(id).forEach((to) => before[number.get(to)!].push(i)));
  const root = order.length - 1;
  const dominator = new Int32Array(order.length).fill(-1);
  dominator[root] = root;
  const meet = (a: number, b: number): number => {
    while (a !== b)
      if (a < b) a = dominator[a];
      else b = dominator[b];
    return a;
  };
  for (let changed = true; changed;) {
    changed = false;
    for (let i = root - 1; i >= 0; i--) {
      let found = -1;
      for (const j of before[i]) if (dominator[j] >= 0) found = found < 0 ? j : meet(found, j);
      if (dominator[i] !== found) [dominator[i], changed] = [found, true];
    }
  }
  const causes = order.map((id) => causeOf(graph, world, id));
  // What is dominated comes before what dominates it, so that totals are whole when they are added.
  for (let i = 0; i < root; i++) {
    causes[i].total += causes[i].bytes;
    const above = causes[dominator[i]];
    above.total += causes[i].total;
    if (causes[i].total > 0) above.children.push(causes[i]);
  }
  for (const { children } of causes) children.sort((a, b) => b.total - a.total || (a.name < b.name ? -1 : 1));
  return causes[root];
}

/** Steps down, with the objects of maps between a map and what they need; solids of one material count as one. */
function steps(graph: LinkGraph): (id: string) => string[] {
  const byMember = new Map<string, Set<string>>();
  const down = new Map<string, Set<string>>();
  for (const root of graph.roots) {
    const below = new Set<string>();
    down.set(root, below);
    for (const { to, uses } of graph.needsOf(root))
      for (const { map, object } of uses.values()) {
        if (object === undefined) {
          below.add(to);
          continue;
        }
        const member = `object:${map}/${object}`;
        below.add(member);
        const needs = byMember.get(member);
        if (needs) needs.add(to);
        else byMember.set(member, new Set([to]));
      }
  }
  return (id) => {
    if (id === ROOT) return graph.roots;
    const own = down.get(id) ?? byMember.get(id);
    return own ? [...own] : graph.needsOf(id).map(({ to }) => to);
  };
}

function postorder(root: string, next: (id: string) => string[]): string[] {
  const order: string[] = [];
  const seen = new Set([root]);
  const open: { id: string; left: string[] }[] = [{ id: root, left: [...next(root)] }];
  while (open.length > 0) {
    const { id, left } = open[open.length - 1];
    const to = left.pop();
    if (to === undefined) {
      order.push(id);
      open.pop();
    } else if (!seen.has(to)) {
      seen.add(to);
      open.push({ id: to, left: [...next(to)] });
    }
  }
  return order;
}

function causeOf(graph: LinkGraph, { crate }: CrateWorld, id: string): Cause {
  if (id === ROOT) return { id, kind: 'crate', name: crate.manifest.title, bytes: 0, total: 0, children: [] };
  if (id.startsWith('object:')) {
    const [map, object] = id.slice('object:'.length).split('/');
    return { id, kind: 'object', name: crate.maps[map].objects[object]?.name ?? object, bytes: 0, total: 0, children: [] };
  }
  const { name, origin, bytes } = graph.thing(id);
  return { id, kind: splitId(id)[0], name, bytes: origin === 'crate' ? bytes : 0, total: 0, children: [] };
}
