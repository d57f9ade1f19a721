import type { Finding } from '../../finding.ts';
import type { Solid } from '../../document/schema.ts';
import { addScaled, type Vec3 } from '../../math/vec3.ts';
import type { Surface } from '../surface/surface.ts';
import { buildBsp, findPortals, flattenBsp, leavesOfWinding, unflattenBsp, type Bsp, type FlatBsp, type Portal } from './bsp.ts';
import { flood, type FloodSource, type Leak } from './flood.ts';

export interface SealingInputs {
  /** Solids that seal, by id. */
  solids: Record<string, Solid>;
  /** Volumes that only split cells, by id. */
  dividers: Record<string, Solid>;
  sources: { id: string; name: string; point: Vec3 }[];
}

/** Space divided by the solids that seal: what the stage keeps, since it depends on solids alone. */
export interface SealTree {
  bsp: Bsp;
  portals: Portal[];
}

export interface SealingOutput {
  /** The shortest way out through every opening. */
  leaks: Leak[];
  /** Number of cells, portals and reached cells: what the log says. */
  cells: number;
  portals: number;
  reached: number;
  /** Free cells that an object reaches. */
  inside: number[];
  /** Indices of the given surfaces that can be seen from within; all of them when there is a leak. */
  visible: number[];
  buried: string[];
}

export function sealTree(solids: readonly Solid[], onProgress: (fraction: number) => void = () => {}, dividers: readonly Solid[] = []): SealTree {
  const bsp = buildBsp(solids, { dividers, onProgress: (f) => onProgress(f * 0.8) });
  const portals = findPortals(bsp);
  onProgress(1);
  return { bsp, portals };
}

export const encodeTree = ({ bsp, portals }: SealTree): Uint8Array =>
  new TextEncoder().encode(JSON.stringify({ bsp: flattenBsp(bsp), portals: portals.map(({ a, b, winding, area }) => [a, b, area, winding.flat()]) }));

export function decodeTree(bytes: Uint8Array): SealTree {
  const { bsp, portals } = JSON.parse(new TextDecoder().decode(bytes)) as { bsp: FlatBsp; portals: [number, number, number, number[]][] };
  return {
    bsp: unflattenBsp(bsp),
    portals: portals.map(([a, b, area, flat]) => ({
      a,
      b,
      area,
      winding: Array.from({ length: flat.length / 3 }, (_, i) => flat.slice(i * 3, i * 3 + 3) as Vec3),
    })),
  };
}

/**
 * Decides whether the space around the objects is closed, and which surfaces face it. Without sources
 * (an empty map) everything counts as outside.
 */
export function floodTree({ bsp, portals }: SealTree, given: SealingInputs['sources'], surfaces: readonly Surface[]): SealingOutput {
  const sources: FloodSource[] = given.map(({ id, point }) => ({ id, point }));
  const { inside, buried, leaks } = flood(bsp, portals, sources);
  const visible: number[] = [];
  surfaces.forEach((surface, index) => {
    if (leaks.length > 0 || cellsBefore(bsp, surface).some((leaf) => inside.has(leaf))) visible.push(index);
  });
  return {
    leaks,
    cells: bsp.leaves.length,
    portals: portals.length,
    reached: inside.size,
    inside: [...inside].sort((a, b) => a - b),
    visible,
    buried: buried.map((s) => s.id),
  };
}

/** The cells that a surface faces. */
export function cellsBefore(bsp: Bsp, surface: Surface): number[] {
  // A little in front of the surface, so that the leaf before it is met and not the solid behind.
  const lifted = surface.winding.map((point) => addScaled(point, surface.normal, 0.02));
  return [...leavesOfWinding(bsp.root, lifted)].filter((leaf) => !leaf.solid).map((leaf) => leaf.index);
}

/** Both at once, where nothing is kept: checks while drawing, for which dividers do not matter. */
export function sealMap(inputs: SealingInputs, surfaces: readonly Surface[], onProgress: (fraction: number) => void): SealingOutput {
  return floodTree(sealTree(Object.values(inputs.solids), onProgress), inputs.sources, surfaces);
}

export function sealingFindings(inputs: SealingInputs, output: SealingOutput, map: string, unit: string): Finding[] {
  const findings: Finding[] = [];
  const nameOf = (id: string) => inputs.sources.find((s) => s.id === id)?.name ?? id;
  for (const id of output.buried) {
    findings.push({
      code: 'object-in-solid',
      severity: 'warning',
      stage: 'build',
      message: `${nameOf(id)} lies inside a solid.`,
      hint: 'Move it into free space; it neither lights nor seals from there.',
      place: { map, object: id },
    });
  }
  output.leaks.forEach((leak, i) => {
    const at = leak.hole.map((v) => Math.round(v)).join(', ');
    const which = output.leaks.length > 1 ? ` (opening ${i + 1} of ${output.leaks.length})` : '';
    findings.push({
      code: 'leak',
      severity: 'blocker',
      stage: 'build',
      message: `The map leaks${which}: from ${nameOf(leak.source.id)} there is a way to the outside through an opening of ${Math.round(leak.holeArea)} square ${unit} at ${at}.`,
      hint: 'Close the opening; the trail leads through it.',
      place: { map, object: leak.source.id, point: leak.hole, trail: leak.trail },
    });
  });
  return findings;
}
