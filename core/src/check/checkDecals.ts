/** Findings of decals: what hangs in the air, what has lost its surface, and places where they lie many deep. */

import { findMaterial, type CrateWorld } from '../crate/world.ts';
import { hostsOf, layDecals } from '../decal/lay.ts';
import { groundHosts } from '../decal/onGround.ts';
import { lyingOf, throwing } from '../decal/throwing.ts';
import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { own } from '../own.ts';
import { materialType } from '../profile/schema.ts';
import { groundsOf } from '../terrain/ground.ts';
import { shapeOf } from '../solid/shape.ts';

/** Decals over each other at one place before it is said. */
const DEEP = 4;

/** @param map one whose prefabs are laid out */
export function checkDecals(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const all = lyingOf(map);
  if (Object.keys(all).length === 0) return [];
  const faces = Object.values(map.solids).flatMap((solid) =>
    shapeOf(solid).polygons.map(({ winding, face }) => ({ winding, normal: solid.faces[face].normal })),
  );
  const ground = groundHosts(
    groundsOf(map),
    Object.values(all).map((one) => throwing(one).box),
  );
  const laid = layDecals(all, hostsOf([...faces, ...ground]));
  const deepest = new Map<string, number>();
  for (const { decal, rank } of laid) deepest.set(decal, Math.max(deepest.get(decal) ?? 0, rank));
  const findings: Finding[] = [];
  for (const [id, decal] of Object.entries(all)) {
    const [kind, word, point] =
      'points' in decal ? (['overlays', 'overlay', decal.points[0]] as const) : (['decals', 'decal', decal.position] as const);
    const of = { stage: 'map' as const, place: { map: mapName, [word]: id, point } };
    const remove = { kind: 'edit' as const, label: `Delete ${decal.name}`, edit: { name: 'delete', changes: [{ of: kind, id, to: null }] } };
    if (decal.on !== undefined && !own(map.solids, decal.on))
      findings.push({
        ...of,
        code: 'decal-surface',
        severity: 'warning',
        message: `The ${word} ${decal.name} was on solid ${decal.on}, which is gone.`,
        hint: 'Drag it onto another surface, or delete it.',
        fix: remove,
      });
    else if (!deepest.has(id))
      findings.push({
        ...of,
        code: 'decal-air',
        severity: 'warning',
        message: `The ${word} ${decal.name} hangs in the air: no surface that looks its way is within ${decal.depth} ${world.profile.unit.plural} of it.`,
        hint: 'Drag it onto a surface, give it more depth, or delete it.',
        fix: remove,
      });
    if ((deepest.get(id) ?? 0) > DEEP)
      findings.push({
        ...of,
        code: 'decal-deep',
        severity: 'note',
        message: `The ${word} ${decal.name} lies over ${deepest.get(id)! - 1} others.`,
        hint: 'Every one of them is drawn again for each pixel. Take out those that are hardly seen.',
      });
    const material = findMaterial(world, decal.material)?.material;
    if (material && !materialType(world.profile, material.type)?.decal)
      findings.push({
        ...of,
        code: 'decal-material',
        severity: 'note',
        message: `The ${word} ${decal.name} is of ${decal.material}, which is made for surfaces: ${material.type}.`,
        hint: 'It covers all of what it is thrown onto. Materials of decals have pictures that are clear around what they show.',
      });
  }
  return findings;
}
