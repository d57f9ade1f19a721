import { describe, expect, it } from '@jest/globals';
import { PerspectiveCamera } from 'three';
import { block } from '@violet-crate/core/solid/primitives';
import type { Change } from '@violet-crate/core/document/edit';
import { blank, object, profile, solid, withChanges } from '@violet-crate/core/testing/maps';
import { testWorld } from '@violet-crate/core/testing/world';
import { store } from '../../state/store.ts';
import { pickPerspective, pointerRay, type Ray } from './perspectivePick.ts';

const world = testWorld();
const view = { ...store.getState().view, cutAway: false, look: 'edit' as never };
const BAND = { top: 128 };
const wall = (id: string, x: number, material = 'brick') => solid(id, block({ min: [x, -50, 0], max: [x + 16, 50, 200] }, material));
const along = (x: number, z = 64): Ray => ({ origin: [x, 0, z], direction: [1, 0, 0] });
const pick = (changes: Change[], ray: Ray, change: Partial<typeof view> = {}) =>
  pickPerspective(ray, { world, whole: withChanges(blank(), ...changes), view: { ...view, ...change }, band: BAND });
const named = (hits: ReturnType<typeof pick>) => hits.map((hit) => hit.solid ?? hit.object);

describe('what lies under a point of the perspective', () => {
  it('the nearest is first, with the face and the point that are seen', () => {
    const hits = pick([wall('far', 300), wall('near', 100)], along(0));
    expect(named(hits)).toEqual(['near', 'far']);
    expect(hits[0]).toMatchObject({ t: 100, point: [100, 0, 64] });
    expect(withChanges(blank(), wall('near', 100)).solids.near.faces[hits[0].face!].normal).toEqual([-1, 0, 0]);
    expect(named(pick([wall('near', 100)], along(500)))).toEqual([]);
  });

  it('from within a solid its far side is meant', () => {
    const [hit] = pick([wall('around', -8)], along(0));
    expect(hit).toMatchObject({ solid: 'around', point: [8, 0, 64] });
  });

  it('what is cut away is looked through', () => {
    const down: Ray = { origin: [108, 0, 500], direction: [0, 0, -1] };
    const [whole] = pick([wall('tall', 100)], down);
    expect(whole.point[2]).toBe(200);
    const [cut] = pick([wall('tall', 100), solid('floor', block({ min: [0, -50, -16], max: [300, 50, 0] }, 'brick'))], down, { cutAway: true });
    expect(cut.point[2]).toBeLessThan(1);
    expect(pick([wall('tall', 100)], { origin: [0, 0, 500], direction: [1, 0, 0] }, { cutAway: true })).toEqual([]);
  });

  it('materials that the game does not draw are met only where they are shown', () => {
    const both = [wall('ghost', 100, 'unseen'), wall('real', 300)];
    expect(named(pick(both, along(0), { hideUnseen: false }))).toEqual(['ghost', 'real']);
    expect(named(pick(both, along(0), { hideUnseen: true }))).toEqual(['real']);
  });

  it('objects are met by their boxes, hidden ones not, and volumes are looked through', () => {
    const lamp = object('o9', 'crank', 'crank', [60, 0, 56]);
    const volume = object('o8', 'trigger', 'gate', [30, 0, 0], { size: [20, 20, 128] });
    expect(named(pick([lamp, volume, wall('near', 100)], along(0)))).toEqual(['o9', 'near']);
    expect(named(pick([lamp], along(0), { hidden: { 'objects/o9': true } }))).toEqual([]);
  });

  it('the middle of the picture leads where the camera looks, in map space', () => {
    const camera = new PerspectiveCamera(60, 1, 0.1, 100);
    camera.position.set(1, 2, 3);
    camera.lookAt(1, 2, 0);
    camera.updateMatrixWorld(true);
    const picture = { getBoundingClientRect: () => ({ left: 10, top: 20, width: 200, height: 100 }) } as HTMLElement;
    const { origin, direction } = pointerRay({ clientX: 110, clientY: 70 }, picture, camera, profile.unit.metres);
    const m = profile.unit.metres;
    [1 / m, -3 / m, 2 / m].forEach((v, i) => expect(origin[i]).toBeCloseTo(v, 9));
    [0, 1, 0].forEach((v, i) => expect(direction[i]).toBeCloseTo(v, 9));
    // The lower right corner leads to the right and down.
    const corner = pointerRay({ clientX: 210, clientY: 120 }, picture, camera, m);
    expect(corner.direction[0]).toBeGreaterThan(0.3);
    expect(corner.direction[2]).toBeLessThan(-0.3);
  });
});
