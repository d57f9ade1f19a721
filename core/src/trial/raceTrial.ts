/** A race without a screen: a driver follows the route, and what became of it is said. */

import type { Finding } from '../finding.ts';
import type { Vec3 } from '../math/vec3.ts';
import { partsOf } from '../profile/parts.ts';
import { RaceDriver } from './raceDriver.ts';
import { withRider, type Rider } from './riders.ts';
import type { TrialWatcher } from './scripts.ts';
import { TIME_STEP, TrialWorld, type TrialInputs } from './world.ts';
import type { WindSetting } from './wind.ts';

export interface RaceReport {
  /** Who rode; nobody in particular without it. */
  rider?: string;
  wind: WindSetting;
  finished: boolean;
  /** Seconds, to the finish or until it was given up. */
  seconds: number;
  laps: number[];
  splits: { name: string; at: number }[];
  crashes: { time: number; at: Vec3; why: string }[];
  /** What would have come next. */
  missed: string[];
  topSpeed: number;
  /** How all stood in the end who raced, where others did: seconds, null for who was still under way. */
  standings?: { name: string; time: number | null }[];
  /** Where it went: x, y, z and heading in turn, ten times a second, units and radians. */
  track: number[];
}

/** Seconds that a race may take, and crashes at one place after which it is given up. */
const LIMIT = 600;
const TRIES = 4;

const TRACK_EVERY = 6;

/** Whether a map can be raced: it has a route, and something to ride from the start. */
export const isRace = ({ map, profile }: Pick<TrialInputs, 'map' | 'profile'>): boolean =>
  Object.keys(map.routes ?? {}).length > 0 &&
  Object.values(map.objects).some(
    (object) => object.properties.ridden === true && partsOf(profile, object.class).some((part) => part.id === 'vehicle'),
  );

export async function runRace(
  inputs: TrialInputs,
  wind: WindSetting,
  watcher: TrialWatcher = {},
  beat: () => void = () => {},
  rider?: Rider,
): Promise<RaceReport> {
  const world = await TrialWorld.begin({ ...(rider ? withRider(inputs, rider) : inputs), wind }, watcher);
  const race = world.race!;
  const driver = RaceDriver.ofPlayer(world, rider?.nerve);
  const track: number[] = [];
  let topSpeed = 0;
  const sameCrashes = () => {
    const last = world.crashes.at(-1);
    return last ? world.crashes.filter(({ at }) => Math.hypot(at[0] - last.at[0], at[1] - last.at[1]) < 15).length : 0;
  };
  for (let n = 0; n * TIME_STEP < LIMIT && !race.finished && !world.ended && sameCrashes() < TRIES; n++) {
    world.step(driver.tick());
    beat();
    const ridden = world.vehicles.get(world.players.first.riding ?? '');
    if (!ridden) break;
    topSpeed = Math.max(topSpeed, Math.hypot(...ridden.state.velocity));
    if (n % TRACK_EVERY === 0) {
      const { metres } = inputs.profile.unit;
      track.push(...ridden.state.at.map((v) => Math.round((v / metres) * 100) / 100), Math.round(ridden.state.heading * 1000) / 1000);
    }
  }
  const state = race.state(world.time);
  const standings = world.rivals.any ? world.rivals.standings() : [];
  const nameOf = (id: string) => world.objects.get(id)?.object.name ?? id;
  const report: RaceReport = {
    ...(rider ? { rider: rider.name } : {}),
    wind,
    finished: race.finished,
    seconds: Math.round((state.time ?? world.time) * 100) / 100,
    laps: state.lapTimes,
    splits: state.splits.map(({ id, at }) => ({ name: nameOf(id), at: Math.round(at * 100) / 100 })),
    crashes: world.crashes.map(({ time, at, why }) => ({ time: Math.round(time * 100) / 100, at, why })),
    missed: state.next.map(nameOf),
    topSpeed: Math.round(topSpeed * 10) / 10,
    ...(standings.length > 0
      ? { standings: standings.map(({ name, time }) => ({ name, time: time === null ? null : Math.round(time * 100) / 100 })) }
      : {}),
    track,
  };
  world.stop();
  return report;
}

/** Winds for a spread: the same ones for the same seed. */
export const windsFor = (count: number, seed: number): WindSetting[] =>
  Array.from({ length: count }, (_, n) => ({
    seed: seed + n,
    veer: n === 0 ? 0 : (((n * 0.618) % 1) - 0.5) * 50,
    factor: n === 0 ? 1 : 0.8 + ((n * 0.381) % 1) * 0.45,
  }));

/** What is to be said of races in a map. */
export function raceFindings(mapName: string, reports: readonly RaceReport[]): Finding[] {
  const [first] = reports;
  if (!first) return [];
  const findings: Finding[] = [];
  const lost = reports.filter(({ finished }) => !finished);
  const last = (report: RaceReport) => report.crashes.at(-1);
  if (!first.finished) {
    const crash = last(first);
    findings.push({
      code: 'race-unfinished',
      severity: 'blocker',
      stage: 'trial',
      message: `The driver does not finish: after ${first.splits.at(-1)?.name ?? 'the start'} it never gets to ${first.missed.join(' or ')}${crash ? `; it ${crash.why}` : ''}.`,
      hint: 'Look at the jump, the slope or the obstacle there; see whether the ribbon leads through the checkpoint.',
      place: { map: mapName, ...(crash ? { point: crash.at } : {}) },
    });
  } else if (lost.length > 0) {
    const crash = last(lost[0]);
    findings.push({
      code: 'race-unsure',
      severity: 'warning',
      stage: 'trial',
      message: `In ${lost.length} of ${reports.length} winds the driver does not finish${crash ? `; once it ${crash.why}` : ''}.`,
      hint: 'Leave more room, or make the course safer where it crashed.',
      place: { map: mapName, ...(crash ? { point: crash.at } : {}) },
    });
  }
  const spots = new Map<string, { count: number; at: Vec3; why: string }>();
  for (const { crashes } of reports)
    for (const { at, why } of crashes) {
      const key = `${Math.round(at[0] / 20)},${Math.round(at[1] / 20)}`;
      const known = spots.get(key);
      if (known) known.count++;
      else spots.set(key, { count: 1, at, why });
    }
  for (const { count, at, why } of spots.values())
    if (count >= Math.max(2, reports.length / 4))
      findings.push({
        code: 'race-crash',
        severity: 'note',
        stage: 'trial',
        message: `The driver crashed ${count} times at one place in ${reports.length} races: it ${why}.`,
        hint: 'A hard place may be meant; else smooth it.',
        place: { map: mapName, point: at },
      });
  return findings;
}
