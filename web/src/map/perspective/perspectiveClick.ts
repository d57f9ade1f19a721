/** What a click in the perspective means: the selection it leaves, or the property that it fills. */

import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { copyOf } from '@violet-crate/core/map/prefab';
import { emptySelection, type Choice, type ViewState } from '../../state/viewSlice.ts';
import type { Hit } from './perspectivePick.ts';

/** Counts clicks at one place: each takes what lies behind the last. */
export class HitCycle {
  private key = '';
  private index = 0;

  next(hits: readonly Hit[], fromFront: boolean): Hit {
    const key = hits.map((hit) => `${hit.solid ?? hit.object ?? hit.decal ?? hit.overlay}/${hit.face ?? ''}`).join();
    this.index = this.key === key && !fromFront ? (this.index + 1) % hits.length : 0;
    this.key = key;
    return hits[this.index];
  }
}

const joined = (ids: readonly string[], id: string): string[] => [...new Set([...ids, id])];

/**
 * The selection after a click on a hit.
 *
 * @param add what is selected stays, as with Shift
 */
export function chosenByClick(map: GameMap, { selection }: Pick<ViewState, 'selection'>, hit: Hit, add: boolean): Choice {
  for (const [kind, id] of [
    ['decals', hit.decal],
    ['overlays', hit.overlay],
  ] as const)
    if (id) return add ? { ...selection, [kind]: joined(selection[kind], id) } : { kind, ids: [id] };
  const copy = copyOf(map, hit.solid ?? hit.object!);
  if (copy) return add ? { ...selection, copies: joined(selection.copies, copy) } : { kind: 'copies', ids: [copy] };
  if (hit.object) return add ? { ...selection, objects: joined(selection.objects, hit.object) } : { kind: 'objects', ids: [hit.object] };
  const face = { solid: hit.solid!, face: hit.face! };
  const faces = add ? [...selection.faces.filter((f) => f.solid !== face.solid || f.face !== face.face), face] : [face];
  return { ...emptySelection, solids: [...new Set(faces.map((f) => f.solid))], faces };
}

/** Sets the property that waits for an object to the nearest one that fits; null where none was hit. */
export function pickedProperty(map: GameMap, { selection, picking }: Pick<ViewState, 'selection' | 'picking'>, hits: readonly Hit[]): MapEdit | null {
  const [id] = selection.objects;
  if (!picking || !map.objects[id]) return null;
  const fits = ({ object }: Hit) => object && map.objects[object] && (!picking.of || picking.of.includes(map.objects[object].class));
  const target = hits.find(fits)?.object;
  if (!target) return null;
  const properties = { ...map.objects[id].properties, [picking.property]: target };
  return { name: `set ${picking.property}`, changes: [{ of: 'objects', id, to: { ...map.objects[id], properties } }] };
}
