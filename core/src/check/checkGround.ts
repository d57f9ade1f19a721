/** Findings of ground: tiles that cannot be read, and how things and zones lie on it. */

import type { CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { objectBox } from '../map/objectBox.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { smoothLine } from '../math/smoothLine.ts';
import type { Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import { factOf } from '../profile/parts.ts';
import { slopeOf } from '../profile/player.ts';
import { steepestFor } from '../profile/vehicle.ts';
import { measure } from '../route/ribbon.ts';
import { groundBelow, groundsOf, type Ground } from '../terrain/ground.ts';
import { tileDamage } from '../terrain/tile.ts';
import { stands } from './checkStand.ts';
import { solidGrid } from './solidGrid.ts';

const round = (v: number) => Math.round(v * 100) / 100;

/** @param map one whose prefabs are laid out */
export const checkGround = (world: CrateWorld, map: GameMap, mapName: string): Finding[] => [
  ...checkTiles(map, mapName),
  ...(Object.keys(map.terrains).length > 0 ? [...checkContact(world, map, mapName), ...checkRoads(world, map, mapName)] : []),
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
    if (object.contact === 'keep' || (!isZone && !stands(profile, object.class))) continue;
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

/** Roads have to lie on the ground that was shaped for them, and to be no steeper than what drives or walks on them can climb. */
function checkRoads({ profile }: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const grounds = groundsOf(map);
  const steepest = steepestFor(profile) ?? slopeOf(profile.player);
  const findings: Finding[] = [];
  for (const [id, path] of Object.entries(map.paths)) {
    if (path.road === undefined || path.contact === 'keep') continue;
    const line = smoothLine(path.points, path.loop, path.road);
    const laid = measure(line.map(([x, y, z]): Vec3 => [x, y, groundBelow(grounds, x, y)?.height ?? z]));
    const steep = laid.stations.reduce((worst, one) => (Math.abs(one.gradient) > Math.abs(worst.gradient) ? one : worst));
    const degrees = (Math.atan(Math.abs(steep.gradient) / 100) * 180) / Math.PI;
    if (degrees > steepest)
      findings.push({
        code: 'road-steep',
        severity: 'warning',
        stage: 'map',
        message: `The road ${path.name} has a slope of ${Math.round(degrees)}° at its steepest; ${Math.round(steepest)}° can be climbed.`,
        hint: 'Give its points other heights or lead it in bends, and lay it again.',
        place: { map: mapName, point: steep.at },
      });
    const off = path.points.reduce(
      (worst, point, k) => {
        const height = groundBelow(grounds, point[0], point[1])?.height;
        const by = height === undefined ? 0 : point[2] - height;
        return Math.abs(by) > Math.abs(worst.by) ? { by, k } : worst;
      },
      { by: 0, k: 0 },
    );
    if (Math.abs(off.by) > profile.player.height / 2)
      findings.push({
        code: 'road-off-ground',
        severity: 'note',
        stage: 'map',
        message: `The road ${path.name} is ${round(Math.abs(off.by))} ${profile.unit.plural} ${off.by > 0 ? 'above' : 'under'} the ground at its point ${off.k}.`,
        hint: 'Lay the road again, so that the ground takes its heights, or let the path lie on the ground as it is.',
        place: { map: mapName, point: path.points[off.k] },
        fix: {
          kind: 'edit',
          label: 'Lay the path on the ground',
          edit: {
            name: `lay ${path.name} on the ground`,
            changes: [
              {
                of: 'paths',
                id,
                to: { ...path, points: path.points.map(([x, y, z]) => [x, y, round(groundBelow(grounds, x, y)?.height ?? z)] as Vec3) },
              },
            ],
          },
        },
      });
  }
  return findings;
}
