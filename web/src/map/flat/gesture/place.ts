import { placeCopy } from '@violet-crate/core/map/prefab';
import { placeObject } from '../../editing/edits.ts';
import { clickOnly } from './gesture.ts';

/** Places an object of the chosen class, or a copy of the chosen prefab. */
export const place = clickOnly('place', ({ doc: { map, profile, view, band }, projection }, { at: where, sheet }) => {
  const at = projection.pointAt(projection.snapped(where, sheet.scale));
  if (view.placePrefab) {
    const { edit, copy } = placeCopy(map, profile, view.placePrefab, at);
    return { edit, selection: { kind: 'copies', ids: [copy] } };
  }
  if (!view.placeClass) return null;
  const asset = view.placeAsset
    ? { kind: view.placeAsset.startsWith('sounds/') ? ('sound' as const) : ('model' as const), path: view.placeAsset }
    : undefined;
  return placeObject(map, profile, view.placeClass, [at[0], at[1]], band, asset);
});
