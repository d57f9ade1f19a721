/** Findings of ground: tiles that cannot be read, and how things and zones lie on it. */

import type { CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { objectBox } from '../map/objectBox.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { own } from '../own.ts';
import { factOf } from '../profile/parts.ts';
import { groundBelow, groundsOf, type Ground } from '../terrain/ground.ts';
import { tileDamage } from '../terrain/tile.ts';
import { stands } from './checkStand.ts';
import { solidGrid } from './solidGrid.ts';

const round = (v: number) => Math.round(v * 100) / 100;

/** @param map one whose prefabs are laid out */
export const checkGround = (world: CrateWorld, map: GameMap, mapName: string): Finding[] => [
  ...checkTiles(map, mapName),
  ...(Object.keys(map.terrains).length > 0 ? checkContact(world, map, mapName) : []),
];

function checkTiles(map: GameMap, mapName: string): Finding[] {
  const findings: Finding[] = [];
  for (const [id, tile] of Object.entries(map.tiles)) {
    const terrain = own(map.terrains, tile.terrain);
    const place = { map: mapName };
    if (!terrain) {
      findings.push({
        code: 'tile-lost',
        severity: 'warning',
        stage: 'map',
        message: `The tile ${id} belongs to a ground that is not there.`,
        place,
        fix: { kind: 'edit', label: 'Remove it', edit: { name: `remove tile ${id}`, changes: [{ of: 'tiles', id, to: null }] } },
      });
      continue;
    }
    const damage = tileDamage(tile, terrain);
    if (damage.length > 0)
      findings.push({
        code: 'tile-damaged',
        severity: 'blocker',
        stage: 'map',
        message: `The tile ${id} of the ground ${terrain.name} cannot be read: ${damage.join(', ')}.`,
        hint: 'Restore an earlier revision of the map, or remove the tile and shape it anew.',
        place,
        fix: { kind: 'edit', label: 'Make the tile level', edit: { name: `level tile ${id}`, changes: [{ of: 'tiles', id, to: null }] } },
      });
  }
  return findings;
}

/** Share of the player's height by which something may float or sink before anybody notices. */
const SLACK = 0.15;

/** Lowest and highest ground under a box; null where some of it lies beside the ground. */
function groundUnder(grounds: readonly Ground[], { min, max }: Box3): { low: number; high: number } | null {
  let [low, high] = [Infinity, -Infinity];
  for (const x of [min[0], (min[0] + max[0]) / 2, max[0]])
    for (const y of [min[1], (min[1] + max[1]) / 2, max[1]]) {
      const below = groundBelow(grounds, x, y);
      if (!below) return null;
      low = Math.min(low, below.height);
      high = Math.max(high, below.height);
    }
  return { low, high };
}

function checkContact(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const { profile } = world;
  const grounds = groundsOf(map);
  const slack = profile.player.height * SLACK;
  const findings: Finding[] = [];
  const solids = solidGrid(profile, map);
  for (const [id, object] of Object.entries(map.objects)) {
    const isZone = factOf(profile, object.class, 'hollow') === true;
    if (!isZone && !stands(profile, object.class)) continue;
    const box = objectBox(world, object);
    const under = groundUnder(grounds, box);
    if (!under) continue;
    const place = { map: mapName, object: id, point: object.position };
    const moved = (to: number): Finding['fix'] => ({
      kind: 'edit',
      label: 'Put it on the ground',
      edit: {
        name: `put ${object.name} on the ground`,
        changes: [{ of: 'objects', id, to: { ...object, position: [object.position[0], object.position[1], to] } }],
      },
    });
    // A zone may reach into the ground and above it, but has to meet whoever moves on it.
    if (isZone) {
      if (box.min[2] <= under.high + slack && box.max[2] > under.low) continue;
      const above = box.min[2] > under.high;
      findings.push({
        code: above ? 'zone-in-air' : 'zone-buried',
        severity: 'warning',
        stage: 'map',
        message: above
          ? `${object.name} hangs ${round(box.min[2] - under.high)} ${profile.unit.plural} above the ground: nobody comes into it.`
          : `${object.name} lies wholly under the ground.`,
        place,
        fix: moved(under.low),
      });
      continue;
    }
    if (solids.near(box, slack).some((solid) => boxesTouch(box, solid, slack))) continue;
    const middle = groundBelow(grounds, object.position[0], object.position[1])!.height;
    const gap = box.min[2] - under.high;
    const depth = middle - box.max[2];
    if (gap > slack)
      findings.push({
        code: 'object-off-ground',
        severity: 'note',
        stage: 'map',
        message: `${object.name} floats ${round(gap)} ${profile.unit.plural} above the ground.`,
        place,
        fix: moved(middle),
      });
    else if (depth > 0)
      findings.push({
        code: 'object-buried',
        severity: 'note',
        stage: 'map',
        message: `${object.name} lies ${round(depth)} ${profile.unit.plural} under the ground.`,
        place,
        fix: moved(middle),
      });
  }
  return findings;
}
