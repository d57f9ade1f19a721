import { newDecal } from '@violet-crate/core/decal/place';
import { surfaceAt } from '@violet-crate/core/map/surfaceAt';
import { isShown } from '../../../state/viewSlice.ts';
import { clickOnly } from './gesture.ts';

/** Puts a decal onto what is seen under the pointer: floors in the plan, walls in the section. */
export const putDecal = clickOnly('decal', ({ doc: { map, whole, view }, projection }, { at }) => {
  if (!view.decal) return { refusal: 'Choose the material of the decal first.' };
  const { origin, direction } = projection.sight(at);
  const surface = surfaceAt(map, whole, origin, direction, (id) => isShown(view, 'solids', id, whole.solids[id].layer));
  if (!surface) return { refusal: 'There is no surface under that point.' };
  const { id, edit } = newDecal(map, view.decal, surface);
  return { edit, selection: { kind: 'decals', ids: [id] }, view: { refusal: '' } };
});
