import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '@violet-crate/core/document/edit';
import { plainOverlay, plainStyle } from '@violet-crate/core/decal/place';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { block } from '@violet-crate/core/solid/primitives';
import { blank, solid, withChanges } from '@violet-crate/core/testing/maps';
import { store } from '../../state/store.ts';
import type { ViewState } from '../../state/viewSlice.ts';
import { finishedOverlay, laid } from './laying.ts';

const map = withChanges(blank(), solid('s1', block({ min: [-50, -50, -16], max: [50, 50, 0] }, 'brick')));
const at = (x: number, normal: Vec3 = [0, 0, 1]) => ({ point: [x, 0, 0] as Vec3, normal, solid: 's1' });
const view = (part: Partial<ViewState>): ViewState => ({ ...store.getState().view, ...part });

describe('a click of the decal tool', () => {
  it('asks for a material, and for a surface', () => {
    expect(laid(map, view({}), at(0))).toEqual({ refusal: 'Choose the material of the decal first.' });
    expect(laid(map, view({ laying: 'area' }), at(0))).toEqual({ refusal: 'Choose the material of the area first.' });
    expect(laid(map, view({ decal: plainStyle('stain', [8, 8]) }), null)).toEqual({ refusal: 'There is no surface under that point.' });
  });

  it('puts a decal, which is selected, and leaves the tool as it is', () => {
    const { edit, selection, view: next } = laid(map, view({ decal: plainStyle('stain', [8, 8]) }), at(4));
    expect(applyEdit(map, edit!).decals.d1).toMatchObject({ name: 'stain_1', position: [4, 0, 0], on: 's1' });
    expect([selection, next]).toEqual([{ kind: 'decals', ids: ['d1'] }, { refusal: '' }]);
  });

  it('gathers the points of a strip, which is laid when it is ended', () => {
    const begun = view({ laying: 'strip', overlay: plainOverlay('stain', 8) });
    const one = laid(map, begun, at(0)).view!;
    expect(finishedOverlay(map, { ...begun, ...one })).toEqual({ refusal: 'A strip has two points at least.' });
    const two = laid(map, { ...begun, ...one }, at(20)).view!;
    const done = finishedOverlay(map, { ...begun, ...two });
    expect(applyEdit(map, done.edit!).overlays.v1).toMatchObject({ form: 'strip', on: 's1', points: [[0, 0, 0], [20, 0, 0]] }); // prettier-ignore
    expect([done.selection, done.view!.overlayDraft]).toEqual([{ kind: 'overlays', ids: ['v1'] }, []]);
  });

  it('an area needs three corners that look one way', () => {
    const begun = view({ laying: 'area', overlay: plainOverlay('stain', 8) });
    const facing = [at(0), at(10, [0, 0, -1])];
    expect(finishedOverlay(map, { ...begun, overlayDraft: facing }).refusal).toMatch(/three corners/);
    expect(finishedOverlay(map, { ...begun, overlayDraft: [at(0), at(10), at(20)] }).edit!.changes).toHaveLength(1);
  });
});
