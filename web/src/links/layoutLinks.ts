/** Where things stand when the graph of links is drawn: what needs left of what is needed. */

import { graphlib, layout } from '@dagrejs/dagre';
import type { LinkGraph } from '@violet-crate/core/link/graph';
import { LINK_KINDS, type LinkKind, type Thing } from '@violet-crate/core/link/thing';

export interface DrawnThing {
  id: string;
  kind: LinkKind;
  label: string;
  bytes: number;
  missing: boolean;
  /** Of how many things it is folded, where it is. */
  folded?: number;
  x: number;
  y: number;
}

export interface DrawnTie {
  from: string;
  to: string;
}

export interface LinkDrawing {
  things: DrawnThing[];
  ties: DrawnTie[];
}

export const WIDTH = 210;
export const HEIGHT = 34;
/**
 * Above so many things, or so many in one column, columns go on beside themselves: dagre does not break them, so that a map
 * that needs forty things could only be read from afar; and it takes more than linear time.
 */
const MOST_LAID_OUT = 160;
const MOST_IN_COLUMN = 16;

export interface Choice {
  /** Ids of what is drawn. */
  ids: ReadonlySet<string>;
  /** Kinds of which all members are drawn as one. */
  folded: ReadonlySet<LinkKind>;
}

export function drawLinks(graph: LinkGraph, { ids, folded }: Choice): LinkDrawing {
  const drawnAs = (id: string): string => {
    const { kind } = graph.thing(id);
    return folded.has(kind) ? `fold:${kind}` : id;
  };
  const things = new Map<string, DrawnThing>();
  for (const id of ids) {
    const thing = graph.thing(id);
    const as = drawnAs(id);
    const known = things.get(as);
    if (known) {
      known.bytes += thing.bytes;
      known.folded = (known.folded ?? 1) + 1;
      known.missing ||= thing.origin === 'missing';
      known.label = `${known.folded} × ${LINK_KINDS[thing.kind]}`;
    } else things.set(as, { id: as, kind: thing.kind, label: labelOf(thing), bytes: thing.bytes, missing: thing.origin === 'missing', x: 0, y: 0 });
  }
  const ties = new Map<string, DrawnTie>();
  for (const id of ids)
    for (const { to } of graph.needsOf(id)) {
      if (!ids.has(to)) continue;
      const [from, into] = [drawnAs(id), drawnAs(to)];
      if (from !== into) ties.set(`${from} ${into}`, { from, to: into });
    }
  const drawing = { things: [...things.values()], ties: [...ties.values()] };
  const columns = columnsOf(drawing);
  if (drawing.things.length <= MOST_LAID_OUT && columns.every((column) => column.length <= MOST_IN_COLUMN)) laidOut(drawing);
  else inColumns(drawing, columns);
  return drawing;
}

const labelOf = ({ kind, name }: Thing): string => (kind === 'function' ? `${name}()` : (name.split('/').pop() ?? name));

function laidOut({ things, ties }: LinkDrawing): void {
  const graph = new graphlib.Graph();
  graph.setGraph({ rankdir: 'LR', nodesep: 10, ranksep: 70 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const { id } of things) graph.setNode(id, { width: WIDTH, height: HEIGHT });
  for (const { from, to } of ties) graph.setEdge(from, to);
  layout(graph);
  for (const thing of things) {
    const { x, y } = graph.node(thing.id) as { x: number; y: number };
    Object.assign(thing, { x: x - WIDTH / 2, y: y - HEIGHT / 2 });
  }
}

const nextOf = (ties: readonly DrawnTie[]): Map<string, string[]> => {
  const next = new Map<string, string[]>();
  for (const { from, to } of ties) {
    const list = next.get(from);
    if (list) list.push(to);
    else next.set(from, [to]);
  }
  return next;
};

/** Columns by the longest way from the left. Circles stand in the first. */
function columnsOf({ things, ties }: LinkDrawing): string[][] {
  const next = nextOf(ties);
  const open = new Map<string, number>();
  for (const { to } of ties) open.set(to, (open.get(to) ?? 0) + 1);
  const tier = new Map<string, number>();
  const ready = things.filter(({ id }) => !open.has(id)).map(({ id }) => id);
  for (const id of ready)
    for (const to of next.get(id) ?? []) {
      tier.set(to, Math.max(tier.get(to) ?? 0, (tier.get(id) ?? 0) + 1));
      open.set(to, open.get(to)! - 1);
      if (open.get(to) === 0) ready.push(to);
    }
  const columns: string[][] = [];
  for (const { id } of things) (columns[tier.get(id) ?? 0] ??= []).push(id);
  return columns.filter(Boolean);
}

/** Within a column in the order of what needs them. */
function inColumns({ things, ties }: LinkDrawing, columns: string[][]): void {
  const byId = new Map(things.map((thing) => [thing.id, thing]));
  const next = nextOf(ties);
  // As high as wide, about.
  const rows = Math.max(MOST_IN_COLUMN, Math.ceil(Math.sqrt(things.length * 2.5)));
  const wanted = new Map<string, { sum: number; count: number }>();
  const mean = (id: string) => {
    const rows = wanted.get(id);
    return rows ? rows.sum / rows.count : 0;
  };
  let x = 0;
  for (const column of columns) {
    column.sort((a, b) => mean(a) - mean(b) || (a < b ? -1 : 1));
    const high = Math.ceil(column.length / Math.ceil(column.length / rows));
    column.forEach((id, i) => {
      const thing = byId.get(id)!;
      thing.x = x + Math.floor(i / high) * (WIDTH + 24);
      thing.y = ((i % high) - (high - 1) / 2) * (HEIGHT + 12);
      for (const to of next.get(id) ?? []) {
        const seen = wanted.get(to) ?? { sum: 0, count: 0 };
        wanted.set(to, { sum: seen.sum + i, count: seen.count + 1 });
      }
    });
    x += Math.ceil(column.length / high) * (WIDTH + 24) + 60;
  }
}
