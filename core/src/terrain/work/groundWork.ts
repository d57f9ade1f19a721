/** Long work on a ground, as one value: the page's worker, the command line and tests do the same. */

import { applyEdit, type Change } from '../../document/edit.ts';
import type { GameMap } from '../../document/schema.ts';
import { UnreadableInput } from '../../unreadable.ts';
import { heightsInUnits, readHeights, type RawSettings } from '../file/heights.ts';
import { coverByMask, readMask } from '../file/masks.ts';
import { groundOf, type Ground } from '../ground.ts';
import { replaceHeights, weatherGround, type Moved, type Weathering } from '../reshape.ts';
import { rebuild } from '../rule/rebuild.ts';

export type GroundWork =
  | { kind: 'rebuild' }
  | { kind: 'weather'; how: Weathering }
  | {
      kind: 'heights';
      file: string;
      bytes: Uint8Array;
      /** Heights of the lowest and the highest number, where the file has shares. */
      range: [number, number] | null;
      /** Distance of samples, units; as it was without it. */
      spacing?: number;
      raw: RawSettings;
    }
  /** A surface covers what is white in a picture. */
  | { kind: 'mask'; surface: string; file: string; bytes: Uint8Array };

export interface GroundDone {
  name: string;
  changes: Change[];
  moved?: Moved;
}

/**
 * @param onProgress told what is done, 0..1; may throw to stop
 * @throws UnreadableInput where a file of heights cannot be taken
 */
export function workOnGround(map: GameMap, id: string, work: GroundWork, onProgress: (done: number) => void = () => {}): GroundDone {
  const ground = groundOf(map, id);
  if (!ground) throw new UnreadableInput('terrain-missing', `The map has no ground ${id}.`, {}, 'Choose another.');
  if (work.kind === 'rebuild') return { name: 'rebuild by rules', changes: rebuilt(map, ground, onProgress) };
  if (work.kind === 'weather') return { name: 'weather ground', ...weatherGround(ground, work.how, onProgress) };
  if (work.kind === 'mask')
    return { name: `cover by ${work.file}`.slice(0, 120), changes: coverByMask(ground, work.surface, readMask(work.bytes, work.file, ground)) };
  return { name: `heights of ${work.file}`.slice(0, 120), changes: withHeightsOf(map, ground, work) };
}

function rebuilt(map: GameMap, ground: Ground, onProgress: (done: number) => void): Change[] {
  const again = (changes: readonly Change[]) => groundOf(applyEdit(map, { name: 'rules', changes: [...changes] }), ground.id)!;
  return rebuild(ground, Object.values(map.paths), again, onProgress);
}

/** The terrain takes the file's number of samples, and remembers how far they are apart; tiles beyond them go. Its range grows to hold what comes in. */
function withHeightsOf(map: GameMap, ground: Ground, { file, bytes, range, spacing, raw }: Extract<GroundWork, { kind: 'heights' }>): Change[] {
  const read = readHeights(bytes, file, raw);
  const heights = heightsInUnits(read, range, file);
  let [low, high] = [Infinity, -Infinity];
  for (const height of heights) {
    low = Math.min(low, height);
    high = Math.max(high, height);
  }
  const { terrain, id } = ground;
  const next = {
    ...terrain,
    samples: [read.width, read.height] as [number, number],
    spacing: spacing ?? terrain.spacing,
    range: [Math.min(terrain.range[0], Math.floor(low)), Math.max(terrain.range[1], Math.ceil(high))] as [number, number],
  };
  const gone = Object.entries(map.tiles).flatMap(([tile, { terrain: of }]): Change[] => (of === id ? [{ of: 'tiles', id: tile, to: null }] : []));
  const cleared = applyEdit(map, { name: 'heights', changes: [...gone, { of: 'terrains', id, to: next }] });
  const made = replaceHeights(groundOf(cleared, id)!, heights);
  const ids = new Set(made.map((change) => (change as { id: string }).id));
  return [{ of: 'terrains', id, to: next }, ...gone.filter((change) => !ids.has((change as { id: string }).id)), ...made];
}
