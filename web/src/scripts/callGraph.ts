/** Who calls whom in the scripts, laid out from the game downwards, with what nothing reaches. */

import { graphlib, layout } from '@dagrejs/dagre';
import type { Caller } from '@violet-crate/core/link/callers';
import { readScript } from '@violet-crate/core/script/check';

export interface GraphNode {
  id: string;
  /** Of what it is: a function of the crate, a script’s top level, an object that sends a signal, the game. */
  kind: 'function' | 'script' | 'object' | 'talk' | 'game';
  label: string;
  /** Where a function is written. */
  path?: string;
  line?: number;
  /** Nothing that runs leads to it. */
  unreached: boolean;
  x: number;
  y: number;
  width: number;
}
export interface GraphEdge {
  from: string;
  to: string;
  points: { x: number; y: number }[];
}
export interface CallGraph {
  nodes: GraphNode[];
  edges: GraphEdge[];
  width: number;
  height: number;
}

const HEIGHT = 26;
/** Pixels of a letter, and beside the words. */
const LETTER = 7.3;
const PADDING = 18;

export function callGraph(scripts: Readonly<Record<string, string>>, callers: ReadonlyMap<string, readonly Caller[]>): CallGraph {
  const nodes = new Map<string, Omit<GraphNode, 'x' | 'y' | 'width' | 'unreached'>>();
  for (const [path, source] of Object.entries(scripts))
    for (const { name, line } of readScript(path, source).outline?.functions ?? [])
      if (name) nodes.set(`function ${name}`, { id: `function ${name}`, kind: 'function', label: `${name}()`, path, line });
  const edges = new Map<string, { from: string; to: string }>();
  for (const [name, list] of callers) {
    const to = `function ${name}`;
    if (!nodes.has(to)) continue;
    for (const caller of list) {
      const node = nodeOf(caller);
      if (!nodes.has(node.id)) nodes.set(node.id, node);
      edges.set(`${node.id} > ${to}`, { from: node.id, to });
    }
  }
  const reached = new Set([...nodes.values()].filter(({ kind }) => kind !== 'function').map(({ id }) => id));
  for (let grown = true; grown;) {
    grown = false;
    for (const { from, to } of edges.values())
      if (reached.has(from) && !reached.has(to)) {
        reached.add(to);
        grown = true;
      }
  }
  const graph = new graphlib.Graph();
  graph.setGraph({ rankdir: 'LR', nodesep: 12, ranksep: 48, marginx: 12, marginy: 12 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const { id, label } of nodes.values()) graph.setNode(id, { width: label.length * LETTER + PADDING, height: HEIGHT });
  for (const { from, to } of edges.values()) if (from !== to) graph.setEdge(from, to);
  layout(graph);
  const { width = 0, height = 0 } = graph.graph() as { width?: number; height?: number };
  return {
    nodes: [...nodes.values()].map((node) => {
      const { x, y, width: own } = graph.node(node.id) as { x: number; y: number; width: number };
      return { ...node, x, y, width: own, unreached: !reached.has(node.id) };
    }),
    edges: graph
      .edges()
      .map(({ v, w }: { v: string; w: string }) => ({ from: v, to: w, points: (graph.edge(v, w) as { points: GraphEdge['points'] }).points })),
    width: Number.isFinite(width) ? width : 0,
    height: Number.isFinite(height) ? height : 0,
  };
}

function nodeOf({ by, name }: Caller): Omit<GraphNode, 'x' | 'y' | 'width' | 'unreached'> {
  if (by === 'function') return { id: `function ${name}`, kind: 'function', label: `${name}()` };
  const kind = by === 'signal' ? 'object' : by;
  return { id: `${kind} ${name}`, kind, label: by === 'script' ? name.slice('scripts/'.length) : name };
}

export const NODE_HEIGHT = HEIGHT;
