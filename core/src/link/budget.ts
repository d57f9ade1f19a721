/** What a map costs against what the game is made for. */

import type { CrateWorld } from '../crate/world.ts';
import { linkMap } from './report.ts';
import { factOf } from '../profile/parts.ts';
import { surfacesOf } from '../map/member/members.ts';
import { trianglesOf } from '../map/member/surface.ts';
import { expandWorld } from '../map/prefab.ts';

export interface BudgetLine {
  id: 'solids' | 'triangles' | 'textures' | 'lights' | 'objects' | 'packageBytes';
  label: string;
  used: number;
  /** Null where the profile sets none. */
  limit: number | null;
}

/** Bytes that a built map takes per triangle of its solids, lightmap included; a rough figure. */
const BYTES_PER_TRIANGLE = 110;

/** Triangles are those of all faces; a build hides some and cuts others, so it is an estimate. */
export function budgetOf(given: CrateWorld, mapName: string): BudgetLine[] {
  const world = expandWorld(given);
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const links = linkMap(world, mapName);
  const triangles = surfacesOf(map).reduce((sum, surface) => sum + trianglesOf(surface), 0);
  const objects = Object.values(map.objects);
  const limits = profile.budgets;
  return [
    { id: 'solids', label: 'Solids', used: Object.keys(map.solids).length, limit: limits?.solids ?? null },
    { id: 'triangles', label: 'Triangles', used: triangles, limit: limits?.triangles ?? null },
    { id: 'textures', label: 'Textures', used: links.links.filter((l) => l.kind === 'texture').length, limit: limits?.textures ?? null },
    {
      id: 'lights',
      label: 'Lights',
      used: objects.filter((o) => factOf(profile, o.class, 'budget') === 'lights').length,
      limit: limits?.lights ?? null,
    },
    { id: 'objects', label: 'Objects', used: objects.length, limit: limits?.objects ?? null },
    {
      id: 'packageBytes',
      label: 'Package',
      used: links.ownBytes + triangles * BYTES_PER_TRIANGLE,
      limit: limits?.packageBytes ?? profile.package.maxBytes,
    },
  ];
}
