/** All parts, in the order in which they take their turn within a step. A new part is its own file and a line here. */

import { actor } from './actor.ts';
import { bed } from './bed.ts';
import { breakable } from './breakable.ts';
import { carrier } from './carrier.ts';
import { counter } from './counter.ts';
import { current } from './current.ts';
import { effect } from './effect.ts';
import { follow } from './follow.ts';
import { goal } from './goal.ts';
import { harm } from './harm.ts';
import { hinge } from './hinge.ts';
import { item } from './item.ts';
import { ladder } from './ladder.ts';
import { light } from './light.ts';
import { model } from './model.ts';
import { mood } from './mood.ts';
import { mover } from './mover.ts';
import type { Part } from './part.ts';
import { refuge } from './refuge.ts';
import { relay } from './relay.ts';
import { sound } from './sound.ts';
import { spot } from './spot.ts';
import { start } from './start.ts';
import { sun } from './sun.ts';
import { text } from './text.ts';
import { timer } from './timer.ts';
import { use } from './use.ts';
import { vehicle } from './vehicle.ts';
import { volume } from './volume.ts';
import { water } from './water.ts';
import { zone } from './zone.ts';

export const PARTS = {
  start,
  light,
  spot,
  sun,
  use,
  relay,
  counter,
  timer,
  mover,
  hinge,
  follow,
  carrier,
  water,
  current,
  vehicle,
  ladder,
  volume,
  zone,
  harm,
  refuge,
  item,
  breakable,
  model,
  sound,
  effect,
  bed,
  mood,
  text,
  goal,
  actor,
};

export type PartId = keyof typeof PARTS;
export const PART_IDS = Object.keys(PARTS) as PartId[];

export const partById = (id: PartId): Part => PARTS[id];
