/** The looks of all parts that have one. Where two parts of an object differ, the one further up is shown. */

import type { PartId } from '@violet-crate/core/part/parts';
import { partsOf } from '@violet-crate/core/profile/parts';
import type { Profile } from '@violet-crate/core/profile/schema';
import { actor } from './actor.tsx';
import { bed } from './bed.tsx';
import { breakable } from './breakable.ts';
import { carrier } from './carrier.ts';
import { counter } from './counter.ts';
import { effect } from './effect.ts';
import { goal } from './goal.ts';
import { harm } from './harm.ts';
import { hinge } from './hinge.ts';
import { item } from './item.ts';
import { ladder } from './ladder.ts';
import { light } from './light.tsx';
import type { Look } from './look.ts';
import { model } from './model.ts';
import { mood } from './mood.ts';
import { mover } from './mover.ts';
import { refuge } from './refuge.ts';
import { relay } from './relay.ts';
import { spot } from './spot.ts';
import { start } from './start.ts';
import { sun } from './sun.tsx';
import { timer } from './timer.ts';
import { use } from './use.ts';
import { vehicle } from './vehicle.ts';
import { volume } from './volume.ts';
import { water } from './water.ts';
import { zone } from './zone.ts';

const LOOKS: Partial<Record<PartId, Look>> = {
  actor,
  start,
  light,
  use,
  goal,
  sun,
  vehicle,
  zone,
  spot,
  model,
  mover,
  hinge,
  carrier,
  breakable,
  item,
  water,
  ladder,
  harm,
  refuge,
  volume,
  relay,
  counter,
  timer,
  effect,
  mood,
  bed,
};
const ORDER = Object.keys(LOOKS);

/** The looks of a class, the one that counts first. */
export function looksOf(profile: Profile, classId: string): Look[] {
  const ids = partsOf(profile, classId).map((part) => part.id as PartId);
  return ids.sort((a, b) => ORDER.indexOf(a) - ORDER.indexOf(b)).flatMap((id) => LOOKS[id] ?? []);
}

/** The first value of one thing among the looks of a class. */
export function lookOf<K extends keyof Look>(profile: Profile, classId: string, what: K): Look[K] | undefined {
  return looksOf(profile, classId).find((look) => look[what] !== undefined)?.[what];
}
