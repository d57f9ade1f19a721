/** Templates of games in the open: a field, and a short race that builds, can be finished and packed as it is. */

import { applyEdit, type Change } from '../document/edit.ts';
import type { Copy, GameMap, MapObject } from '../document/schema.ts';
import { smoothLine } from '../math/smoothLine.ts';
import type { Vec3 } from '../math/vec3.ts';
import { newObject } from '../profile/newObject.ts';
import { hasPart, placingOf } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import type { PartId } from '../part/parts.ts';
import { groundOf, type Ground } from '../terrain/ground.ts';
import { newTerrain } from '../terrain/newTerrain.ts';
import { noiseOf } from '../terrain/noise.ts';
import { replaceHeights, road } from '../terrain/reshape.ts';

const ID = 'e1';

/** The game's prefab that holds an object with a part; for checkpoints one that is numbered. */
function prefabWith(profile: Profile, test: (object: MapObject) => boolean): string | null {
  return Object.entries(profile.prefabs ?? {}).find(([, prefab]) => Object.values(prefab.objects).some(test))?.[0] ?? null;
}

interface RacePrefabs {
  start: string;
  gate: string;
  finish: string;
}

/** What a race is made of in a game; null where it has no races. */
export function racePrefabs(profile: Profile): RacePrefabs | null {
  const has = (part: PartId) => (object: MapObject) => hasPart(profile, object.class, part);
  const numbered = (object: MapObject) => has('volume')(object) && profile.classes.find((c) => c.id === object.class)?.series !== undefined;
  const [start, gate, finish] = [prefabWith(profile, has('vehicle')), prefabWith(profile, numbered), prefabWith(profile, has('goal'))];
  return start && gate && finish ? { start, gate, finish } : null;
}

/** Ground by a formula of map places, in metres. */
function withGround(map: GameMap, profile: Profile, samples: [number, number], height: (x: number, y: number) => number): GameMap {
  const m = profile.unit.metres;
  const terrain = newTerrain(profile, { name: 'ground', samples, spacing: profile.ground?.spacing ?? 2 / m, base: 0 });
  const laid: GameMap = { ...map, terrains: { [ID]: terrain } };
  const ground = groundOf(laid, ID)!;
  const heights = Float32Array.from({ length: samples[0] * samples[1] }, (_, k) => {
    const [x, y] = ground.pointOf(k % samples[0], Math.floor(k / samples[0]));
    return height(x * m, y * m) / m;
  });
  return applyEdit(laid, { name: 'shape', changes: replaceHeights(ground, heights) });
}

/** A sun from the south-west, where the game has one. */
function withSun(profile: Profile, objects: Record<string, MapObject>, at: Vec3): void {
  const sun = profile.classes.find(({ id }) => hasPart(profile, id, 'sun'));
  if (!sun) return;
  const object = newObject(profile, sun.id, 'sun', at);
  objects[`o${Object.keys(objects).length + 1}`] = { ...object, turn: 215 };
}

/** How the ground of a field lies, in metres, with its middle flat. */
const FIELDS = {
  gentle: (noise: Noise, x: number, y: number) => noise(x, y) * 5 * Math.min(1, Math.hypot(x, y) / 60),
  bowl: (noise: Noise, x: number, y: number) => {
    const rim = Math.max(0, Math.hypot(x, y) - 45);
    return (rim * rim) / 260 + noise(x, y) * 3 * Math.min(1, rim / 40);
  },
};
type Noise = (x: number, y: number) => number;

/** Ground with what the game cannot do without standing in its middle: gentle, or a bowl whose rim rises all around. */
export function openField(map: GameMap, profile: Profile, lie: keyof typeof FIELDS = 'gentle'): GameMap {
  const noise = noiseOf(lie === 'bowl' ? 17 : 5, 160, 3);
  const field = withGround(map, profile, [257, 257], (x, y) => FIELDS[lie](noise, x, y));
  const ground = groundOf(field, ID)!;
  const g = profile.grid.default;
  const objects: Record<string, MapObject> = {};
  const put = (classId: string, name: string) => {
    const n = Object.keys(objects).length;
    const [x, y] = [n * g * 8, 0];
    const lift = placingOf(profile, classId) === 'clear' ? profile.player.height / 28 : 0;
    objects[`o${n + 1}`] = newObject(profile, classId, name, [x, y, (ground.heightAt(x, y) ?? 0) + lift]);
  };
  const copies = requiredCopies(profile, (n) => [n * g * 24, g * 40]);
  // What required prefabs bring along need not stand there twice.
  const brought = new Set(Object.values(copies).flatMap(({ prefab }) => Object.values(profile.prefabs?.[prefab].objects ?? {}).map((o) => o.class)));
  for (const rule of profile.required)
    if (!brought.has(rule.class)) for (let n = 0; n < rule.min; n++) put(rule.class, n === 0 ? rule.class : `${rule.class}_${n + 1}`);
  withSun(profile, objects, [0, -g * 40, g * 40]);
  return { ...field, objects, copies: onGround(copies, ground) };
}

function requiredCopies(profile: Profile, at: (n: number) => [number, number]): Record<string, Copy> {
  return Object.fromEntries(
    (profile.requiredPrefabs ?? []).map(({ prefab }, n) => [
      `c${n + 1}`,
      { prefab, name: prefab, position: [...at(n), 0] as Vec3, turn: 0, values: {} },
    ]),
  );
}

const onGround = (copies: Record<string, Copy>, ground: Ground): Record<string, Copy> =>
  Object.fromEntries(
    Object.entries(copies).map(([id, copy]) => [
      id,
      { ...copy, position: [copy.position[0], copy.position[1], ground.heightAt(copy.position[0], copy.position[1]) ?? 0] as Vec3 },
    ]),
  );

/** The way of the short race, metres: down a ridge in two bends. */
const WAY: Vec3[] = [
  [-215, -110, 44],
  [-150, -84, 40],
  [-80, -30, 33],
  [-14, 34, 25],
  [62, 62, 17],
  [134, 36, 10],
  [182, -22, 5],
  [206, -92, 2],
];

/** Where its gates stand, as shares of the way. */
const GATES = [0.3, 0.55, 0.78];

/** A short race down a ridge. */
export function ridgeRace(map: GameMap, profile: Profile, prefabs: RacePrefabs): GameMap {
  const m = profile.unit.metres;
  const noise = noiseOf(9, 90, 4);
  const coarse = smoothLine(WAY, false, 12);
  const land = (x: number, y: number): number => {
    let [sum, weights, nearest] = [0, 0, Infinity];
    for (const [px, py, pz] of coarse) {
      const d = Math.hypot(x - px, y - py);
      nearest = Math.min(nearest, d);
      const w = 1 / (d * d + 40) ** 2;
      sum += (pz - 20 * (1 - Math.exp(-Math.max(0, d - 10) / 60))) * w;
      weights += w;
    }
    return sum / weights + noise(x, y) * 7 * Math.min(1, Math.max(0, (nearest - 10) / 60));
  };
  let next = withGround(map, profile, [257, 193], land);
  const line = smoothLine(
    WAY.map((p) => p.map((v) => v / m) as Vec3),
    false,
    4 / m,
  );
  const apply = (changes: Change[]) => {
    if (changes.length > 0) next = applyEdit(next, { name: 'template', changes });
  };
  apply(road(groundOf(next, ID)!, line, { width: 14 / m, shoulder: 18 / m, camber: 0, balance: false }).changes);
  const ground = groundOf(next, ID)!;
  const laid = line.map(([x, y, z]): Vec3 => [x, y, ground.heightAt(x, y) ?? z]);
  const lengths = laid.reduce<number[]>(
    (out, p, n) => [...out, n === 0 ? 0 : out[n - 1] + Math.hypot(p[0] - laid[n - 1][0], p[1] - laid[n - 1][1])],
    [],
  );
  const whole = lengths[lengths.length - 1];
  const copyAt = (prefab: string, name: string, along: number, values: Copy['values'] = {}): Copy => {
    const n = Math.max(
      1,
      lengths.findIndex((l) => l >= along),
    );
    const [a, b] = [laid[n - 1], laid[n]];
    return { prefab, name, position: b, turn: (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI, values };
  };
  const idIn = (prefab: string, part: PartId): string =>
    Object.entries(profile.prefabs![prefab].objects).find(([, object]) => hasPart(profile, object.class, part))![0];
  // Gates are numbered by the parameter that the prefab has for it.
  const numbering = profile.prefabs![prefabs.gate].parameters.find(({ object, property }) => {
    const held = profile.prefabs![prefabs.gate].objects[object];
    return profile.classes.find((c) => c.id === held?.class)?.series === property;
  });
  const copies: Record<string, Copy> = {
    c1: copyAt(prefabs.start, 'start', 14 / m),
    ...Object.fromEntries(
      GATES.map((share, n) => [`c${n + 2}`, copyAt(prefabs.gate, `gate_${n + 1}`, whole * share, numbering ? { [numbering.id]: n } : {})]),
    ),
    [`c${GATES.length + 2}`]: copyAt(prefabs.finish, 'finish', whole - 22 / m),
  };
  const objects: Record<string, MapObject> = {};
  withSun(profile, objects, [0, 0, 80 / m]);
  return {
    ...next,
    settings: {
      ...next.settings,
      weather: { windFrom: 190, wind: 9 / m, gusts: 0.2, fogColour: next.settings.skyColour, fog: 1800 / m, falling: 'none' },
    },
    copies,
    objects,
    routes: {
      r1: {
        name: 'Ridge race',
        start: `c1_${idIn(prefabs.start, 'start')}`,
        stops: GATES.map((_, n) => `c${n + 2}_${idIn(prefabs.gate, 'volume')}`),
        finish: `c${GATES.length + 2}_${idIn(prefabs.finish, 'goal')}`,
        laps: 1,
        width: 14 / m,
        points: laid.filter((_, n) => n % 5 === 0 || n === laid.length - 1),
        branches: [],
      },
    },
  };
}
