/** Which gestures each tool knows; the first that takes a press wins. */

import { TOOLS } from '../editing/toolList.ts';
import { band } from './gesture/band.ts';
import { putDecal } from './gesture/decal.ts';
import { corners } from './gesture/corners.ts';
import { drawSolid } from './gesture/drawSolid.ts';
import type { Gesture } from './gesture/gesture.ts';
import { grip } from './gesture/grip.ts';
import { landing } from './gesture/landing.ts';
import { cutLine, sectionLine } from './gesture/line.ts';
import { measurePoint } from './gesture/measure.ts';
import { move } from './gesture/move.ts';
import { drawNote } from './gesture/note.ts';
import { pathPoint } from './gesture/path.ts';
import { place } from './gesture/place.ts';
import { push } from './gesture/push.ts';
import { resize } from './gesture/resize.ts';
import { marquee, pickTarget } from './gesture/select.ts';
import { sculpt } from './gesture/sculpt.ts';
import { stride } from './gesture/stride.ts';
import { turn } from './gesture/turn.ts';

const GESTURES: Record<string, readonly Gesture[]> = {
  select: [pickTarget, stride, landing, corners, push, grip, turn, resize, move, marquee],
  room: [drawSolid],
  solid: [drawSolid],
  place: [place],
  section: [sectionLine],
  cut: [cutLine],
  path: [pathPoint],
  measure: [measurePoint],
  note: [drawNote],
  decal: [putDecal],
  ground: [sculpt],
};

/** Every tool leaves the handles of the band to whoever presses them. */
export function gesturesOf(tool: string, sheet: 'plan' | 'section'): readonly Gesture[] {
  const own = GESTURES[tool] ?? GESTURES.select;
  if (sheet === 'plan') return own;
  return [band, ...(TOOLS.find(({ id }) => id === tool)?.planOnly ? [] : own)];
}
