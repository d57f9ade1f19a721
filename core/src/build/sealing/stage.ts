import type { Finding } from '../../finding.ts';
import type { Solid } from '../../map/schema.ts';
import { addScaled, type Vec3 } from '../../math/vec3.ts';
import type { Surface } from '../surface.ts';
import { buildBsp, findPortals, leavesOfWinding } from './bsp.ts';
import { flood, type FloodSource, type Leak } from './flood.ts';

export interface SealingInputs {
  /** Solids that seal, by id. */
  solids: Record<string, Solid>;
  sources: { id: string; name: string; point: Vec3 }[];
}

export interface SealingOutput {
  leak: Leak | null;
  /** Number of cells, portals and reached cells: what the log says. */
  cells: number;
  portals: number;
  reached: number;
  /** Indices of the given surfaces that can be seen from within; all of them when there is a leak. */
  visible: number[];
  buried: string[];
}

/**
 * Decides whether the space around the objects is closed, and which surfaces face it. Without sources
 * (an empty map) everything counts as outside.
 */
export function sealMap(inputs: SealingInputs, surfaces: readonly Surface[], onProgress: (fraction: number) => void): SealingOutput {
  const bsp = buildBsp(
    Object.values(inputs.solids),
    inputs.sources.map((s) => s.point),
    (f) => onProgress(f * 0.7),
  );
  const portals = findPortals(bsp);
  onProgress(0.85);
  const sources: FloodSource[] = inputs.sources.map(({ id, point }) => ({ id, point }));
  const { inside, buried, leak } = flood(bsp, portals, sources);
  const visible: number[] = [];
  surfaces.forEach((surface, index) => {
    if (leak) {
      visible.push(index);
      return;
    }
    // A little in front of the surface, so that the leaf before it is met and not the solid behind.
    const lifted = surface.winding.map((point) => addScaled(point, surface.normal, 0.02));
    for (const leaf of leavesOfWinding(bsp.root, lifted)) {
      if (inside.has(leaf.index)) {
        visible.push(index);
        return;
      }
    }
  });
  return { leak, cells: bsp.leaves.length, portals: portals.length, reached: inside.size, visible, buried: buried.map((s) => s.id) };
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
  if (output.leak) {
    const { leak } = output;
    const at = leak.hole.map((v) => Math.round(v)).join(', ');
    findings.push({
      code: 'leak',
      severity: 'blocker',
      stage: 'build',
      message: `The map leaks: from ${nameOf(leak.source.id)} there is a way to the outside through an opening of ${Math.round(leak.holeArea)} square ${unit} at ${at}.`,
      hint: 'Close the opening; the trail leads through it.',
      place: { map, object: leak.source.id, point: leak.hole, trail: leak.trail },
    });
  }
  return findings;
}
