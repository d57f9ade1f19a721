/**
 * What an object can be made of. A game's catalogue composes its classes of parts, so no code knows a class by name;
 * and all that is peculiar to a part stands in its own file: facts that checks, builds and screens ask for, and how it
 * lives in a test run. The web draws parts in files of the same names (`web/src/part/`).
 */

import type { MapObject, MapPath, PropertyValue } from '../document/schema.ts';
import type { Effect } from '../effect/document.ts';
import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Light } from './lightSource.ts';

export type Properties = Readonly<Record<string, PropertyValue>>;

/** An object in a test run, with properties that scripts may have set to anything. */
export interface Item {
  id: string;
  object: MapObject;
  properties: Record<string, PropertyValue>;
}

/** What a part may ask of the running world, and tell it. */
export interface PartHost {
  /** Seconds per step. */
  readonly step: number;
  /** Units per second squared, downwards. */
  readonly gravity: number;
  emit(item: Item, event: string): void;
  /** Tells the other parts of the object that a player has come into its space. */
  entered(item: Item): void;
  /** Has another part of the object, or this one, do something. */
  act(item: Item, action: string): void;
  say(text: string): void;
  /** Lets the map go over into a mood by its name; false where it has none of that name. */
  mood(name: string, seconds: number): boolean;
  /** An effect of the crate by its name; null where there is none that can be read. */
  effect(name: string): Effect | null;
  /** @param at where it comes from; everywhere without it */
  play(sound: string, volume: number, subtitles: string, at?: Vec3): void;
  win(text: string): void;
  /** Takes health from the player, in points. */
  hurt(item: Item, points: number): void;
  /** Whether a goal may end the run now: a race has to have come by all that is before it. */
  mayFinish(item: Item): boolean;
  /** Makes the object the place that the player comes back to. */
  claim(item: Item): void;
  path(id: string): MapPath | undefined;
  /** The space of an object where it is at rest. */
  extent(item: Item): Box3;
  /** Whether the player is within a space, or within a form of the map where the object has one. */
  playerIn(item: Item, space: Box3): boolean;
  /** A value of the parts of another object, by its id; null where there is none. */
  liveOf(id: string, value: string): number | null;
  /** The greatest momentum of what has come against the object in this step, in newton seconds. */
  struck(item: Item): number;
  /** Has somebody talk, follow the player, stay, or play a movement sequence by its name. */
  person(item: Item, does: 'talk' | 'follow' | 'stay' | 'play', value: string | null): void;
  /** How many things that physics moves are within such a space. */
  thingsIn(item: Item, space: Box3): number;
  /**
   * Whether the object may not be where its parts have it now, because something is in its way. What rides on it, and
   * what it may push, has been moved along where it may.
   */
  blocked(item: Item): boolean;
}

/** One part of one object in a test run. */
export interface Life<S> {
  item: Item;
  state: S;
  host: PartHost;
}

/** A surface to climb: the player within `space` moves along it instead of falling. */
export interface Climb {
  space: Box3;
  /** Level unit vector from the surface towards whoever climbs. */
  outwards: Vec3;
}

/** Declared as a method, so that parts with states of their own fit into one table. */
type Action<S> = { does(life: Life<S>, value: string | null): void }['does'];

export interface Part<S extends object = object> {
  id: string;
  /** One line for the catalogue's authors. */
  says: string;
  /** Properties that it reads. */
  reads: readonly string[];

  // Facts.
  /** A player begins here. */
  start?: true;
  /** Somebody: walks, sees and talks. */
  person?: true;
  /** A player is put here, so there has to be room. */
  puts?: true;
  /** Need not stand on anything. */
  floats?: true;
  /** Where a new one is put: under the ceiling, on the floor, or a little above it. `floor` wins over the others. */
  placing?: 'ceiling' | 'floor' | 'clear';
  /** A space rather than a thing: pointing goes through it. */
  hollow?: true;
  /** Nothing rests on it. */
  carriesNothing?: true;
  /** Its box lies along the axes however the object is turned. */
  upright?: true;
  /** Its space may be a form drawn with solids. */
  takesForm?: true;
  /** Acts from a direction: where its mark stands means nothing. */
  everywhere?: true;
  /** The property that names its model, whose bounds are its box. */
  modelIn?: string;
  /** What a player has to get to: to operate it, or to be in it. */
  objective?: 'operate' | 'enter';
  /** Properties without which it does nothing, and the warning where one is empty: `lacks` goes on from the object's name. */
  needs?: Readonly<Record<string, { code: string; lacks: string; hint: string }>>;
  /** What is wrong with properties that are all there, as a warning: `set` is what mends it. */
  faults?(properties: Properties): readonly { code: string; lacks: string; hint: string; set: Properties }[];
  /** Actions of which a signal or a script has to bring one, or it does nothing; but where the property is set. */
  waitsFor?: { actions: readonly string[]; unless?: string };
  /** The line of the map's budget that it counts in. */
  budget?: 'lights';
  /** Whether its box stops players. */
  collides?(properties: Properties): boolean;
  /** Whether physics moves it: it falls, is pushed and carried. */
  movesFreely?(properties: Properties): boolean;
  /** The surface that players climb on it. */
  climb?(object: MapObject, box: Box3): Climb | null;
  /** The light of an object as it stands in the map, `centre` being the middle of its box; null where it gives none. */
  shine?(object: MapObject, centre: Vec3): Light | null;
  /** Turns the light of another part of the object into what this part makes of it. */
  aim?(light: Light, object: MapObject): Light;

  // Life in a test run.
  begin?(properties: Properties): S;
  actions?: Readonly<Record<string, Action<S>>>;
  /** Values beside the properties that scripts and expectations read. */
  live?(state: S): Record<string, number>;
  /** How far the object is from its place in the map. */
  offset?(life: Life<S>): Vec3;
  /** How it has turned about an axis through a point of the map; null where that is not known. */
  swing?(life: Life<S>): { about: Vec3; axis: Vec3; degrees: number } | null;
  /** Whether it is no longer there: not seen, not felt, not operated. */
  gone?(life: Life<S>): boolean;
  /** The space in which things float and players swim, or null. */
  liquid?(life: Life<S>): Box3 | null;
  /** Where the liquid of the object flows, in units per second. */
  flow?(life: Life<S>): Vec3;
  /** Where it carries what stands on it, in units per second. */
  carries?(life: Life<S>): Vec3;
  step?(life: Life<S>): void;
  /** After the player has moved in a step. */
  observe?(life: Life<S>): void;
  /** A player operates the object. */
  used?(life: Life<S>): void;
  /** A player has come into the object's space. */
  entered?(life: Life<S>): void;
  /** Share of the walking speed that a player keeps who is in it; 1 where it does not hinder. */
  drag?(life: Life<S>): number;
}

/** A property as a number. Scripts may set any property to anything; what is no number counts as 0. */
export function numberOf(value: PropertyValue | undefined): number {
  const number = Number(value);
  return Number.isFinite(number) ? number : 0;
}
