/** A stroke of the brush as the view has it, and the edit that it ends in. */

import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { BRUSHES, type BrushFacts } from '@violet-crate/core/terrain/brush/brush';
import { Stroke } from '@violet-crate/core/terrain/brush/stroke';
import { groundOf } from '@violet-crate/core/terrain/ground';
import type { ViewState } from '../../state/viewSlice.ts';
import { brushGround, stampPicture } from './brushing.ts';

type BrushView = Pick<ViewState, 'brush' | 'brushSettings' | 'terrain'>;

/** A stroke that begins at a point of the map; why it cannot, where it cannot. */
export function beginStroke(map: GameMap, view: BrushView, at: readonly [number, number]): Stroke | string {
  const id = brushGround(map, view.terrain);
  const ground = id === null ? null : groundOf(map, id);
  if (!ground) return 'This map has no ground yet: make one in the panel Ground.';
  const { asks }: BrushFacts = BRUSHES[view.brush];
  const picture = stampPicture();
  if (asks.includes('picture') && !picture) return 'Choose a picture to stamp with first.';
  const list = asks.includes('thing') ? ground.terrain.things : ground.terrain.surfaces;
  if (list.length === 0) return 'There is nothing to scatter yet: add a thing in the panel Ground.';
  // The last surface is what one most likely wants to paint: the first lies everywhere already.
  const what = list.some((one) => one.id === view.brushSettings.what) ? view.brushSettings.what : list[list.length - 1].id;
  const stroke = new Stroke(ground, view.brush, { ...view.brushSettings, what, picture });
  stroke.to(...at);
  return stroke;
}

export function strokeEdit(stroke: Stroke, label: string): { edit?: MapEdit; refusal?: string } {
  const changes = stroke.finish();
  return changes.length > 0 ? { edit: { name: `${label.toLowerCase()} ground`, changes } } : { refusal: 'The brush changed nothing here.' };
}
