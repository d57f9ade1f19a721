import { describe, expect, it } from '@jest/globals';
import type { LineSegments, Mesh } from 'three';
import { Box3, PointLight, type MeshLambertMaterial } from 'three';
import { block } from '@violet-crate/core/solid/primitives';
import type { Solid } from '@violet-crate/core/document/schema';
import { hall, object, profile, withChanges } from '@violet-crate/core/testing/maps';
import { testWorld } from '@violet-crate/core/testing/world';
import { newObject } from '@violet-crate/core/profile/newObject';
import { boxSize } from '@violet-crate/core/math/box3';
import { objectBox } from '@violet-crate/core/map/objectBox';
import type { AssetSource } from '../../api/assetUrl.ts';
import {
  ghostGroup,
  linksGroup,
  objectGroup,
  ObjectsScene,
  playerFigure,
  previewLights,
  SolidsScene,
  trailGroup,
  type SolidsLook,
} from './mapScene.ts';

const world = testWorld();
const m = profile.unit.metres;
const source = { view: { id: 'c', files: [] }, profileId: profile.id } as unknown as AssetSource;
const COLOURS = { warm: '#ffaa55', violet: '#8855ff', clear: '#55ffaa' };
const ALL: SolidsLook = { shown: () => true, undrawn: false };
const cube = (x: number, material = 'brick') => block({ min: [x, 0, 0], max: [x + 8, 8, 8] }, material);
const row = (count: number): Record<string, Solid> => Object.fromEntries(Array.from({ length: count }, (_, i) => [`s${i}`, cube(i * 16)]));
const meshes = (scene: SolidsScene) => scene.group.children.flatMap((chunk) => chunk.children as Mesh[]);
const triangles = (scene: SolidsScene) => meshes(scene).reduce((sum, mesh) => sum + mesh.geometry.getAttribute('position').count / 3, 0);

describe('the solids of the perspective', () => {
  const update = (scene: SolidsScene, solids: Record<string, Solid>, look = ALL, context: unknown[] = []) =>
    scene.update(world, solids, source, look, context, () => {});

  it('are all there, in metres with y up', () => {
    const scene = new SolidsScene();
    update(scene, { s1: block({ min: [0, 32, 64], max: [32, 64, 128] }, 'brick') });
    const box = new Box3().setFromObject(scene.group);
    expect(triangles(scene)).toBe(12);
    expect(box.min.toArray().map((v) => v / m)).toEqual([0, 64, -64]);
    expect(box.max.toArray().map((v) => v / m)).toEqual([32, 128, -32]);
  });

  it('an edit makes only the chunk anew that holds what changed', () => {
    const scene = new SolidsScene();
    const solids = row(480);
    update(scene, solids);
    expect(scene.rebuilt).toBe(10);
    update(scene, { ...solids });
    expect(scene.rebuilt).toBe(0);
    update(scene, { ...solids, s100: cube(5000) });
    expect(scene.rebuilt).toBe(1);
    const { s100: _gone, ...rest } = solids;
    update(scene, rest);
    expect(scene.rebuilt).toBe(1);
    expect(triangles(scene)).toBe(479 * 12);
    update(scene, rest, ALL, ['another material']);
    expect(scene.rebuilt).toBe(10);
  });

  it('chunks whose solids are all gone are dropped', () => {
    const scene = new SolidsScene();
    update(scene, row(100));
    update(scene, row(10));
    expect(scene.group.children).toHaveLength(1);
    update(scene, {});
    expect(scene.group.children).toEqual([]);
  });

  it('what the game never draws is left out, or shown faintly', () => {
    const scene = new SolidsScene();
    const solids = { s1: cube(0), s2: cube(16, 'unseen') };
    update(scene, solids);
    expect(triangles(scene)).toBe(12);
    update(scene, solids, { ...ALL, undrawn: true }, ['undrawn']);
    expect(triangles(scene)).toBe(24);
    expect(meshes(scene).map((mesh) => (mesh.material as MeshLambertMaterial).opacity)).toEqual([1, 0.18]);
    update(scene, solids, { shown: (id) => id !== 's1', undrawn: false }, ['hidden']);
    expect(triangles(scene)).toBe(0);
  });

  it('a material that is missing is drawn in a colour that says so', () => {
    const scene = new SolidsScene();
    update(scene, { s1: cube(0, 'no_such') });
    expect((meshes(scene)[0].material as MeshLambertMaterial).color.getHexString()).toBe('ff6a5a');
  });
});

describe('the objects of the perspective', () => {
  it('only changed ones are made anew, hidden ones leave', () => {
    const scene = new ObjectsScene();
    const made: string[] = [];
    const make = (one: { name: string }) => {
      made.push(one.name);
      return objectGroup(world, one as never, source, COLOURS, () => {});
    };
    const objects = { o1: newObject(profile, 'trigger', 'a', [0, 0, 0]), o2: newObject(profile, 'trigger', 'b', [64, 0, 0]) };
    const shown = () => true;
    scene.update(objects, shown, make, [1]);
    scene.update(objects, shown, make, [1]);
    expect(made).toEqual(['a', 'b']);
    scene.update({ ...objects, o2: { ...objects.o2, position: [0, 64, 0] } }, shown, make, [1]);
    expect(made).toEqual(['a', 'b', 'b']);
    scene.update(objects, (id) => id === 'o1', make, [1]);
    expect(scene.group.children.map((child) => child.userData.object as string)).toEqual(['o1']);
    scene.update(objects, shown, make, [2]);
    expect(made.slice(3)).toEqual(['a', 'b']);
  });

  it('one without a model is as large as what it stops or reaches', () => {
    const sluice = { ...newObject(profile, 'sluice', 'sluice', [0, 0, 0]), turn: 90 };
    const group = objectGroup(world, sluice, source, COLOURS, () => {});
    group.updateMatrixWorld(true);
    const size = new Box3().setFromObject(group).getSize(new Box3().min.clone()).toArray();
    const [w, d, h] = boxSize(objectBox(world, sluice)).map((v) => v * m);
    [w, h, d].forEach((v, i) => expect(size[i]).toBeCloseTo(v, 5));
  });
});

describe('lines and lights of the perspective', () => {
  const segments = (group: { children: unknown[] }) =>
    (group.children as LineSegments[]).map((one) => one.geometry.getAttribute('position').count / 2);

  it('a signal is a line with a head of two; one whose end is gone is not drawn', () => {
    const map = withChanges(
      hall(),
      object('o8', 'crank', 'crank', [0, 0, 0]),
      object('o9', 'lamp', 'lamp', [64, 0, 0]),
      { of: 'signals', id: 'g1', to: { from: 'o8', event: 'turned', to: { object: 'o9', action: 'light' }, delay: 0 } },
      { of: 'signals', id: 'g2', to: { from: 'o77', event: 'turned', to: { object: 'o9', action: 'light' }, delay: 0 } },
    );
    expect(segments(linksGroup(map, m, COLOURS))).toEqual([3]);
  });

  it('a ghost has the edges of its solids and its lines; a trail those between its points', () => {
    const ghost = ghostGroup(
      {
        solids: [cube(0)],
        lines: [
          [
            [0, 0, 0],
            [1, 0, 0],
            [1, 1, 0],
          ],
        ],
      } as never,
      m,
      '#fff',
    );
    expect(segments(ghost)).toEqual([6 * 4 + 2]);
    expect(
      segments(
        trailGroup(
          [
            [0, 0, 0],
            [1, 0, 0],
            [2, 0, 0],
          ],
          m,
          '#fff',
        ),
      ),
    ).toEqual([2]);
  });

  it('previews the nearest lights, in candela', () => {
    const lamps = Array.from({ length: 14 }, (_, i) => object(`o${20 + i}`, 'lamp', `l${i}`, [i * 100, 0, 64], { intensity: 10 + i }));
    const lights = previewLights(profile, withChanges(hall(), ...lamps), [1300, 0, 64], 12).children.filter((one) => one instanceof PointLight);
    expect(lights).toHaveLength(10);
    expect(lights[0].intensity).toBeCloseTo(23, 6);
  });

  it('the figure is as high as the player and stands on its point', () => {
    const group = playerFigure(profile, '#fff');
    group.updateMatrixWorld(true);
    const box = new Box3().setFromObject(group);
    expect(box.min.y).toBeCloseTo(0, 5);
    expect(box.max.y / m).toBeCloseTo(profile.player.height, 4);
  });
});
