import { boxOfPoints, type Box3 } from '../../math/box3.ts';
import type { SealTree } from '../sealing/stage.ts';
import { BitRows } from './bits.ts';
import { visibleSets } from './pvs.ts';

export interface VisibilityOutput {
  /** Leaves of the tree that are cells, by cell. */
  leaves: number[];
  /** cells × cells: what can be seen from where, itself included. */
  visible: BitRows;
  gates: number;
  unfinished: number;
  /** Sector of every cell: neighbours that see nearly the same are drawn together. */
  sectors: number[];
  sectorCount: number;
  /** sectors × sectors. */
  sectorVisible: BitRows;
}

export interface VisibilityOptions {
  way: 'fast' | 'full';
  /** Cells farther apart than this do not see each other; 0 for no limit. Units. */
  farthest: number;
}

/** @param inside the free leaves that count: those that objects reach */
export function buildVisibility(
  { portals }: Pick<SealTree, 'portals'>,
  inside: readonly number[],
  { way, farthest }: VisibilityOptions,
  onProgress: (fraction: number) => void = () => {},
): VisibilityOutput {
  const cellOf = new Map(inside.map((leaf, cell) => [leaf, cell]));
  const between = portals.flatMap((portal) => {
    const [a, b] = [cellOf.get(portal.a), cellOf.get(portal.b)];
    return a !== undefined && b !== undefined ? [{ ...portal, a, b }] : [];
  });
  const { visible, gates, unfinished } = visibleSets(inside.length, between, way, onProgress);
  if (farthest > 0) {
    const boxes = cellBoxes(inside.length, between);
    for (let a = 0; a < inside.length; a++)
      for (let b = 0; b < a; b++)
        if (visible.has(a, b) && gap(boxes[a], boxes[b]) > farthest) {
          visible.clear(a, b);
          visible.clear(b, a);
        }
  }
  const sectors = joinAlike(inside.length, between, visible);
  const sectorCount = Math.max(0, ...sectors.map((s) => s + 1));
  const sectorVisible = new BitRows(sectorCount, sectorCount);
  for (let a = 0; a < inside.length; a++) for (let b = 0; b < inside.length; b++) if (visible.has(a, b)) sectorVisible.set(sectors[a], sectors[b]);
  return { leaves: [...inside], visible, gates, unfinished, sectors, sectorCount, sectorVisible };
}

/** Boxes about the openings of cells: every sight into a cell passes one of them. */
function cellBoxes(count: number, portals: readonly { a: number; b: number; winding: readonly (readonly number[])[] }[]): (Box3 | null)[] {
  const points: (readonly number[])[][] = Array.from({ length: count }, () => []);
  for (const { a, b, winding } of portals) for (const cell of [a, b]) points[cell].push(...winding);
  return points.map((list) => (list.length > 0 ? boxOfPoints(list) : null));
}

function gap(a: Box3 | null, b: Box3 | null): number {
  if (!a || !b) return 0;
  return Math.hypot(...[0, 1, 2].map((k) => Math.max(0, a.min[k] - b.max[k], b.min[k] - a.max[k])));
}

/** Share of what two cells see together that both have to see to be drawn as one. */
const ALIKE = 0.7;

/** Joins neighbouring cells whose visible sets are alike; sectors are numbered by their first cell. */
function joinAlike(count: number, portals: readonly { a: number; b: number; area: number }[], visible: BitRows): number[] {
  const parent = Array.from({ length: count }, (_, i) => i);
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]];
    return i;
  };
  const alike = (a: number, b: number): boolean => {
    const [rowA, rowB] = [visible.row(a), visible.row(b)];
    const both = new BitRows(2, visible.columns);
    rowA.forEach((word, k) => {
      both.row(0)[k] = word & rowB[k];
      both.row(1)[k] = word | rowB[k];
    });
    return both.count(0) >= ALIKE * both.count(1);
  };
  // Wide openings first, so that rooms grow together before they meet through doors.
  for (const { a, b } of [...portals].sort((p, q) => q.area - p.area || p.a - q.a || p.b - q.b)) {
    const [x, y] = [find(a), find(b)];
    if (x !== y && alike(x, y)) parent[Math.max(x, y)] = Math.min(x, y);
  }
  const numbers = new Map<number, number>();
  return parent.map((_, i) => {
    const root = find(i);
    if (!numbers.has(root)) numbers.set(root, numbers.size);
    return numbers.get(root)!;
  });
}

/** Layout: u32 length of a JSON head (little endian), the head, padding to 4, rows of `visible`, rows of `sectorVisible`. */
export function encodeVisibility({ visible, sectorVisible, ...head }: VisibilityOutput): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(head));
  const start = 4 + Math.ceil(text.length / 4) * 4;
  const bytes = new Uint8Array(start + visible.data.byteLength + sectorVisible.data.byteLength);
  new DataView(bytes.buffer).setUint32(0, text.length, true);
  bytes.set(text, 4);
  bytes.set(new Uint8Array(visible.data.buffer), start);
  bytes.set(new Uint8Array(sectorVisible.data.buffer), start + visible.data.byteLength);
  return bytes;
}

export function decodeVisibility(bytes: Uint8Array): VisibilityOutput {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length))) as Omit<VisibilityOutput, 'visible' | 'sectorVisible'>;
  const words = new Uint32Array(bytes.slice(4 + Math.ceil(length / 4) * 4).buffer);
  const count = head.leaves.length;
  const first = new BitRows(count, count).data.length;
  return {
    ...head,
    visible: new BitRows(count, count, words.slice(0, first)),
    sectorVisible: new BitRows(head.sectorCount, head.sectorCount, words.slice(first)),
  };
}
