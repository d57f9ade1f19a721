import { surfaceAt } from '@violet-crate/core/map/surfaceAt';
import { isShown } from '../../../state/viewSlice.ts';
import { laid } from '../../decal/laying.ts';
import { clickOnly } from './gesture.ts';

/** Puts a decal, or a point of an overlay, onto what is seen under the pointer: floors in the plan, walls in the section. */
export const putDecal = clickOnly('decal', ({ doc: { map, whole, view }, projection }, { at }) => {
  const { origin, direction } = projection.sight(at);
  return laid(
    map,
    view,
    surfaceAt(map, whole, origin, direction, (id) => isShown(view, 'solids', id, whole.solids[id].layer)),
  );
});
