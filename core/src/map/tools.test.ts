import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { boundsOf } from '../asset/mesh/geometry/surface.ts';
import { writeGlb } from '../asset/mesh/write/writeGlb.ts';
import { sealingInputs } from '../stages/inputs.ts';
import { findUnseenFaces } from '../stages/unseenFaces.ts';
import { readCrate, writeDocuments } from '../crate/contents.ts';
import { newObject } from '../profile/newObject.ts';
import { checkCrate } from '../check/checkCrate.ts';
import { renameAsset, renameMaterial } from '../library/rename.ts';
import { usageOf } from '../library/usage.ts';
import type { Finding } from '../finding.ts';
import { dot, type Vec3 } from '../math/vec3.ts';
import { linkMap } from '../link/graph.ts';
import { block, cylinder, wedge } from '../solid/primitives.ts';
import { shapeOf } from '../solid/shape.ts';
import { solidContains, solidVolume } from '../solid/solid.ts';
import { rotation, transformSolid, translation } from '../solid/transform.ts';
import { glbErrors } from '../testing/glb.ts';
import { testProfile, testWorld } from '../testing/world.ts';
import { alignMembers, arrayAlong, arrayAround, copyMembers, distributeMembers, transformMembers } from './member/arrange.ts';
import { memberBox } from './member/members.ts';
import { noMembers } from '../document/members.ts';
import { budgetOf } from '../link/budget.ts';
import { applyEdit, diffMaps, invertEdit, touchedBy, type Change } from '../document/edit.ts';
import { mapModel } from '../stages/exportMap.ts';
import { findInMap } from './member/find.ts';
import { intensityForReach, mapLights, mapSuns, readableReach } from './lights.ts';
import { jumpHeight, jumpReach, measureAngle, measureArea, measureDistance, playerCan } from './measure.ts';
import { pathLength, pointAlong } from '../document/path.ts';
import { pickSolids, surfaceBelow } from './pick.ts';
import { deletePrefab, expandMap, makeIndependent, makePrefab, openPrefab, placeCopy, savePrefab } from './prefab.ts';
import { cycleProblem } from '../document/prefabGraph.ts';
import { faceAxes, fitProjection, projectPoint, texelDensity, wrapProjection } from '../solid/projection.ts';
import { readMap, recoverMap } from '../crate/readMap.ts';
import type { GameMap, MapPath, Solid } from '../document/schema.ts';
import { serialiseMap } from '../document/serialise.ts';
import { addNext, renumber, seriesOf, seriesProblems } from './series.ts';
import { estimateSun } from './sky.ts';
import { settleProps } from './settle.ts';
import { dropToSurface } from '../check/checkStand.ts';

const profile = testProfile();
const hall = (): GameMap => testWorld().crate.maps.hall;
const blank = (): GameMap => testWorld('blank').crate.maps.hall;
const withChanges = (map: GameMap, ...changes: Change[]): GameMap => applyEdit(map, { name: 'test', changes });
const cube = (at: Vec3, size = 16) => block({ min: at, max: [at[0] + size, at[1] + size, at[2] + size] }, 'brick');
const solid = (id: string, to: Solid): Change => ({ of: 'solids', id, to });
const object = (id: string, classId: string, name: string, at: Vec3, properties = {}): Change => {
  const made = newObject(profile, classId, name, at);
  return { of: 'objects', id, to: { ...made, properties: { ...made.properties, ...properties } } };
};
const findingsOf = (map: GameMap): Finding[] => {
  const world = testWorld();
  return checkCrate({ ...world, crate: { ...world.crate, maps: { hall: map } } }).findings;
};
const codesOf = (map: GameMap) => findingsOf(map).map((f) => f.code);
/** The map after the fix of the first finding of that code. */
function mended(map: GameMap, code: string): GameMap {
  const fix = findingsOf(map).find((f) => f.code === code)?.fix;
  if (fix?.kind !== 'edit') throw new Error(`no edit mends ${code}`);
  return applyEdit(map, fix.edit);
}

describe('arranging', () => {
  const three = withChanges(blank(), solid('s1', cube([0, 0, 0])), solid('s2', cube([20, 7, 0])), solid('s3', cube([100, 3, 0], 32)));
  const all = { ...noMembers, solids: ['s1', 's2', 's3'] };

  it('aligns lower sides, and spreads with equal gaps while the outermost stay', () => {
    const aligned = applyEdit(three, alignMembers(three, profile, all, 1, 'min')!);
    expect(all.solids.map((id) => shapeOf(aligned.solids[id]).box.min[1])).toEqual([0, 0, 0]);
    const spread = applyEdit(three, distributeMembers(three, profile, all, 0)!);
    const boxes = all.solids.map((id) => shapeOf(spread.solids[id]).box);
    expect([boxes[0].min[0], boxes[2].max[0]]).toEqual([0, 132]);
    expect(boxes[1].min[0] - boxes[0].max[0]).toBeCloseTo(boxes[2].min[0] - boxes[1].max[0], 9);
  });

  it('turns objects with what stands beside them, and undo gives back the identical map', () => {
    const map = withChanges(three, object('o1', 'lamp', 'lamp', [16, 0, 8]));
    const edit = transformMembers(map, { ...all, objects: ['o1'] }, rotation(2, 90, [0, 0, 0]), 'turn')!;
    const turned = applyEdit(map, edit);
    expect(turned.objects.o1).toMatchObject({ position: [0, 16, 8], turn: 90 });
    expect(serialiseMap(applyEdit(turned, invertEdit(map, edit)))).toBe(serialiseMap(map));
  });

  it('copies signals among the copied and gives free names', () => {
    const map = withChanges(blank(), object('o1', 'crank', 'crank', [0, 0, 0]), object('o2', 'sluice', 'gate', [64, 0, 0]), {
      of: 'signals',
      id: 'g1',
      to: { from: 'o1', event: 'turned', to: { object: 'o2', action: 'raise' }, delay: 0 },
    });
    const made = copyMembers(map, profile, { ...noMembers, objects: ['o1', 'o2'] }, [translation([0, 64, 0])], 'copy')!;
    const after = applyEdit(map, made.edit);
    expect(made.members.objects.map((id) => after.objects[id].name)).toEqual(['crank_2', 'gate_2']);
    expect(after.signals.g2).toMatchObject({ from: made.members.objects[0], to: { object: made.members.objects[1] } });
  });

  it('rows and rings have as many as asked for', () => {
    const one = { ...noMembers, solids: ['s1'] };
    expect(arrayAlong(three, profile, one, 4, [32, 0, 0])!.members.solids).toHaveLength(4);
    const ring = arrayAround(three, profile, one, 6, [64, 64, 0])!;
    const map = applyEdit(three, ring.edit);
    const away = [...ring.members.solids, 's1'].map((id) => {
      const { min, max } = memberBox(map, profile, 'solids', id)!;
      return Math.hypot((min[0] + max[0]) / 2 - 64, (min[1] + max[1]) / 2 - 64);
    });
    for (const d of away) expect(d).toBeCloseTo(away[0], 3);
  });
});

describe('texture projection', () => {
  const face = (normal: Vec3, distance = 0) => ({ normal, distance, material: 'brick' });

  it('carried along, every point keeps its coordinates through any turn, mirror and move', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 }), fc.integer({ min: -180, max: 180 }), fc.integer({ min: -90, max: 90 }), (axis, degrees, turn) => {
        const start = wedge({ min: [0, 0, 0], max: [64, 48, 32] }, 0, 1, 'brick');
        start.faces = start.faces.map((f) => ({ ...f, turn, shift: [5, -3] as [number, number], scale: 0.5 }));
        const affine = rotation(axis as 0 | 1 | 2, degrees, [8, 9, 10]);
        const moved = transformSolid(start, affine, true);
        for (const { face: i, winding } of shapeOf(start).polygons) {
          for (const p of winding) {
            const q: Vec3 = [0, 1, 2].map((k) => dot(affine.rows[k], p) + affine.move[k]) as Vec3;
            const [before, after] = [projectPoint(start.faces[i], p, 64), projectPoint(moved.faces[i], q, 64)];
            expect(Math.hypot(before[0] - after[0], before[1] - after[1])).toBeLessThan(1e-6);
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  it('wraps around a corner without a seam: points of the common edge agree', () => {
    const from = { ...face([0, -1, 0], 0), turn: 20, scale: 2, shift: [7, 3] as [number, number] };
    const slope: Vec3 = [Math.SQRT1_2, 0, Math.SQRT1_2];
    for (const to of [face([1, 0, 0], 64), face(slope, 50)]) {
      const next = wrapProjection(from, to);
      const onEdge = (z: number): Vec3 => (to.normal[2] === 0 ? [64, 0, z] : [(50 - slope[2] * z) / slope[0], 0, z]);
      for (const z of [0, 13, 48]) {
        const [a, b] = [projectPoint(from, onEdge(z), 64), projectPoint(next, onEdge(z), 64)];
        expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1e-6);
      }
      expect(next.material).toBe('brick');
    }
  });

  it('fits so that the texture covers the face from edge to edge', () => {
    const ring: Vec3[] = [
      [10, 0, 5],
      [90, 0, 5],
      [90, 0, 45],
      [10, 0, 45],
    ];
    const fitted = fitProjection(face([0, -1, 0]), ring, 64, [2, 1]);
    const uv = ring.map((p) => projectPoint(fitted, p, 64));
    expect(Math.max(...uv.map(([u]) => u)) - Math.min(...uv.map(([u]) => u))).toBeCloseTo(2, 9);
    expect(Math.min(...uv.map(([, v]) => v))).toBeCloseTo(0, 9);
    expect(Math.max(...uv.map(([, v]) => v))).toBeCloseTo(1, 9);
  });

  it('texel density: 256 texels over a repeat of 64 units of 1/32 m are 128 per metre; along a slope the face’s own axes keep it', () => {
    expect(texelDensity(face([0, 0, 1]), 64, 256, 1 / 32)).toBeCloseTo(128, 9);
    const slope: Vec3 = [Math.SQRT1_2, 0, Math.SQRT1_2];
    expect(texelDensity(face(slope), 64, 256, 1 / 32)).toBeCloseTo(128 * Math.SQRT1_2, 9);
    expect(texelDensity({ ...face(slope), axes: faceAxes(slope) }, 64, 256, 1 / 32)).toBeCloseTo(128, 9);
  });
});

describe('picking', () => {
  // Ray parity, an independent rule: a point is inside where a ray from it crosses the surface an odd number of times.
  it('point in solid agrees with ray parity', () => {
    const shape = transformSolid(cylinder({ min: [-20, -20, -20], max: [20, 20, 20] }, 7, 'brick'), rotation(0, 35, [0, 0, 0]));
    const inRange = fc.double({ min: -30, max: 30, noNaN: true });
    fc.assert(
      fc.property(inRange, inRange, inRange, (x, y, z) => {
        const direction: Vec3 = [0.9, 0.31, 0.22];
        let crossings = 0;
        for (const { face, winding } of shapeOf(shape).polygons) {
          const { normal, distance } = shape.faces[face];
          const t = (distance - dot(normal, [x, y, z])) / dot(normal, direction);
          if (t < 0) continue;
          const p: Vec3 = [x + direction[0] * t, y + direction[1] * t, z + direction[2] * t];
          const inside = winding.every((a, i) => {
            const b = winding[(i + 1) % winding.length];
            const edge: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
            const to: Vec3 = [p[0] - a[0], p[1] - a[1], p[2] - a[2]];
            return dot([edge[1] * to[2] - edge[2] * to[1], edge[2] * to[0] - edge[0] * to[2], edge[0] * to[1] - edge[1] * to[0]], normal) >= 0;
          });
          if (inside) crossings++;
        }
        fc.pre(shape.faces.every((f) => Math.abs(dot(f.normal, [x, y, z]) - f.distance) > 0.01));
        expect(solidContains(shape, [x, y, z])).toBe(crossings % 2 === 1);
      }),
    );
  });

  it('what a ray meets comes nearest first, with the face it enters by', () => {
    const map = withChanges(blank(), solid('s1', cube([0, 0, 0])), solid('s2', cube([40, 0, 0])));
    const hits = pickSolids(map.solids, [-50, 8, 8], [1, 0, 0]);
    expect(hits.map((h) => [h.solid, h.t])).toEqual([
      ['s1', 50],
      ['s2', 90],
    ]);
    expect(map.solids.s1.faces[hits[0].face].normal).toEqual([-1, 0, 0]);
    expect(pickSolids(map.solids, [-50, 8, 8], [1, 0, 0], (id) => id !== 's1')).toHaveLength(1);
    expect(surfaceBelow(map.solids, [8, 8, 100])).toBe(16);
    expect(surfaceBelow(map.solids, [30, 8, 100])).toBeNull();
  });
});

describe('prefabs', () => {
  const scene = () =>
    withChanges(
      blank(),
      solid('s1', cube([0, 0, 0])),
      object('o1', 'crank', 'crank', [8, 8, 16]),
      object('o2', 'sluice', 'gate', [64, 0, 0]),
      object('o3', 'lamp', 'lamp', [8, 8, 48]),
      { of: 'signals', id: 'g1', to: { from: 'o1', event: 'turned', to: { object: 'o3', action: 'light' }, delay: 0 } },
      { of: 'signals', id: 'g2', to: { from: 'o1', event: 'turned', to: { object: 'o2', action: 'raise' }, delay: 0 } },
    );
  const saved = () => {
    const map = scene();
    const made = makePrefab(map, profile, 'post', { solids: ['s1'], objects: ['o1', 'o3'], copies: [] }, [8, 8, 0]);
    return { map, made, after: applyEdit(map, made.edit) };
  };

  it('saving one changes nothing of what the map stands for, and signals to the outside go on', () => {
    const { map, made, after } = saved();
    const shown = expandMap(after, profile);
    expect(Object.values(shown.solids).map((s) => shapeOf(s).box)).toEqual(Object.values(map.solids).map((s) => shapeOf(s).box));
    expect(
      Object.values(shown.objects)
        .map((o) => o.name)
        .sort(),
    ).toEqual(['gate', 'post_crank', 'post_lamp']);
    expect(Object.values(shown.signals).map((s) => [shown.objects[s.from]?.name, 'object' in s.to && shown.objects[s.to.object]?.name])).toEqual(
      expect.arrayContaining([
        ['post_crank', 'post_lamp'],
        ['post_crank', 'gate'],
      ]),
    );
    expect(serialiseMap(applyEdit(after, invertEdit(map, made.edit)))).toBe(serialiseMap(map));
  });

  it('deleting one takes its copies and their signals along, and is refused while another prefab holds it', () => {
    const { after, made } = saved();
    const edit = deletePrefab(after, made.prefab);
    if (typeof edit === 'string') throw new Error(edit);
    const next = applyEdit(after, edit);
    expect([next.prefabs, next.copies, next.signals]).toEqual([{}, {}, {}]);
    expect(serialiseMap(applyEdit(next, invertEdit(after, edit)))).toBe(serialiseMap(after));
    const pair = makePrefab(after, profile, 'pair', { solids: [], objects: [], copies: [made.copy] }, [0, 0, 0]);
    expect(deletePrefab(applyEdit(after, pair.edit), made.prefab)).toMatch(/^pair holds copies of post/);
  });

  it('copies stand apart with names of their own; an edit in place changes all of them', () => {
    const { after, made } = saved();
    const more = applyEdit(after, placeCopy(after, profile, made.prefab, [200, 0, 0], 90).edit);
    const names = Object.values(expandMap(more, profile).objects).map((o) => o.name);
    expect(new Set(names).size).toBe(names.length);
    const opened = openPrefab(more, 'c2')!;
    const [inside] = Object.keys(opened.solids);
    const changed = { ...opened, solids: { [inside]: transformSolid(opened.solids[inside], translation([0, 0, 10]), true) } };
    const edit = savePrefab(more, 'c2', changed);
    if (typeof edit === 'string') throw new Error(edit);
    const next = expandMap(applyEdit(more, edit), profile);
    for (const s of Object.values(next.solids)) expect(shapeOf(s).box.min[2]).toBeCloseTo(10, 6);
  });

  it('objects that name each other go on doing so: within copies, in copies of objects, and made independent', () => {
    const map = withChanges(
      hall(),
      object('o20', 'trigger', 'way_in', [0, 0, 0], { exit: 'o21' }),
      object('o21', 'trigger', 'way_out', [64, 0, 0], { exit: 'o20' }),
    );
    const exits = (m: GameMap) =>
      Object.entries(m.objects)
        .filter(([, o]) => o.class === 'trigger')
        .map(([id, o]) => [id, o.properties.exit]);
    const copied = copyMembers(map, profile, { ...noMembers, objects: ['o20', 'o21'] }, [translation([0, 64, 0]), translation([0, 96, 0])], 'copy')!;
    expect(exits(applyEdit(map, copied.edit)).slice(2)).toEqual([
      ['o22', 'o23'],
      ['o23', 'o22'],
      ['o24', 'o25'],
      ['o25', 'o24'],
    ]);
    const pair = applyEdit(map, makePrefab(map, profile, 'lock', { solids: [], objects: ['o20', 'o21'], copies: [] }, [0, 0, 0]).edit);
    const twice = applyEdit(pair, placeCopy(pair, profile, 'p1', [0, 96, 0]).edit);
    expect(codesOf(twice).filter((code) => code === 'pair-broken' || code === 'reference-broken')).toEqual([]);
    // One inside, one outside: the outer one follows into the copy and back out.
    const half = applyEdit(map, makePrefab(map, profile, 'half', { solids: [], objects: ['o20'], copies: [] }, [0, 0, 0]).edit);
    expect(half.objects.o21.properties.exit).toBe('c1_o20');
    const loose = applyEdit(half, makeIndependent(half, profile, 'c1').edit);
    expect(exits(loose)).toEqual([
      ['o21', 'o22'],
      ['o22', 'o21'],
    ]);
  });

  it('parameters differ from copy to copy', () => {
    const { after, made } = saved();
    const prefab = { ...after.prefabs[made.prefab], parameters: [{ id: 'glow', label: 'Glow', object: 'o3', property: 'intensity' }] };
    const map = withChanges(
      after,
      { of: 'prefabs', id: made.prefab, to: prefab },
      { of: 'copies', id: 'c1', to: { ...after.copies.c1, values: { glow: 77 } } },
    );
    expect(expandMap(map, profile).objects.c1_o3.properties.intensity).toBe(77);
  });

  it('made independent, a copy is the map’s own and looks the same', () => {
    const { after } = saved();
    const before = expandMap(after, profile);
    const loose = applyEdit(after, makeIndependent(after, profile, 'c1').edit);
    expect(loose.copies).toEqual({});
    expect(
      Object.values(loose.objects)
        .map((o) => o.name)
        .sort(),
    ).toEqual(
      Object.values(before.objects)
        .map((o) => o.name)
        .sort(),
    );
    expect(codesOf(loose)).not.toContain('signal-broken');
  });

  it('holding itself is refused, and found where a file has it', () => {
    const { after, made } = saved();
    const opened = openPrefab(after, 'c1')!;
    const inner = { ...after.copies.c1, name: 'again' };
    expect(savePrefab(after, 'c1', { ...opened, copies: { c1: inner } })).toContain('would hold itself');
    const broken = withChanges(after, { of: 'prefabs', id: made.prefab, to: { ...after.prefabs[made.prefab], copies: { c1: inner } } });
    expect(cycleProblem(broken)).toBe('Prefab post would hold itself: post → post.');
    expect(codesOf(broken)).toContain('prefab-cycle');
  });

  it('the game’s own can be placed, and a copy of nothing is a blocker', () => {
    const map = applyEdit(hall(), placeCopy(hall(), profile, 'mooring', [0, 0, 0]).edit);
    expect(Object.values(expandMap(map, profile).objects).map((o) => o.name)).toContain('mooring_lamp');
    const lost = withChanges(map, { of: 'copies', id: 'c1', to: { ...map.copies.c1, prefab: 'gone' } });
    expect(codesOf(lost)).toContain('prefab-missing');
    expect(codesOf(mended(lost, 'prefab-missing'))).not.toContain('prefab-missing');
  });
});

describe('series', () => {
  const beacons = (...ordinals: number[]) =>
    ordinals.reduce((map, n, i) => withChanges(map, object(`o${i + 10}`, 'beacon', `beacon_${n}`, [i * 32, 0, 0], { ordinal: n, call: '' })), hall());

  it('finds gaps and duplicates, and renumbering mends both with names that follow', () => {
    const map = withChanges(beacons(0, 1, 3), object('o20', 'beacon', 'other', [0, 64, 0], { ordinal: 1 }));
    expect(seriesProblems(seriesOf(map, profile, 'beacon'))).toMatchObject({ gaps: [2], duplicates: [{ ordinal: 1 }] });
    expect(codesOf(map)).toEqual(expect.arrayContaining(['series-gap', 'series-twice']));
    const good = mended(map, 'series-gap');
    expect(seriesOf(good, profile, 'beacon').map((m) => [m.ordinal, m.name])).toEqual([
      [0, 'beacon_0'],
      [1, 'beacon_1'],
      [2, 'other'],
      [3, 'beacon_3'],
    ]);
    expect(codesOf(good)).not.toContain('series-gap');
  });

  it('turning the order round swaps names without a clash', () => {
    const map = beacons(0, 1, 2);
    const order = seriesOf(map, profile, 'beacon').map((m) => m.id);
    const turned = applyEdit(map, renumber(map, profile, 'beacon', order.reverse())!);
    expect(seriesOf(turned, profile, 'beacon').map((m) => [m.id, m.name])).toEqual([
      ['o12', 'beacon_0'],
      ['o11', 'beacon_1'],
      ['o10', 'beacon_2'],
    ]);
  });

  it('the next one goes on the same way', () => {
    const map = beacons(0, 1);
    const next = addNext(map, profile, 'beacon')!;
    expect(applyEdit(map, next.edit).objects[next.id]).toMatchObject({ name: 'beacon_2', position: [64, 0, 0], properties: { ordinal: 2 } });
  });
});

describe('paths', () => {
  const path: MapPath = {
    name: 'round',
    points: [
      [0, 0, 0],
      [30, 0, 0],
      [30, 40, 0],
    ],
    loop: true,
  };
  it('are walked at constant speed, loops back to the beginning', () => {
    expect(pathLength(path)).toBe(120);
    expect(pointAlong(path, 50)).toEqual([30, 20, 0]);
    expect(pointAlong(path, 120 + 15)).toEqual([15, 0, 0]);
    expect(pointAlong({ ...path, loop: false }, 500)).toEqual([30, 40, 0]);
  });

  it('a follower of a path that is gone is a blocker whose fix clears it', () => {
    const map = withChanges(hall(), { of: 'paths', id: 'w1', to: path }, object('o9', 'ferry', 'raft', [0, 0, 8], { path: 'w1' }));
    expect(codesOf(map)).not.toContain('reference-broken');
    const lost = withChanges(map, { of: 'paths', id: 'w1', to: null });
    expect(codesOf(lost)).toContain('reference-broken');
    expect(codesOf(mended(lost, 'reference-broken'))).toContain('path-missing');
  });
});

describe('what the player can do', () => {
  const { player } = profile;
  // The closed form of projectile motion: height v²/2g, range from the later root of z(t).
  it('jump height and reach solve the equation of motion', () => {
    expect(jumpHeight(player)).toBeCloseTo(player.jumpSpeed ** 2 / (2 * player.gravity), 9);
    fc.assert(
      fc.property(fc.double({ min: -100, max: jumpHeight(player) * 0.999, noNaN: true }), (rise) => {
        const t = jumpReach(player, rise)! / player.runSpeed;
        expect(player.jumpSpeed * t - (player.gravity * t * t) / 2).toBeCloseTo(rise, 6);
      }),
    );
    expect(jumpReach(player, jumpHeight(player) + 0.1)).toBeNull();
  });

  it('says of two points what works', () => {
    const can = (b: Vec3) => Object.fromEntries(playerCan(player, [0, 0, 0], b).map((a) => [a.what, a.can]));
    expect(can([10, 0, 12])).toMatchObject({ step: true, 'jump up': true });
    expect(can([10, 0, 20])).toMatchObject({ step: false, 'jump up': true });
    expect(can([400, 0, 0])).toMatchObject({ 'jump across': false, 'fit through': true });
    expect(can([20, 0, 0])).toMatchObject({ 'fit through': false });
  });

  it('measures', () => {
    expect(measureDistance([0, 0, 0], [3, 4, 12])).toMatchObject({ distance: 13, level: 5 });
    expect(measureAngle([1, 0, 0], [0, 0, 0], [0, 5, 0])).toBeCloseTo(90, 9);
    expect(
      measureArea([
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 3],
        [0, 0, 3],
      ]),
    ).toBeCloseTo(12, 9);
  });
});

describe('lights', () => {
  it('the ring that is drawn is where the inverse square law falls to the readable level', () => {
    const metres = profile.unit.metres;
    fc.assert(
      fc.property(fc.double({ min: 1, max: 500, noNaN: true }), (candela) => {
        const distance = readableReach(candela, 0, metres);
        expect(candela / (distance * metres) ** 2 / Math.PI).toBeCloseTo(0.02, 6);
        expect(intensityForReach(distance, metres)).toBeCloseTo(candela, 6);
        expect(readableReach(candela, 100, metres)).toBeLessThanOrEqual(100);
      }),
    );
  });

  it('spots and suns are handed to the build as they are placed', () => {
    const map = withChanges(
      blank(),
      object('o1', 'spot', 'spot', [0, 0, 64], { tilt: -90, cone: 60, soft: 0 }),
      object('o2', 'sun', 'sun', [0, 0, 0], { height: 90 }),
    );
    const [spot] = mapLights(profile, map);
    expect(spot.cone!.direction).toEqual([0, 0, -1]);
    expect(spot.cone!.outer).toBeCloseTo(Math.cos(Math.PI / 6), 9);
    expect(mapSuns(profile, map)[0].towards).toEqual([0, 0, 1]);
  });
});

describe('checks of solids and standing', () => {
  it.each([
    ['solid-off-grid', [solid('s20', cube([0.3, 0, 0]))]],
    ['solid-thin', [solid('s20', block({ min: [0, 0, 40], max: [64, 64, 41] }, 'brick'))]],
    ['solid-twice', [solid('s20', cube([32, 32, 32])), solid('s21', cube([32, 32, 32]))]],
    ['object-floats', [object('o20', 'prop', 'box', [32, 32, 50], { model: '' })]],
    ['object-sinks', [object('o20', 'prop', 'box', [32, 32, -10], { model: '' })]],
  ] as [string, Change[]][])('%s is found, and its fix mends it', (code, changes) => {
    const map = withChanges(hall(), ...changes);
    expect(codesOf(hall())).not.toContain(code);
    expect(codesOf(map)).toContain(code);
    expect(codesOf(mended(map, code))).not.toContain(code);
  });

  it('faces in one plane flicker only where they overlap with different looks', () => {
    const flicker = (material: string, at: number) =>
      codesOf(
        withChanges(
          hall(),
          solid('s20', block({ min: [0, 0, 32], max: [32, 32, 64] }, 'brick')),
          solid('s21', block({ min: [at, 0, 32], max: [at + 32, 32, 64] }, material)),
        ),
      ).includes('solid-flicker');
    expect(flicker('slate', 16)).toBe(true);
    expect(flicker('brick', 16)).toBe(false);
    expect(flicker('slate', 32)).toBe(false);
  });

  it('drops what floats and lifts what sank, by what is needed', () => {
    const world = testWorld();
    const map = withChanges(
      hall(),
      solid('s20', cube([0, 0, 0], 24)),
      object('o20', 'prop', 'box', [12, 12, 90], { model: '' }),
      object('o21', 'prop', 'low', [100, 100, -4], { model: '' }),
    );
    const dropped = applyEdit(map, dropToSurface(world, map, ['o20', 'o21'])!);
    expect([dropped.objects.o20.position[2], dropped.objects.o21.position[2]]).toEqual([24, 0]);
  });

  it('a pair has to lead back', () => {
    const map = withChanges(
      hall(),
      object('o20', 'trigger', 'gate_in', [0, 0, 0], { exit: 'o21' }),
      object('o21', 'trigger', 'gate_out', [64, 64, 0]),
    );
    expect(codesOf(map)).toContain('pair-broken');
    expect(codesOf(mended(map, 'pair-broken'))).not.toContain('pair-broken');
  });
});

describe('finding', () => {
  const map = withChanges(
    hall(),
    object('o20', 'sign', 'notice', [0, 0, 0], { text: 'Mind the “low” beam\nЖёлтый' }),
    solid('s20', { ...cube([0, 0, 0]), tags: ['plinth'] }),
  );
  it.each([
    ['notice', 'o20'],
    ['class:sign', 'o20'],
    ['text:жёлтый', 'o20'],
    ['tag:plinth', 's20'],
    ['material:brick s20', 's20'],
  ])('%s finds %s', (query, id) => expect(findInMap(map, profile, query).map((f) => f.id)).toContain(id));
  it('finds nothing for nothing', () => {
    expect(findInMap(map, profile, '  ')).toEqual([]);
    expect(findInMap(map, profile, 'name:plinth')).toEqual([]);
  });
});

describe('map files', () => {
  const map = withChanges(hall(), object('o20', 'sign', 'notice', [0, 0, 0], { text: '"quoted" {not a brace}\n\\ 漢字' }), {
    of: 'paths',
    id: 'w1',
    to: {
      name: 'way',
      points: [
        [0, 0, 0],
        [1, 1, 1],
      ],
      loop: false,
    },
  });
  const text = serialiseMap(map);

  it('a one-object change is a one-line change', () => {
    const next = serialiseMap(withChanges(map, { of: 'objects', id: 'o20', to: { ...map.objects.o20, turn: 15 } })).split('\n');
    expect(text.split('\n').filter((line, i) => line !== next[i])).toHaveLength(1);
    expect(readMap(text, 'hall.map.json')).toEqual(map);
  });

  it('one broken member is left out and named by line and column; the rest is there', () => {
    const broken = text.replace(/("o20": \{[^\n]*?)"turn"/, '$1"turn');
    const { map: got, findings } = recoverMap(broken, 'maps/hall.map.json', blank());
    const { o20: _lost, ...others } = map.objects;
    expect(got).toEqual({ ...map, objects: others });
    expect(findings).toHaveLength(1);
    const { line, column } = findings[0].place!;
    expect(broken.split('\n')[line! - 1].slice(column! - 1)).toMatch(/^\{"class":"sign"/);
  });

  it('a file that breaks off keeps all that came before', () => {
    const cut = text.slice(0, text.indexOf('"s4"') + 40);
    const { map: got, findings } = recoverMap(cut, 'maps/hall.map.json', blank());
    expect(Object.keys(got.solids)).toEqual(['s1', 's2', 's3']);
    expect(findings[0].message).toContain('solid s4');
  });

  it('a member of the wrong form is left out in a file that is JSON all the same', () => {
    const parsed = JSON.parse(text) as GameMap;
    (parsed.solids.s2 as { faces: unknown }).faces = 'none';
    const { map: got, findings } = recoverMap(JSON.stringify(parsed, null, 2), 'maps/hall.map.json', blank());
    expect(Object.keys(got.solids)).not.toContain('s2');
    expect(Object.keys(got.solids)).toHaveLength(Object.keys(map.solids).length - 1);
    expect(findings.map((f) => f.code)).toEqual(['map-damaged']);
  });

  it('whatever is cut out or overwritten, it answers with a map or a clear error, and never makes members up', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: text.length - 1 }), fc.integer({ min: 0, max: 60 }), fc.string({ maxLength: 6 }), (at, length, put) => {
        const damaged = text.slice(0, at) + put + text.slice(at + length);
        let got: GameMap;
        try {
          got = recoverMap(damaged, 'maps/hall.map.json', blank()).map;
        } catch (error) {
          expect((error as Error).name).toBe('UnreadableInput');
          return;
        }
        expect(Object.keys(got.solids).length).toBeLessThanOrEqual(Object.keys(map.solids).length + 1);
        for (const one of Object.values(got.solids)) expect(one.faces.length).toBeGreaterThanOrEqual(4);
      }),
      { numRuns: 400 },
    );
  });

  it('a crate with a damaged map opens with a report, or is refused where none is asked for', () => {
    const tree = writeDocuments(testWorld().crate);
    const damaged = new TextDecoder().decode(tree.get('maps/hall.map.json')).replace('"s3": {', '"s3": {,');
    tree.set('maps/hall.map.json', new TextEncoder().encode(damaged));
    expect(() => readCrate(tree)).toThrow(/line \d+/);
    const report: Finding[] = [];
    expect(Object.keys(readCrate(tree, report).maps.hall.solids)).toHaveLength(5);
    expect(report.map((f) => f.code)).toEqual(['map-damaged']);
  });
});

describe('comparing maps', () => {
  it('the difference leads from one to the other, whatever was done', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 1, max: 8 }), fc.integer({ min: 0, max: 3 })), { maxLength: 12 }), (steps) => {
        const from = hall();
        const to = steps.reduce(
          (map, [n, what]) => withChanges(map, { of: 'solids', id: `s${n}`, to: what === 0 ? null : cube([n * what * 16, 0, 0]) }),
          from,
        );
        const edit = diffMaps(from, to, 'difference');
        expect(serialiseMap(edit ? applyEdit(from, edit) : from)).toBe(serialiseMap(to));
        if (edit) expect(touchedBy(edit).size).toBe(edit.changes.length);
      }),
      { numRuns: 50 },
    );
  });
});

describe('the budget', () => {
  it('counts what copies stand for', () => {
    const world = testWorld();
    const map = applyEdit(world.crate.maps.hall, placeCopy(world.crate.maps.hall, profile, 'mooring', [0, 0, 0]).edit);
    const used = (m: GameMap) =>
      Object.fromEntries(budgetOf({ ...world, crate: { ...world.crate, maps: { hall: m } } }, 'hall').map((l) => [l.id, l.used]));
    expect(used(map).solids - used(world.crate.maps.hall).solids).toBe(2);
    expect(used(map).lights - used(world.crate.maps.hall).lights).toBe(1);
    expect(solidVolume(expandMap(map, profile).solids.c1_s1)).toBeCloseTo(12 * 12 * 72, 3);
  });
});

describe('what other programs get', () => {
  it('a map as GLB passes the validator, in metres, with the faces that the build has', async () => {
    const world = testWorld();
    const model = mapModel(world, 'hall');
    const glb = await writeGlb({ model, lods: [], collision: null, slots: [] });
    expect(await glbErrors(glb)).toEqual([]);
    const bounds = boundsOf(model.parts[0].positions);
    // The room's outside: 320 + 2 × 16 notches of 1/32 m, y up.
    expect(bounds.max[0] - bounds.min[0]).toBeCloseTo((320 + 32) / 32, 5);
    expect(bounds.max[1] - bounds.min[1]).toBeCloseTo((128 + 32) / 32, 5);
  });

  it('faces that nobody can see are those covered and those of the outside', () => {
    const world = testWorld();
    const map = withChanges(world.crate.maps.hall, solid('s20', cube([-8, -8, 0])));
    const found = findUnseenFaces(world, map)!;
    expect(found.material).toBe('unseen');
    const key = (id: string, normal: Vec3) =>
      found.faces.some((f) => f.solid === id && map.solids[id].faces[f.face].normal.every((n, i) => n === normal[i]));
    // The block's underside stands on the floor; the floor's own underside looks out of the map.
    expect([key('s20', [0, 0, -1]), key('s20', [0, 0, 1]), key('s1', [0, 0, -1]), key('s1', [0, 0, 1])]).toEqual([true, false, true, false]);
  });

  it('the sun of a sky picture is found where it was painted', () => {
    const [width, height] = [64, 32];
    const pixels = new Uint8ClampedArray(width * height * 4).fill(60);
    // Column 16 of 64 lies at turn 180 - 90 = 90°; row 8 of 32 at half the height of the upper half: 45°.
    const at = (8 * width + 16) * 4;
    pixels.set([255, 230, 200, 255], at);
    const sun = estimateSun(pixels, width, height)!;
    expect(Math.abs(sun.turn - 90)).toBeLessThan(4);
    expect(Math.abs(sun.height - 45)).toBeLessThan(4);
    expect(sun.colour).toBe('#ffe6c8');
  });
});

describe('props and icons', () => {
  const crateRecord = { source: 'box.obj', options: {}, bounds: { min: [-12, -12, 0] as Vec3, max: [12, 12, 24] as Vec3 } };
  const worldWith = (map: GameMap, collision = { kind: 'box', parts: 1, volume: 0.4, meshVolume: 0.4, mass: 30 }) => {
    const world = testWorld();
    const assets = {
      'models/box.glb': { ...crateRecord, collision },
      'textures/sign.ktx2': { source: 'sign.png', options: {}, width: 48, height: 48 },
    };
    const files = Object.keys(assets).map((path) => ({ path, bytes: 1, sha256: '0'.repeat(64) }));
    return { ...world, crate: { ...world.crate, files, manifest: { ...world.crate.manifest, assets }, maps: { hall: map } } };
  };
  const box = (id: string, at: Vec3, movable = true) => object(id, 'prop', `box_${id}`, at, { model: 'models/box.glb', movable, solid: true });

  it('falls to the floor and stacks on what lies there', async () => {
    const map = withChanges(hall(), box('o20', [0, 0, 60]), box('o21', [2, 0, 95]));
    const edit = await settleProps(worldWith(map), map, ['o20', 'o21']);
    if (typeof edit === 'string') throw new Error(edit);
    const after = applyEdit(map, edit);
    const heights = ['o20', 'o21'].map((id) => after.objects[id].position[2]);
    // A centimetre or so of contact margin is the physics' own.
    expect(Math.abs(heights[0])).toBeLessThan(0.7);
    expect(Math.abs(heights[1] - 24)).toBeLessThan(1.4);
  });

  it('moves only what may move, and says so otherwise', async () => {
    const fixed = withChanges(hall(), box('o20', [0, 0, 60], false));
    expect(await settleProps(worldWith(fixed), fixed, ['o20'])).toContain('None of them is movable');
    const map = withChanges(hall(), box('o20', [0, 0, 0]));
    const bare = worldWith(map, { kind: 'none', parts: 0, volume: 0, meshVolume: 0, mass: 0 });
    expect(await settleProps(bare, map, ['o20'])).toContain('None of them is movable');
    expect(checkCrate(bare).findings.map((f) => f.code)).toContain('prop-cannot-move');
    expect(checkCrate(worldWith(map)).findings.map((f) => f.code)).not.toContain('prop-cannot-move');
  });

  it('a map icon of a size that the game does not take is found', () => {
    const map = withChanges(hall(), object('o20', 'trigger', 'harbour', [0, 0, 0], { icon: 'textures/sign.ktx2' }));
    expect(checkCrate(worldWith(map)).findings.find((f) => f.code === 'map-icon-size')?.message).toContain('48 × 48');
  });
});

describe('assets within prefabs', () => {
  const own = (name: string) => ({ name, type: 'lit', colour: '#404040', unitsPerRepeat: 64 });
  const inPrefab = () => {
    const start = withChanges(
      hall(),
      solid('s20', block({ min: [0, 0, 0], max: [16, 16, 16] }, 'tar')),
      object('o20', 'prop', 'tub', [8, 8, 16], { model: 'models/tub.glb' }),
    );
    const world = testWorld();
    const { edit } = makePrefab(start, profile, 'tubs', { solids: ['s20'], objects: ['o20'], copies: [] }, [8, 8, 0]);
    const files = [{ path: 'models/tub.glb', bytes: 7, sha256: '0'.repeat(64) }];
    const manifest = {
      ...world.crate.manifest,
      materials: [own('tar')],
      assets: { 'models/tub.glb': { source: 'sources/models/tub.obj', options: {} } },
    };
    return { ...world, crate: { ...world.crate, files, manifest, maps: { hall: applyEdit(start, edit) } } };
  };

  it('are linked, and so travel with the package', () => {
    const { links, unused } = linkMap(inPrefab(), 'hall');
    expect(links.filter((l) => l.origin === 'crate').map((l) => l.name)).toEqual(expect.arrayContaining(['tar', 'models/tub.glb']));
    expect(unused.map((file) => file.path)).toEqual([]);
  });

  it('a finding within a copy leads to the copy, and offers no fix that would make a stray member', () => {
    const start = withChanges(hall(), object('o20', 'prop', 'tub', [32, 32, 60], { model: '' }));
    const map = applyEdit(start, makePrefab(start, profile, 'tubs', { solids: [], objects: ['o20'], copies: [] }, [32, 32, 0]).edit);
    const floats = (m: GameMap) => findingsOf(m).find((f) => f.code === 'object-floats')!;
    expect(floats(start).fix).toBeDefined();
    expect(floats(map)).toMatchObject({ place: { copy: 'c1', object: 'c1_o20' } });
    expect(floats(map).fix).toBeUndefined();
  });

  it('count as used, and renaming follows into the prefab', () => {
    const world = inPrefab();
    expect(usageOf(world).get('models/tub.glb')?.[0].what).toBe('object tub of prefab tubs');
    const { edits } = renameMaterial(world, 'tar', 'pitch');
    const renamed = applyEdit(world.crate.maps.hall, edits.hall);
    expect(JSON.stringify(renamed.prefabs)).toContain('"pitch"');
    expect(JSON.stringify(renamed)).not.toContain('"tar"');
    const moved = applyEdit(world.crate.maps.hall, renameAsset(world, 'models/tub.glb', 'vat').edits.hall);
    expect(moved.prefabs.p1.objects.o20.properties.model).toBe('models/vat.glb');
  });
});

describe('a sun', () => {
  it('that is marked outside opens no leak', () => {
    const map = withChanges(hall(), object('o20', 'sun', 'sun', [5000, 0, 900]), object('o21', 'lamp', 'lost', [5000, 0, 900]));
    const { sources } = sealingInputs({ ...testWorld(), crate: { ...testWorld().crate, maps: { hall: map } } }, map);
    expect(sources.map((s) => s.id)).toEqual(['o1', 'o2', 'o21']);
  });
});
