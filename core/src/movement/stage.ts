/** A movement sequence set into its map: who begins where, what it looks like over time, and whom and what they run into. */

import type { CrateWorld } from '../crate/world.ts';
import { PLAYER, type GameMap, type Sequence } from '../document/schema.ts';
import { holdsBox, surfaceBelow, type Collider } from '../map/member/collider.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import type { BoxGrid } from '../math/boxGrid.ts';
import type { Vec3 } from '../math/vec3.ts';
import { paceOf } from '../part/actor.ts';
import { factOf, hasPart } from '../profile/parts.ts';
import { groundBelow, groundsOf } from '../terrain/ground.ts';
import { timelineOf, type Mover, type Timeline } from './play.ts';

export interface Meeting {
  who: string;
  at: Vec3;
  time: number;
  /** In words that go on from who. */
  what: string;
  code: 'sequence-solid' | 'sequence-floor' | 'sequence-collides';
}

export interface Staged {
  timeline: Timeline;
  meets: Meeting[];
}

/** @param start where the player stands; at the map’s first start without it */
export function stagedBy(world: CrateWorld, map: GameMap, sequence: Sequence, start: Vec3 | null, grid: BoxGrid<Collider>): Staged {
  const { profile } = world;
  const { player } = profile;
  const movers = new Map<string, Mover>();
  for (const [id, object] of Object.entries(map.objects)) {
    if (!hasPart(profile, object.class, 'actor')) continue;
    const walk = paceOf(object.properties, player.walkSpeed);
    movers.set(id, { position: object.position, turn: object.turn, walk, run: walk * 1.7, hidden: object.properties.hidden === true, rising: null });
  }
  const begins = Object.values(map.objects).find((object) => factOf(profile, object.class, 'start'));
  movers.set(PLAYER, {
    position: start ?? begins?.position ?? [0, 0, 0],
    turn: begins?.turn ?? 0,
    walk: player.walkSpeed,
    run: player.runSpeed,
    hidden: false,
    rising: null,
  });
  const grounds = groundsOf(map);
  const floorAt = ([x, y, z]: Vec3): number | null => {
    const from: Vec3 = [x, y, z + player.stepHeight];
    const found = surfaceBelow(grid.near({ min: [x, y, z - player.height], max: from }, 0), from);
    const under = groundBelow(grounds, x, y)?.height ?? null;
    const low = found !== null && found >= z - player.height ? found : null;
    return under !== null && (low === null || under > low) ? under : low;
  };
  const timeline = timelineOf(sequence.steps, movers, { gravity: player.gravity, jumpSpeed: player.jumpSpeed, floor: floorAt });
  return { timeline, meets: meetings(world, map, sequence, timeline, grid, floorAt) };
}

function meetings(
  { profile }: CrateWorld,
  map: GameMap,
  sequence: Sequence,
  { moments }: Timeline,
  grid: BoxGrid<Collider>,
  floorAt: (at: Vec3) => number | null,
): Meeting[] {
  const { radius, height, stepHeight } = profile.player;
  const slim = radius * 0.7;
  const acting = new Set(sequence.steps.map(({ who }) => who));
  const nameOf = (id: string) => (id === PLAYER ? 'the player' : (map.objects[id]?.name ?? id));
  const bodyAt = ([x, y, z]: Vec3): Box3 => ({ min: [x - slim, y - slim, z + stepHeight], max: [x + slim, y + slim, z + height * 0.95] });
  const found: Meeting[] = [];
  const told = new Set<string>();
  const tell = (id: string, key: string, at: Vec3, time: number, code: Meeting['code'], what: string) => {
    if (told.has(`${id} ${key}`)) return;
    told.add(`${id} ${key}`);
    found.push({ who: nameOf(id), at, time, code, what });
  };
  const [first] = moments;
  for (const { time, at } of moments)
    for (const [id, { position, hidden }] of at) {
      const here = first.at.get(id)!.position;
      const moved = position.some((v, axis) => v !== here[axis]);
      if (hidden || !acting.has(id) || !moved) continue;
      const body = bodyAt(position);
      const wall = grid.near(body, 0).find((one) => holdsBox(one, body, radius * 0.05));
      if (wall) tell(id, `solid ${wall.id}`, position, time, 'sequence-solid', `walks into solid ${wall.id}`);
      if (floorAt(position) === null) tell(id, 'floor', position, time, 'sequence-floor', 'walks off the floor');
      for (const [other, { position: there, hidden: gone }] of at)
        if (other !== id && !gone && boxesTouch(body, bodyAt(there), slim * 0.2))
          tell(id, `person ${[id, other].sort().join(' ')}`, position, time, 'sequence-collides', `runs into ${nameOf(other)}`);
    }
  return found;
}
