/** Findings of routes: their stops, how steep they are, and where their jumps come down. */

import type { CrateWorld } from '../crate/world.ts';
import type { GameMap, MapObject, Route } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { objectBox } from '../map/objectBox.ts';
import { own } from '../own.ts';
import { numberOf } from '../part/part.ts';
import { hasPart } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { valueOf } from '../profile/valueOf.ts';
import { steepestFor } from '../profile/vehicle.ts';
import { jumpsOf } from '../route/jumps.ts';
import { beside, ribbonOf } from '../route/ribbon.ts';

const round = (v: number) => Math.round(v * 100) / 100;

/** Speed at which jumps are looked at, metres per second: a brisk ride. */
const BRISK = 18;

/** @param map one whose prefabs are laid out */
export function checkRoutes(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const { profile } = world;
  const findings: Finding[] = [];
  const metres = profile.unit.metres;
  const steepest = steepestFor(profile);
  for (const [routeId, route] of Object.entries(map.routes)) {
    const ribbon = ribbonOf(map, route);
    findings.push(...checkBranches(map, mapName, routeId, route));
    const place = (point: [number, number, number], object?: string) => ({ map: mapName, point, ...(object ? { object } : {}) });
    let last = -1;
    const stops = [...route.stops, route.finish];
    for (const [n, id] of [route.start, ...stops].entries()) {
      const object = own(map.objects, id);
      if (!object) {
        findings.push({
          code: 'route-stop-missing',
          severity: 'blocker',
          stage: 'map',
          message: `The route ${route.name} leads to ${id}, which is not there.`,
          hint: 'Take it out of the route, or choose another.',
          place: place(ribbon.stations[0]?.at ?? [0, 0, 0]),
        });
        continue;
      }
      const { along, off } = beside(ribbon, object.position);
      const box = objectBox(world, object);
      const reach = n === 0 ? route.width : Math.max(box.max[0] - box.min[0], box.max[1] - box.min[1]) / 2;
      if (off > reach)
        findings.push({
          code: 'route-misses',
          severity: 'blocker',
          stage: 'map',
          message: `The ribbon of ${route.name} passes ${object.name} ${round(off - reach)} ${profile.unit.plural} beside it.`,
          hint: 'Move the checkpoint onto the ribbon, or lead the ribbon through it.',
          place: place(object.position, id),
          fix: moveOnto(object, id, ribbon, along),
        });
      else if (route.laps === 1 && along < last - route.width)
        findings.push({
          code: 'route-order',
          severity: 'blocker',
          stage: 'map',
          message: `${object.name} comes after what the ribbon of ${route.name} passes later.`,
          hint: 'Put the checkpoints into the order of the ribbon.',
          place: place(object.position, id),
        });
      last = Math.max(last, along);
    }
    for (const { gradient, at } of steepest === null ? [] : [...ribbon.stations].sort((a, b) => b.gradient - a.gradient).slice(0, 1)) {
      const degrees = (Math.atan(gradient / 100) * 180) / Math.PI;
      if (degrees > steepest!)
        findings.push({
          code: 'route-steep',
          severity: 'warning',
          stage: 'map',
          message: `${route.name} climbs ${Math.round(degrees)}° at its steepest; vehicles get up ${Math.round(steepest!)}°.`,
          hint: 'Lay a road along it with the cuts balanced, or lead it another way.',
          place: place(at),
        });
    }
    const tough = toughness(profile, map);
    for (const { flight, takeOff, along } of jumpsOf(map, ribbon, BRISK / metres, profile.player.gravity, metres)) {
      if (!flight.landing)
        findings.push({
          code: 'jump-nowhere',
          severity: 'warning',
          stage: 'map',
          message: `The jump at ${Math.round(along)} ${profile.unit.plural} of ${route.name} leads beyond the ground at ${BRISK} m/s.`,
          place: place(takeOff.at),
        });
      else if (tough !== null && flight.into * metres > tough)
        findings.push({
          code: 'jump-hard',
          severity: 'warning',
          stage: 'map',
          message: `The jump at ${Math.round(along)} ${profile.unit.plural} of ${route.name} comes down at ${(flight.into * metres).toFixed(1)} m/s and ${Math.round(flight.angle)}° at ${BRISK} m/s: vehicles stand ${tough} m/s.`,
          hint: 'Let the ground fall away along the flight, or make the take-off lower.',
          place: place(flight.landing),
        });
    }
  }
  return findings;
}

/** Branches have to leave before they join, and to pass something on the way: nobody would know that they were taken. */
function checkBranches(map: GameMap, mapName: string, id: string, route: Route): Finding[] {
  return route.branches.flatMap((branch, n): Finding[] => {
    const wrong =
      branch.until <= branch.after || branch.until > route.stops.length + 1
        ? `leaves after stop ${branch.after} and joins at stop ${branch.until} of ${route.stops.length + 1}`
        : branch.stops.length === 0
          ? 'has no checkpoint of its own'
          : branch.stops.some((stop) => !own(map.objects, stop))
            ? 'leads to a checkpoint that is not there'
            : null;
    if (wrong === null) return [];
    return [
      {
        code: 'route-branch',
        severity: 'blocker',
        stage: 'map',
        message: `The branch ${branch.name} of ${route.name} ${wrong}.`,
        hint: 'Mend it in the panel Route: nobody can ride it so.',
        place: { map: mapName, point: branch.points[0] },
        fix: {
          kind: 'edit',
          label: 'Remove the branch',
          edit: {
            name: `remove the branch ${branch.name}`.slice(0, 120),
            changes: [{ of: 'routes', id, to: { ...route, branches: route.branches.filter((_, k) => k !== n) } }],
          },
        },
      },
    ];
  });
}

/** The least that vehicles of the map can take; null where none says so. */
function toughness(profile: Profile, map: GameMap): number | null {
  const all = Object.values(map.objects).flatMap((object) =>
    hasPart(profile, object.class, 'vehicle') ? [numberOf(valueOf(profile, object, 'toughness'))] : [],
  );
  const known = all.filter((v) => v > 0);
  return known.length > 0 ? Math.min(...known) : null;
}

function moveOnto(object: MapObject, id: string, ribbon: ReturnType<typeof ribbonOf>, along: number): Finding['fix'] {
  const station = ribbon.stations.find((one) => one.along >= along) ?? ribbon.stations[ribbon.stations.length - 1];
  return {
    kind: 'edit',
    label: 'Move it onto the ribbon',
    edit: { name: `move ${object.name} onto the ribbon`, changes: [{ of: 'objects', id, to: { ...object, position: station.at } }] },
  };
}
