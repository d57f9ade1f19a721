/** Why something is in a package, and what would happen if it were not. */

import type { LinkGraph, Tie } from './graph.ts';
import type { Thing } from './thing.ts';

/** From a map to a thing, each tie a step. */
export type Chain = Tie[];

/** Chains that are told; of a texture that everything wears there may be millions. */
export const MOST_CHAINS = 60;

/** Chains from the maps to a thing, the shortest first, no thing twice in one. @returns at most `MOST_CHAINS`, and whether there are more */
export function chainsTo(graph: LinkGraph, id: string, roots: readonly string[] = graph.roots): { chains: Chain[]; more: boolean } {
  // Only through what leads there, so that no way ends in vain.
  const leads = new Set([id]);
  for (const one of leads) for (const { from } of graph.neededBy(one)) leads.add(from);
  const chains: Chain[] = [];
  const waiting: { at: string; chain: Chain }[] = roots.filter((root) => leads.has(root)).map((root) => ({ at: root, chain: [] }));
  for (let next = 0; next < waiting.length; next++) {
    const { at, chain } = waiting[next];
    if (at === id) {
      if (chain.length === 0) continue;
      chains.push(chain);
      if (chains.length === MOST_CHAINS) return { chains, more: next + 1 < waiting.length };
      continue;
    }
    for (const tie of graph.needsOf(at))
      if (leads.has(tie.to) && !chain.some(({ from }) => from === tie.to)) waiting.push({ at: tie.to, chain: [...chain, tie] });
    // Breadth first holds all beginnings at once: more of them than this say nothing that a reader would look at.
    if (waiting.length > 20_000) return { chains, more: true };
  }
  return { chains, more: false };
}

export interface Loss {
  /** What would be needed by no map any more, the thing itself with it. */
  goes: Thing[];
  /** Bytes of the crate's own among these. */
  bytes: number;
  /** Ties that would point to nothing. */
  breaks: Tie[];
}

/** What would happen without a thing. */
export function without(graph: LinkGraph, id: string): Loss {
  const before = graph.reach(graph.roots);
  const after = graph.reach(graph.roots, id);
  const goes = [...before].filter((one) => !after.has(one)).map((one) => graph.thing(one));
  return {
    goes,
    bytes: goes.reduce((sum, { origin, bytes }) => sum + (origin === 'crate' ? bytes : 0), 0),
    breaks: graph.neededBy(id).filter(({ from }) => before.has(from)),
  };
}
