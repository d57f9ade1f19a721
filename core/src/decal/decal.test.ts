import { beforeAll, describe, expect, test } from '@jest/globals';
import manifold, { type ManifoldToplevel } from 'manifold-3d';
import { applyEdit, invertEdit } from '../document/edit.ts';
import type { Decal, GameMap, Wear } from '../document/schema.ts';
import { withCarried } from '../map/member/carried.ts';
import { decal as facts } from '../map/member/decal.ts';
import { chance } from '../math/chance.ts';
import { addScaled, cross, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { pushFace } from '../solid/cut.ts';
import { block } from '../solid/primitives.ts';
import { shapeOf } from '../solid/shape.ts';
import { rotation, transformSolid, translation } from '../solid/transform.ts';
import { windingArea, type Winding } from '../solid/winding.ts';
import { wearEdit } from '../stages/wearEdit.ts';
import { testWorld } from '../testing/world.ts';
import { blank, codesOf, findingsOf, mended, solid, withChanges } from '../testing/maps.ts';
import { Thrower } from './clip.ts';
import { cornersOf, decalBox, frameOf } from './frame.ts';
import { hostsOf, layCounts, layDecals, lifted, LIFT } from './lay.ts';
import { DecalPieces } from './pieces.ts';
import { lyingAt, movedTo, newDecal, plainStyle } from './place.ts';

const stain = (more: Partial<Decal> = {}): Decal => ({
  name: 'stain',
  ...plainStyle('stain', [32, 16]),
  position: [0, 0, 0],
  normal: [0, 0, 1],
  ...more,
});
const area = (pieces: readonly { winding: Winding }[]) => pieces.reduce((sum, { winding }) => sum + windingArea(winding), 0);
const FLOOR: Winding = [[-100, -100, 0], [100, -100, 0], [100, 100, 0], [-100, 100, 0]]; // prettier-ignore

let wasm: ManifoldToplevel;
beforeAll(async () => {
  wasm = await manifold();
  wasm.setup();
});

describe('how it lies', () => {
  test.each([
    [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ],
    [
      [0, 0, 1],
      [1, 0, 0],
      [0, 1, 0],
    ],
    [
      [0, -1, 0],
      [1, 0, 0],
      [0, 0, 1],
    ],
  ] as [Vec3, Vec3, Vec3][])('along %j its right is %j and its top %j', (normal, right, up) => {
    const frame = frameOf({ normal, turn: 0 });
    frame.right.forEach((v, k) => expect(v).toBeCloseTo(right[k], 12));
    frame.up.forEach((v, k) => expect(v).toBeCloseTo(up[k], 12));
    expect(dot(cross(frame.right, frame.up), frame.normal)).toBeCloseTo(1, 12);
  });

  test('a turn is counter-clockwise as one looks at it', () => {
    expect(frameOf({ normal: [0, 0, 1], turn: 90 }).right.map(Math.round)).toEqual([0, 1, 0]);
    expect(cornersOf(stain())[0]).toEqual([-16, -8, 0]);
    expect(decalBox(stain({ depth: 4 }))).toEqual({ min: [-16, -8, -4], max: [16, 8, 4] });
  });
});

describe('what it covers', () => {
  test('is as large as the clipping of an independent library has it, on a thousand slanted surfaces', () => {
    const random = chance(7);
    const vector = (): Vec3 => [random() * 2 - 1, random() * 2 - 1, random() * 2 - 1];
    let met = 0;
    for (let n = 0; n < 1000; n++) {
      const normal = normalise(vector());
      const u = normalise(cross(normal, Math.abs(normal[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0]));
      const v = cross(normal, u);
      const at = vector().map((x) => x * 20) as Vec3;
      const count = 3 + Math.floor(random() * 4);
      const flat: [number, number][] = Array.from({ length: count }, (_, i) => {
        const angle = ((i + random() * 0.6) / count) * 2 * Math.PI;
        return [Math.cos(angle) * 30, Math.sin(angle) * 30];
      });
      const lift = ([a, b]: [number, number]): Vec3 => addScaled(addScaled(at, u, a), v, b);
      const decal = stain({
        position: vector().map((x) => x * 20) as Vec3,
        normal: normalise(addScaled(normal, vector(), 0.8)),
        turn: random() * 360,
        size: [4 + random() * 40, 4 + random() * 40],
        depth: 1 + random() * 20,
        soft: random() < 0.5 ? 0 : random(),
        limit: 90,
        fade: 0,
      });
      const { right, up, normal: away } = frameOf(decal);
      if (dot(away, normal) <= 0.05) continue;
      // The strip of the plane that lies between two parallel sides of the box, as a large rectangle.
      const strip = (axis: Vec3, reach: number) => {
        const [a, b] = [dot(axis, u), dot(axis, v)];
        const size = Math.hypot(a, b);
        const middle = (dot(axis, decal.position) - dot(axis, at)) / size;
        const [x, y] = [a / size, b / size];
        const half = reach / size;
        const far = 1e4;
        const corner = (s: number, t: number): [number, number] => [x * (middle + s * half) - y * t * far, y * (middle + s * half) + x * t * far];
        return new wasm.CrossSection([corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)]);
      };
      const whole = [strip(right, decal.size[0] / 2), strip(up, decal.size[1] / 2), strip(away, decal.depth)].reduce(
        (left, one) => left.intersect(one),
        new wasm.CrossSection([flat]),
      );
      const pieces = new Thrower(decal).on(flat.map(lift), normal);
      expect(Math.abs(area(pieces) - whole.area())).toBeLessThan(1e-2 + whole.area() * 1e-4);
      if (whole.area() > 1) met++;
      for (const { alpha } of pieces) for (const a of alpha) expect(a).toBeGreaterThanOrEqual(0);
    }
    expect(met).toBeGreaterThan(200);
  });

  test('its picture lies upright on it, and fades evenly over its soft edges', () => {
    const [piece] = new Thrower(stain()).on(FLOOR, [0, 0, 1]);
    const corner = piece.winding.findIndex(([x, y]) => x < 0 && y > 0);
    expect(piece.uv[corner]).toEqual([0, 0]);
    expect(piece.alpha).toEqual([1, 1, 1, 1]);
    const soft = new Thrower(stain({ soft: 0.5 })).on(FLOOR, [0, 0, 1]);
    // The mean of a plateau of half the size with slopes around it: a frustum's volume over its base, (1 + ½ + ¼) / 3.
    const mean = soft.reduce((sum, { winding, alpha }) => {
      let volume = 0;
      for (let i = 2; i < winding.length; i++)
        volume += windingArea([winding[0], winding[i - 1], winding[i]]) * ((alpha[0] + alpha[i - 1] + alpha[i]) / 3);
      return sum + volume;
    }, 0);
    expect(mean / (32 * 16)).toBeCloseTo(1.75 / 3, 9);
  });

  test('nothing wraps round a corner by accident, and by angle it fades', () => {
    expect(new Thrower(stain()).on(FLOOR, [1, 0, 0])).toEqual([]);
    const thrower = new Thrower(stain({ limit: 60, fade: 20 }));
    const seen = (degrees: number) => thrower.cover([Math.sin((degrees * Math.PI) / 180), 0, Math.cos((degrees * Math.PI) / 180)]);
    expect([seen(0), seen(61)]).toEqual([1, 0]);
    expect(seen(40)).toBeCloseTo(1, 9);
    expect(seen(50)).toBeCloseTo(0.5, 9);
  });
});

describe('decals over each other', () => {
  const floor = hostsOf([{ winding: FLOOR, normal: [0, 0, 1] }]);

  test('lie in their order, each lifted over what is below it', () => {
    const decals = { d1: stain({ order: 2 }), d2: stain({ order: 1, material: 'crack' }), d3: stain({ position: [60, 60, 0] }) };
    const laid = layDecals(decals, floor);
    expect(laid.map(({ decal, rank, level }) => [decal, rank, level])).toEqual([
      ['d3', 1, 0],
      ['d2', 1, 0],
      ['d1', 2, 1],
    ]);
    expect(lifted(laid[2], 0.025)[0][2]).toBeCloseTo((2 * LIFT) / 0.025, 12);
    expect(layCounts(laid)).toEqual({ pieces: 3, area: 3 * 512, layers: 2 });
  });

  test('of one material are drawn in one go, however many lie over each other', () => {
    const decals = Object.fromEntries(Array.from({ length: 20 }, (_, i) => [`d${i + 1}`, stain()]));
    expect(new Set(layDecals(decals, floor).map(({ level }) => level))).toEqual(new Set([0]));
  });

  test('the uppermost is found first at a point', () => {
    const decals = { d1: stain({ order: 2 }), d2: stain({ order: 5 }), d3: stain({ position: [60, 60, 0] }) };
    expect(lyingAt(decals, { point: [4, 4, 0], normal: [0, 0, 1] })).toEqual(['d2', 'd1']);
    expect(lyingAt(decals, { point: [4, 4, 0], normal: [1, 0, 0] })).toEqual([]);
  });
});

describe('what carries it takes it along', () => {
  const wall = block({ min: [0, 0, 0], max: [16, 128, 96] }, 'brick');
  const poster = stain({ on: 's1', position: [16, 64, 48], normal: [1, 0, 0] });
  const map = withChanges(blank(), solid('s1', wall), { of: 'decals', id: 'd1', to: poster });
  const after = (to: ReturnType<typeof block>): Decal => {
    const edit = withCarried(map, { name: 'test', changes: [{ of: 'solids', id: 's1', to }] });
    const next = applyEdit(map, edit);
    expect(applyEdit(next, invertEdit(map, edit))).toEqual(map);
    return next.decals.d1;
  };

  test('where it is moved and turned', () => {
    expect(after(transformSolid(wall, translation([5, -7, 3]), true)).position).toEqual([21, 57, 51]);
    const turned = after(transformSolid(wall, rotation(2, 90, [0, 0, 0]), true));
    expect(turned.position.map(Math.round)).toEqual([-64, 16, 48]);
    expect(turned.normal).toEqual([0, 1, 0]);
  });

  test('with its face, where that is pushed, and not with another', () => {
    const face = wall.faces.findIndex(({ normal }) => normal[0] === 1);
    const top = wall.faces.findIndex(({ normal }) => normal[2] === 1);
    expect(after(pushFace(wall, face, 10) as typeof wall).position).toEqual([26, 64, 48]);
    expect(after(pushFace(wall, top, 10) as typeof wall)).toEqual(poster);
  });

  test('nothing is moved twice, and what is not its own stays', () => {
    const own = { of: 'decals' as const, id: 'd1', to: { ...poster, position: [16, 1, 1] as Vec3 } };
    const edit = { name: 'both', changes: [{ of: 'solids' as const, id: 's1', to: transformSolid(wall, translation([5, 0, 0]), true) }, own] };
    expect(withCarried(map, edit)).toBe(edit);
    expect(withCarried(map, { name: 'other', changes: [{ of: 'solids', id: 's9', to: wall }] }).changes).toHaveLength(1);
  });
});

test('dragged round a corner it keeps its way up, dragged to the floor it is folded down', () => {
  const wall = stain({ position: [16, 64, 48], normal: [1, 0, 0], turn: 30 });
  const moved = movedTo(wall, { point: [8, 128, 40], normal: [0, 1, 0] });
  expect(moved.turn).toBeCloseTo(30, 9);
  expect([moved.position, moved.on]).toEqual([[8, 128, 40], undefined]);
  const { up } = frameOf(movedTo(stain({ normal: [1, 0, 0] }), { point: [0, 0, 0], normal: [0, 0, 1] }));
  // Folded down from its wall, its top is farther away from who stands before it.
  expect(length(sub(up, [-1, 0, 0]))).toBeLessThan(1e-6);
});

test('moved, turned and mirrored as a member it stays square to its surface', () => {
  const random = chance(3);
  for (let n = 0; n < 50; n++) {
    const normal = normalise([random() - 0.5, random() - 0.5, random() - 0.5]);
    const decal = stain({ normal, turn: random() * 360, position: [random() * 50, random() * 50, random() * 50] });
    const turned = facts.transform(decal, rotation(2, 73, [10, 0, 0]), true);
    const [before, now] = [frameOf(decal), frameOf(turned)];
    const spin = (v: Vec3): Vec3 => {
      const a = (73 * Math.PI) / 180;
      return [v[0] * Math.cos(a) - v[1] * Math.sin(a), v[0] * Math.sin(a) + v[1] * Math.cos(a), v[2]];
    };
    expect(length(sub(now.right, spin(before.right)))).toBeLessThan(1e-5);
    expect(length(sub(now.normal, spin(before.normal)))).toBeLessThan(1e-5);
  }
});

test('after an edit only decals near it are laid anew', () => {
  const far = block({ min: [500, 500, 0], max: [600, 600, 16] }, 'brick');
  const solids = { s1: block({ min: [-100, -100, -16], max: [100, 100, 0] }, 'brick'), s2: far };
  const decals = { d1: stain(), d2: stain({ position: [550, 550, 16] }) };
  const pieces = new DecalPieces();
  expect([...pieces.update(decals, solids)].sort()).toEqual(['d1', 'd2']);
  expect(pieces.update(decals, solids).size).toBe(0);
  expect([...pieces.update(decals, { ...solids, s2: block({ min: [500, 500, 0], max: [600, 600, 12] }, 'brick') })]).toEqual(['d2']);
  expect(area(pieces.get('d1'))).toBeCloseTo(512, 6);
  expect([...pieces.update({ d1: decals.d1 }, solids)].sort()).toEqual(['d2']);
  expect(pieces.get('d2')).toEqual([]);
});

describe('findings', () => {
  const floor = block({ min: [-100, -100, -16], max: [100, 100, 0] }, 'brick');
  const put = (map: GameMap, more: Partial<Decal>): GameMap => {
    const { edit } = newDecal(map, plainStyle('brick', [32, 16]), { point: [0, 0, 0], normal: [0, 0, 1], solid: 's1' });
    const [change] = edit.changes;
    return applyEdit(map, { name: 'test', changes: [{ ...change, to: { ...(change as { to: Decal }).to, ...more } } as typeof change] });
  };
  const map = withChanges(blank(), solid('s1', floor));

  test('one that lies on its solid has none but for its material', () => {
    expect(codesOf(put(map, {})).filter((code) => code.startsWith('decal'))).toEqual(['decal-material']);
  });

  test('in the air, without its solid, and many deep', () => {
    const hanging = put(map, { position: [0, 0, 40] });
    expect(codesOf(hanging)).toContain('decal-air');
    expect(mended(hanging, 'decal-air').decals).toEqual({});
    expect(codesOf(put(map, { on: 's77' }))).toContain('decal-surface');
    const deep = Array.from({ length: 6 }).reduce<GameMap>((all) => put(all, {}), map);
    expect(findingsOf(deep).filter(({ code }) => code === 'decal-deep').map(({ message }) => message.replace(/^.* lies/, 'lies'))).toEqual(['lies over 4 others.', 'lies over 5 others.']); // prettier-ignore
  });
});

test('corners of its faces are where the solid has them', () => {
  const cubes = block({ min: [0, 0, 0], max: [16, 16, 16] }, 'brick');
  const hosts = hostsOf(shapeOf(cubes).polygons.map(({ winding, face }) => ({ winding, normal: cubes.faces[face].normal })));
  // Twice as wide as the cube's top: cut off by its edges.
  expect(layCounts(layDecals({ d1: stain({ position: [8, 8, 16] }) }, hosts)).area).toBeCloseTo(16 * 16, 9);
});

describe('wear by rule', () => {
  const room = testWorld();
  const map = room.crate.maps.hall;
  const rule: Wear = {
    name: 'grime',
    at: 'feet',
    material: 'brick',
    on: '',
    spacing: 16,
    chance: 0.5,
    least: 8,
    most: 24,
    low: 0,
    high: 1000,
    limit: 500,
    seed: 1,
  };
  const run = (given: GameMap, of: Wear | null) => {
    const edit = wearEdit(room, given, 'u1', of);
    return edit ? applyEdit(given, edit) : given;
  };
  const worn = run(map, rule);
  const list = Object.values(worn.decals);

  test('comes at the feet of walls, within the room, all of it on a surface', () => {
    expect(list.length).toBeGreaterThan(5);
    for (const { normal, rule: of, size } of list) {
      expect([Math.abs(normal[2]), of]).toEqual([0, 'u1']);
      expect(size[0] >= 8 && size[0] <= 24).toBe(true);
    }
    const floor = Math.min(...list.map(({ position, size }) => position[2] - size[1] / 2));
    for (const { position, size } of list) expect(position[2] - size[1] / 2).toBeCloseTo(floor, 3);
    expect(findingsOf(worn).filter(({ code }) => code === 'decal-air')).toEqual([]);
  });

  test('made anew it is the same; with another seed another; taken away it leaves nothing', () => {
    const bare = (of: GameMap) => Object.values(of.decals).map(({ position, size }) => [position, size]);
    expect(bare(run(worn, worn.wears.u1))).toEqual(bare(worn));
    expect(bare(run(worn, { ...rule, seed: 2 }))).not.toEqual(bare(worn));
    const gone = run(worn, null);
    expect([gone.decals, gone.wears]).toEqual([{}, {}]);
    const edit = wearEdit(room, map, 'u1', rule)!;
    expect(applyEdit(applyEdit(map, edit), invertEdit(map, edit))).toEqual(map);
  });

  test('what somebody has moved by hand is theirs; what a wall carries stays the rule’s', () => {
    const [id] = Object.keys(worn.decals);
    const mine = facts.transform(worn.decals[id], translation([0, 0, 9]), true);
    expect(mine.rule).toBeUndefined();
    const touched = applyEdit(worn, { name: 'move', changes: [{ of: 'decals', id, to: mine }] });
    expect(run(touched, null).decals).toEqual({ [id]: mine });
    const { on } = worn.decals[id];
    const carried = withCarried(worn, { name: 'move', changes: [{ of: 'solids', id: on!, to: transformSolid(worn.solids[on!], translation([0, 0, 9]), true) }] }); // prettier-ignore
    const after = applyEdit(worn, carried).decals[id];
    expect(after.rule).toBe('u1');
    expect(length(sub(after.position, mine.position))).toBeLessThan(1e-5);
  });

  test('keeps to its limits, heights and materials', () => {
    const count = (part: Partial<Wear>) => Object.keys(run(map, { ...rule, ...part }).decals).length;
    expect(count({ limit: 3 })).toBe(3);
    expect(count({ chance: 0 })).toBe(0);
    expect(count({ low: 100 })).toBe(0);
    expect(count({ on: 'nothing' })).toBe(0);
    // A room has no ledge, and no edge that sticks out.
    expect([count({ at: 'below', chance: 1 }), count({ at: 'edges', chance: 1 })]).toEqual([0, 0]);
    expect(count({ at: 'corners', chance: 1 })).toBeGreaterThan(count({ at: 'feet', chance: 1 }));
  });

  test('edges that stick out and ledges are those of a block in the room', () => {
    const [x, y, z] = Object.values(map.objects).find((object) => object.class === 'start')!.position;
    const with_ = withChanges(map, solid('s90', block({ min: [x + 40, y, z], max: [x + 72, y + 32, z + 32] }, 'brick')));
    const at = (of: Wear['at']) => Object.values(run(with_, { ...rule, at: of, chance: 1 }).decals);
    expect(new Set(at('edges').map(({ on }) => on))).toEqual(new Set(['s90']));
    const below = at('below');
    expect(below).toHaveLength(8);
    for (const { position, size } of below) expect(position[2] + size[1] / 2).toBeCloseTo(z + 32, 6);
  });
});
