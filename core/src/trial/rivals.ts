/** Those who race beside the player: vehicles that a row of the riders' table rides, each with its driver and its own way through the route. */

import type { Box3 } from '../math/box3.ts';
import { own } from '../own.ts';
import type { Item } from '../part/part.ts';
import type { Profile } from '../profile/schema.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import type { Intent } from './move.ts';
import type { TrialObjects } from './objects.ts';
import { onLine, Race } from './race.ts';
import { RaceDriver } from './raceDriver.ts';
import { ridersOf, type Rider } from './riders.ts';
import type { Vehicle, Vehicles } from './vehicles.ts';

/** How one who races stands, the first one first. */
export interface Standing {
  name: string;
  /** The player. */
  own: boolean;
  /** Seconds to the finish; null while it rides. */
  time: number | null;
  lap: number;
  passed: number;
}

/** What rivals need of the world. */
export interface RivalsWorld {
  readonly time: number;
  readonly profile: Profile;
  readonly objects: TrialObjects;
  readonly vehicles: Vehicles;
  /** The first player's race. */
  readonly race: Race | null;
  /** Where the first player is. */
  readonly feet: readonly number[];
  inSpace(item: Item, box: Box3, space: Box3): boolean;
  say(text: string): void;
}

interface Rival {
  vehicle: Vehicle;
  name: string;
  driver: RaceDriver;
  race: Race;
}

/** What names riders: objects by id with the key of a row. What the player rides from the start has none beside the player. */
function named(profile: Profile, { objects }: Pick<RuntimeMap, 'objects'>): [id: string, key: string][] {
  const by = profile.riders?.by;
  if (by === undefined) return [];
  return Object.entries(objects).flatMap(([id, { properties }]): [string, string][] => {
    const key = properties.ridden === true ? undefined : own(properties, by);
    return typeof key === 'string' && key !== '' ? [[id, key]] : [];
  });
}

/** The map with the vehicles of riders as they ride them, and who they are. */
export function withRivals(
  profile: Profile,
  map: RuntimeMap,
  data: Readonly<Record<string, string>>,
): { map: RuntimeMap; rivals: Map<string, Rider>; problems: string[] } {
  const mounts = named(profile, map);
  if (mounts.length === 0) return { map, rivals: new Map(), problems: [] };
  const { riders, problems } = ridersOf(profile, data);
  const rivals = new Map(
    mounts.flatMap(([id, key]) => {
      const rider = riders.find((one) => one.key === key);
      return rider ? [[id, rider] as const] : [];
    }),
  );
  const objects = Object.fromEntries(
    Object.entries(map.objects).map(([id, object]) => {
      const rider = rivals.get(id);
      return [id, rider ? { ...object, properties: { ...object.properties, ...rider.vehicle } } : object];
    }),
  );
  return { map: { ...map, objects }, rivals, problems };
}

export class Rivals {
  private readonly list = new Map<string, Rival>();

  constructor(
    private readonly world: RivalsWorld,
    riders: ReadonlyMap<string, Rider>,
  ) {
    const { race, vehicles, profile } = world;
    if (!race) return;
    for (const [id, { name, nerve }] of riders) {
      const vehicle = vehicles.get(id);
      if (vehicle)
        this.list.set(id, {
          vehicle,
          name,
          driver: new RaceDriver(world, race.route, profile.unit.metres, () => vehicles.get(id), nerve),
          race: new Race(race.route),
        });
    }
  }

  get any(): boolean {
    return this.list.size > 0;
  }

  /** Whether somebody rides a vehicle, so that nobody else can. */
  rides(id: string): boolean {
    return this.list.has(id);
  }

  raceOf(id: string): Race | undefined {
    return this.list.get(id)?.race;
  }

  dismiss(id: string): void {
    this.list.delete(id);
  }

  /** What the rider of a vehicle wants; null where nobody rides it, or its rider stands on the brake: until the player sets off, and after the finish. */
  wants(id: string): Intent | null {
    const rival = this.list.get(id);
    if (!rival) return null;
    return this.world.race!.begun && !rival.race.finished ? rival.driver.tick() : null;
  }

  /** Vehicles under way with the space that each takes. */
  *riding(): Iterable<{ vehicle: Vehicle; box: Box3 }> {
    for (const { vehicle } of this.list.values()) if (vehicle.down === null) yield { vehicle, box: this.world.objects.boxNow(vehicle.item) };
  }

  /** After all have moved: who came through what comes next. */
  observe(): void {
    const { world } = this;
    for (const { vehicle, name, race } of this.list.values()) {
      if (!world.race!.begun) continue;
      race.start(world.time);
      const box = world.objects.boxNow(vehicle.item);
      const passed = race.next.find((id) => {
        const stop = world.objects.get(id);
        return stop && world.inSpace(stop, box, world.objects.boxOf(stop));
      });
      if (passed === undefined || race.pass(passed, world.time) !== 'finish') continue;
      const place = this.standings().findIndex((one) => one.name === name) + 1;
      world.say(`${name} finished after ${race.state(world.time).time!.toFixed(2)} s, in place ${place}.`);
    }
  }

  /** All who race in their order: who is through first, then who is farther. */
  standings(): Standing[] {
    const { world } = this;
    const { route } = world.race!;
    const of = (name: string, mine: boolean, race: Race, at: readonly number[]) => {
      const { finished, time, lap, passed } = race.state(world.time);
      return { name, own: mine, time: finished ? time : null, lap, passed, along: onLine(route.points, [at[0], at[1], at[2]]).along };
    };
    const { metres } = world.profile.unit;
    const all = [
      of('You', true, world.race!, world.feet),
      ...[...this.list.values()].map(({ name, race, vehicle }) =>
        of(
          name,
          false,
          race,
          vehicle.state.at.map((v) => v / metres),
        ),
      ),
    ];
    return all
      .sort((a, b) => (a.time ?? Infinity) - (b.time ?? Infinity) || b.lap - a.lap || b.passed - a.passed || b.along - a.along)
      .map(({ along: _, ...standing }) => standing);
  }
}
