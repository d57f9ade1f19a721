import { newDecal, newOverlay, type SurfacePoint } from '@violet-crate/core/decal/place';
import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Choice, ViewState } from '../../state/viewSlice.ts';

/** Any of an edit, another selection, another view, or why it was refused. */
interface Laid {
  edit?: MapEdit;
  selection?: Choice;
  view?: Partial<ViewState>;
  refusal?: string;
}

/** What a click of the decal tool on a surface makes: a decal, or another point of a strip or an area. @param surface null where the click met none */
export function laid(map: GameMap, { decal, laying, overlay, overlayDraft }: ViewState, surface: SurfacePoint | null): Laid {
  if (!(laying === 'decal' ? decal : overlay)) return { refusal: `Choose the material of the ${laying} first.` };
  if (!surface) return { refusal: 'There is no surface under that point.' };
  if (laying !== 'decal') return { view: { overlayDraft: [...overlayDraft, surface], refusal: '' } };
  const { id, edit } = newDecal(map, decal!, surface);
  return { edit, selection: { kind: 'decals', ids: [id] }, view: { refusal: '' } };
}

/** The strip or area of the points so far; why there is none. */
export function finishedOverlay(map: GameMap, { laying, overlay, overlayDraft }: ViewState): Laid {
  const made = overlay && laying !== 'decal' ? newOverlay(map, { ...overlay, form: laying }, overlayDraft) : null;
  if (!made)
    return { refusal: laying === 'area' ? 'An area has three corners at least, on surfaces that look one way.' : 'A strip has two points at least.' };
  return { edit: made.edit, selection: { kind: 'overlays', ids: [made.id] }, view: { overlayDraft: [], refusal: '' } };
}
