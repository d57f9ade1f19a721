import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import { decodeNavigation } from '@violet-crate/core/stages/pack/navBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { readWalk, walkFindings, walkPath, walksAmong } from '@violet-crate/core/trial/walkFiles';
import type { WalkReport } from '@violet-crate/core/trial/record';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import {
  Coverage,
  coverageCell,
  coverageFindings,
  coverageSummary,
  floorFindings,
  floorWalked,
  type CoverageSummary,
} from '@violet-crate/core/trial/coverage';
import { talkFindings } from '@violet-crate/core/trial/talkCoverage';
import { ridersOf } from '@violet-crate/core/trial/riders';
import { isRace, raceFindings, windsFor, type RaceReport } from '@violet-crate/core/trial/raceTrial';
import type { Exploration } from '@violet-crate/core/trial/explore';
import { exploreApart, playWalksApart, raceApart, runTrialApart } from '@violet-crate/host/trialApart';
import { findingLines, UsageError, type Command } from '../command.ts';
import { needMaps, openCrate, PROGRAMS_OPTION, type OpenCrate } from '../folder.ts';
import { buildAll } from './build.ts';

export const trialCommand: Command = {
  summary: 'Run the built main map without a screen: walk its trial steps and its recorded walks, run its scripts.',
  usage: 'crate trial DIR [--walk NAME] [--coverage] [--explore SECONDS] [--races N] [--riders] [--seed N]',
  options: {
    game: { value: 'DIR', summary: 'the game’s install' },
    ...PROGRAMS_OPTION,
    walk: { value: 'NAME', summary: 'play this recorded walk only' },
    coverage: { summary: 'say what never happened in any walk' },
    explore: { value: 'SECONDS', summary: 'let the explorer try everything for so long, and say what it found' },
    riders: { summary: 'everybody of the crate who races rides once, in the wind as the weather has it' },
    races: { value: 'N', summary: 'winds in which the driver rides a race, 20 without it; 0 leaves races out' },
    seed: { value: 'N', summary: 'chance of the explorer and of the winds; 1 without it' },
  },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const open = openCrate(dir, options.game);
    needMaps(open.world, true);
    const name = open.world.crate.manifest.mainMap;
    const walks = wantedWalks(open, name, options.walk);
    const seconds = options.explore === undefined ? 0 : positive(options.explore, 'explore', MOST_SECONDS);
    const seed = options.seed === undefined ? 1 : positive(options.seed, 'seed', 2 ** 31);
    const built = (await buildAll(open, { quality: 'draft', programs: options.programs }, progress)).get(name);
    if (!built?.artefacts)
      return {
        code: 1,
        result: { built: false, findings: built?.findings ?? [] },
        text: `The map does not build.\n${findingLines(built?.findings ?? [])}`,
      };
    const file = (of: string): Uint8Array => built.artefacts!.get(`maps/${name}/${of}`)!;
    const inputs = {
      profile: open.world.profile,
      map: JSON.parse(new TextDecoder().decode(file('map.json'))) as RuntimeMap,
      collision: decodeCollision(file('collision.bin')),
      scripts: open.world.crate.scripts,
      data: open.world.crate.data,
    };
    const races = options.races === undefined ? RACES : options.races === '0' ? 0 : positive(options.races, 'races', MOST_RACES);
    const raced = races > 0 && options.walk === undefined && isRace(inputs) ? await raceApart(inputs, windsFor(Math.round(races), seed)) : null;
    const listed = options.riders === undefined ? null : ridersOf(inputs.profile, inputs.data);
    if (listed?.riders.length === 0)
      throw new UnreadableInput('riders-none', 'Nobody races in this crate.', {}, 'Add rows to the table of the game’s riders.');
    const rode = listed && isRace(inputs) ? await raceApart(inputs, windsFor(1, seed), undefined, listed.riders) : null;
    const standings =
      rode && 'reports' in rode ? [...rode.reports].sort((a, b) => Number(b.finished) - Number(a.finished) || a.seconds - b.seconds) : [];
    const ridden = raced && 'reports' in raced ? raced.reports : [];
    const coverage = options.coverage !== undefined;
    const report = options.walk === undefined ? await runTrialApart(inputs) : null;
    const played = Object.keys(walks).length > 0 ? await playWalksApart(inputs, walks, { coverage }) : { reports: [] };
    const explored = seconds > 0 ? await exploreApart(inputs, seconds, seed) : null;
    const exploration = explored && 'exploration' in explored ? explored.exploration : null;
    const came = new Coverage(coverageCell(inputs.profile));
    if ('coverage' in played && played.coverage) came.add(played.coverage);
    if (exploration) came.add(exploration.coverage);
    const { map, profile, scripts } = inputs;
    const nav = built.artefacts.get(`maps/${name}/nav.bin`);
    const ground = nav ? decodeNavigation(nav) : null;
    const summary = coverage
      ? { ...coverageSummary(profile, map, scripts, came.data()), ...(ground ? { floor: floorWalked(ground, came.data()) } : {}) }
      : null;
    const reports = 'reports' in played ? played.reports : [];
    const findings = [
      ...built.findings,
      ...(report?.findings ?? []),
      ...reports.flatMap((walk) => walkFindings(name, walk)),
      ...raceFindings(name, ridden),
      ...(raced && 'stopped' in raced ? [raced.stopped] : []),
      ...('stopped' in played ? [played.stopped] : []),
      ...(exploration?.findings ?? []),
      ...(explored && 'stopped' in explored ? [explored.stopped] : []),
      ...(coverage ? [...coverageFindings(profile, name, map, scripts, came.data()), ...talkFindings(inputs.data, came.data())] : []),
      ...(coverage && ground ? floorFindings(name, ground, came.data()) : []),
    ];
    const ok =
      (ridden[0]?.finished ?? !raced) &&
      (report?.ok ?? true) &&
      'reports' in played &&
      reports.every((walk) => walk.ok) &&
      !(explored && 'stopped' in explored);
    const lines = (report?.console ?? []).map((line) => `${line.time.toFixed(1).padStart(6)} s  ${line.kind.padEnd(6)} ${line.text}`);
    if (report)
      lines.push(`Ended: ${report.ended} after ${report.seconds} s, ${report.steps.filter((s) => s.ok).length} of ${report.steps.length} steps.`);
    return {
      code: ok ? 0 : 1,
      result: {
        built: true,
        ...(report ?? { ok }),
        ok,
        walks: reports,
        ...(ridden.length > 0 ? { races: ridden.map(({ track: _track, ...race }) => race) } : {}),
        ...(standings.length > 0 ? { standings: standings.map(({ track: _track, ...race }) => race) } : {}),
        ...(exploration ? { exploration: { ...exploration, coverage: undefined, findings: undefined } } : {}),
        ...(summary ? { coverage: summary } : {}),
        findings,
      },
      text: [
        ...lines,
        ...reports.map(walkLine),
        ...raceLines(ridden),
        ...standings.map(
          ({ rider, finished, seconds, crashes, topSpeed }, n) =>
            `${String(n + 1).padStart(3)}. ${(rider ?? '').padEnd(20)} ${finished ? `${seconds.toFixed(2)} s` : 'did not finish'}, ${crashes.length} crashes, ${topSpeed} m/s at most`,
        ),
        ...(listed?.problems ?? []),
        ...(exploration ? explorationLines(exploration) : []),
        ...(summary ? [coverageLine(summary)] : []),
        findingLines(findings),
      ].join('\n'),
    };
  },
};

/** The walks of a map that are to be played. @throws UnreadableInput where one is damaged, or the one that was asked for is not there */
function wantedWalks({ tree }: OpenCrate, map: string, wanted: string | undefined) {
  const names = walksAmong(tree.keys(), map);
  if (wanted !== undefined && !names.includes(wanted))
    throw new UnreadableInput(
      'walk-unknown',
      `The map ${map} has no walk "${wanted}". ${names.length > 0 ? `Walks: ${names.join(', ')}.` : 'It has none yet.'}`,
      { file: `walks/${map}` },
      'Record one in the test run and save it under a name.',
    );
  return Object.fromEntries(
    names
      .filter((name) => wanted === undefined || name === wanted)
      .map((name) => {
        const path = walkPath(map, name);
        return [name, readWalk(new TextDecoder().decode(tree.get(path)), path, map)];
      }),
  );
}

const walkLine = ({ name, ok, exact, seconds, ended, difference }: WalkReport): string =>
  ok
    ? `Walk ${name}: works, ${seconds} s, ${ended ?? 'to its end'}${exact ? ', the same to the bit' : ', with small differences'}.`
    : `Walk ${name}: at ${difference?.second} s, ${difference?.at.map(Math.round).join(', ')}: ${difference?.message}.`;

/** Winds in which a race is ridden, and at most. */
const RACES = 20;
const MOST_RACES = 200;

/** The first race stop by stop, and the spread of all. */
function raceLines(races: readonly RaceReport[]): string[] {
  const [first] = races;
  if (!first) return [];
  const done = races.filter(({ finished }) => finished).map(({ seconds }) => seconds);
  const mean = done.reduce((a, b) => a + b, 0) / Math.max(1, done.length);
  return [
    ...first.splits.map(({ name, at }) => `  ${at.toFixed(2).padStart(8)} s  ${name}`),
    ...first.crashes.map(({ time, at, why }) => `  crash at ${time.toFixed(1)} s, ${at.map(Math.round).join(', ')}: ${why}`),
    ...(first.standings ?? []).map(({ name, time }, n) => `  ${n + 1}. ${name} ${time === null ? 'under way' : `${time.toFixed(2)} s`}`),
    first.finished
      ? `Race: finished in ${first.seconds.toFixed(2)} s, ${first.crashes.length} crashes, ${first.topSpeed} m/s at most.`
      : `Race: not finished; ${first.missed.join(' or ')} was never reached.`,
    `In ${races.length} winds: ${done.length} finished${done.length > 0 ? `, ${Math.min(...done).toFixed(1)} to ${Math.max(...done).toFixed(1)} s, ${mean.toFixed(1)} s on average` : ''}, ${races.reduce((sum, { crashes }) => sum + crashes.length, 0)} crashes.`,
  ];
}

/** Seconds that the explorer may be given. */
const MOST_SECONDS = 3600;

function positive(text: string, option: string, most: number): number {
  const value = Number(text);
  if (Number.isFinite(value) && value > 0 && value <= most) return value;
  throw new UsageError(`--${option} has to be a number above 0 and at most ${most}, not "${text}".`);
}

function explorationLines({ runs, states, simulated, complete, won }: Exploration): string[] {
  return [
    `Explorer: ${states} states in ${runs} runs, ${simulated} s of the game${complete ? '; everything was tried' : ''}.`,
    won ? `Explorer won: ${won.order.join(', ')}.` : 'Explorer did not win.',
  ];
}

const coverageLine = ({ floor, ...summary }: CoverageSummary & { floor?: [number, number] }): string =>
  `Coverage: ${(['objects', 'volumes', 'signals', 'functions', 'lines'] as const).map((of) => `${summary[of][0]} of ${summary[of][1]} ${of}`).join(', ')}${floor ? `, ${Math.round((100 * floor[0]) / Math.max(1, floor[1]))} % of the floor` : ''}.`;
