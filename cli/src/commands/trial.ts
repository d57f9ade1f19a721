import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { readWalk, walkFindings, walkPath, walksAmong } from '@violet-crate/core/trial/walkFiles';
import type { WalkReport } from '@violet-crate/core/trial/record';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { playWalksApart, runTrialApart } from '@violet-crate/host/trialApart';
import { findingLines, type Command } from '../command.ts';
import { needMaps, openCrate, type OpenCrate } from '../folder.ts';
import { buildAll } from './build.ts';

export const trialCommand: Command = {
  summary: 'Run the built main map without a screen: walk its trial steps and its recorded walks, run its scripts.',
  usage: 'crate trial DIR [--walk NAME]',
  options: {
    game: { value: 'DIR', summary: 'the game’s install' },
    walk: { value: 'NAME', summary: 'play this recorded walk only' },
  },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const open = openCrate(dir, options.game);
    needMaps(open.world, true);
    const name = open.world.crate.manifest.mainMap;
    const walks = wantedWalks(open, name, options.walk);
    const built = (await buildAll(open, { quality: 'draft' }, progress)).get(name);
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
    };
    const report = options.walk === undefined ? await runTrialApart(inputs) : null;
    const played = Object.keys(walks).length > 0 ? await playWalksApart(inputs, walks) : { reports: [] };
    const reports = 'reports' in played ? played.reports : [];
    const findings = [
      ...built.findings,
      ...(report?.findings ?? []),
      ...reports.flatMap((walk) => walkFindings(name, walk)),
      ...('stopped' in played ? [played.stopped] : []),
    ];
    const ok = (report?.ok ?? true) && 'reports' in played && reports.every((walk) => walk.ok);
    const lines = (report?.console ?? []).map((line) => `${line.time.toFixed(1).padStart(6)} s  ${line.kind.padEnd(6)} ${line.text}`);
    if (report)
      lines.push(`Ended: ${report.ended} after ${report.seconds} s, ${report.steps.filter((s) => s.ok).length} of ${report.steps.length} steps.`);
    return {
      code: ok ? 0 : 1,
      result: { built: true, ...(report ?? { ok }), ok, walks: reports, findings },
      text: [...lines, ...reports.map(walkLine), findingLines(findings)].join('\n'),
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
