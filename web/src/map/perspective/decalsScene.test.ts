import { describe, expect, it } from '@jest/globals';
import type { Mesh, MeshLambertMaterial } from 'three';
import { plainOverlay, plainStyle } from '@violet-crate/core/decal/place';
import type { Decal, Overlay } from '@violet-crate/core/document/schema';
import { block } from '@violet-crate/core/solid/primitives';
import { blank, profile, solid, withChanges } from '@violet-crate/core/testing/maps';
import { testWorld } from '@violet-crate/core/testing/world';
import type { AssetSource } from '../../api/assetUrl.ts';
import { store } from '../../state/store.ts';
import { emptySelection } from '../../state/viewSlice.ts';
import { DecalsScene } from './decalsScene.ts';
import { chosenByClick } from './perspectiveClick.ts';
import { pickPerspective } from './perspectivePick.ts';

const world = testWorld();
const source = { view: { id: 'c', files: [] }, profileId: profile.id } as unknown as AssetSource;
const floor = block({ min: [-200, -200, -16], max: [200, 200, 0] }, 'brick');
const solids = { s1: floor };
const decal = (x: number, more: Partial<Decal> = {}): Decal => ({
  name: 'd',
  ...plainStyle('slate', [16, 16]),
  position: [x, 0, 0],
  normal: [0, 0, 1],
  ...more,
});
const strip: Overlay = { name: 'v', ...plainOverlay('slate', 8), points: [[0, 50, 0], [40, 50, 0]], normal: [0, 0, 1] }; // prettier-ignore
const look = { world, source, shown: () => true, onTexture: () => {} };
const meshes = (scene: DecalsScene) => scene.group.children as Mesh[];
const triangles = (mesh: Mesh) => mesh.geometry.index!.count / 3;

describe('decals in the perspective', () => {
  it('of one material and order are one mesh, drawn over what they lie on, higher orders later', () => {
    const scene = new DecalsScene();
    scene.update({ d1: decal(0), d2: decal(40), d3: decal(0, { order: 3 }), v1: strip }, solids, look, []);
    expect(meshes(scene).map(triangles).sort()).toEqual([2, 6]);
    const [low, high] = [...meshes(scene)].sort((a, b) => a.renderOrder - b.renderOrder);
    expect(high.renderOrder - low.renderOrder).toBeCloseTo(3, 3);
    for (const mesh of [low, high]) {
      const material = mesh.material as MeshLambertMaterial;
      expect([material.transparent, material.depthWrite, material.polygonOffset]).toEqual([true, false, true]);
      expect(material.polygonOffsetUnits).toBeLessThan(0);
    }
  });

  it('only what an edit changes is made anew; what is hidden is not there', () => {
    const scene = new DecalsScene();
    const all = { d1: decal(0), d100: decal(40), d200: decal(80) };
    scene.update(all, solids, look, []);
    const before = new Set(meshes(scene));
    scene.update({ ...all, d100: decal(44) }, solids, look, []);
    expect(meshes(scene).filter((mesh) => before.has(mesh))).toHaveLength(2);
    scene.update({ ...all, d100: decal(44) }, solids, { ...look, shown: (id) => id !== 'd1' }, []);
    expect(meshes(scene)).toHaveLength(2);
    scene.update({}, solids, look, []);
    expect(meshes(scene)).toHaveLength(0);
  });
});

describe('a click', () => {
  const map = withChanges(
    blank(),
    solid('s1', floor),
    { of: 'decals', id: 'd1', to: decal(0) },
    { of: 'decals', id: 'd2', to: decal(4, { order: 1 }) },
    { of: 'overlays', id: 'v1', to: strip },
  );
  const view = { ...store.getState().view, cutAway: false };
  const hits = (x: number, y: number, part: Partial<typeof view> = {}) =>
    pickPerspective({ origin: [x, y, 100], direction: [0, 0, -1] }, { world, whole: map, view: { ...view, ...part }, band: { top: 128 } });
  const named = (...args: Parameters<typeof hits>) => hits(...args).map(({ decal: d, overlay, solid: s }) => d ?? overlay ?? s);

  it('meets what lies on a surface before the surface, the uppermost first', () => {
    expect(named(2, 2)).toEqual(['d2', 'd1', 's1']);
    expect(named(20, 52)).toEqual(['v1', 's1']);
    expect(named(2, 2, { hidden: { 'decals/d2': true } })).toEqual(['d1', 's1']);
  });

  it('selects it, and with Shift beside what is selected', () => {
    const [decalHit] = hits(2, 2);
    const [overlayHit] = hits(20, 52);
    expect(chosenByClick(map, { selection: emptySelection }, decalHit, false)).toEqual({ kind: 'decals', ids: ['d2'] });
    expect(chosenByClick(map, { selection: { ...emptySelection, decals: ['d2'] } }, overlayHit, true)).toMatchObject({
      decals: ['d2'],
      overlays: ['v1'],
    });
  });
});
