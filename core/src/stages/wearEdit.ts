/** Wear by rule on what is seen of a map, by the same stages that build it. */

import { findMaterial, type CrateWorld } from '../crate/world.ts';
import { freeNames } from '../crate/naming.ts';
import { wornDecals, type WornSurface } from '../decal/wear.ts';
import { freshIds, type Change, type MapEdit } from '../document/edit.ts';
import type { GameMap, Wear } from '../document/schema.ts';
import { pickSolids } from '../map/pick.ts';
import { expandMap } from '../map/prefab.ts';
import { materialType } from '../profile/schema.ts';
import { seenSurfaces } from './unseenFaces.ts';

/** Puts the decals of a rule in the place of those that it made before; null where nothing changes. @param rule null takes them all away */
export function wearEdit(world: CrateWorld, map: GameMap, id: string, rule: Wear | null): MapEdit | null {
  const gone = Object.keys(map.decals).filter((decal) => map.decals[decal].rule === id);
  const changes: Change[] = [];
  if (rule !== map.wears[id] && !(rule === null && !map.wears[id])) changes.push({ of: 'wears', id, to: rule });
  changes.push(...gone.map((decal): Change => ({ of: 'decals', id: decal, to: null })));
  if (rule) {
    const whole = expandMap(map, world.profile);
    const surfaces = seenSurfaces(world, whole).flatMap(({ solid, material, normal, winding }): WornSurface[] => {
      const type = materialType(world.profile, findMaterial(world, material)?.material.type ?? '');
      return type?.sky || type?.opaque === false ? [] : [{ winding, normal, material, ...(map.solids[solid] ? { solid } : {}) }];
    });
    const floorBelow = (point: [number, number, number]) => {
      const [hit] = pickSolids(whole.solids, point, [0, 0, -1]);
      return hit ? point[2] - hit.t : null;
    };
    const kept = Object.entries(map.decals).filter(([decal]) => !gone.includes(decal));
    const nameFor = freeNames(kept.map(([, { name }]) => name));
    const made = wornDecals(id, rule, surfaces, floorBelow);
    const nextId = freshIds(map.decals, 'd');
    for (const decal of made) changes.push({ of: 'decals', id: nextId(), to: { name: nameFor(rule.name), ...decal } });
  }
  return changes.length > 0 ? { name: rule ? `wear ${rule.name}` : `take ${map.wears[id]?.name ?? 'wear'} away`, changes } : null;
}
