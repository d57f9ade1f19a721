import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { runTrialApart } from '@violet-crate/host/trialApart';
import { findingLines, type Command } from '../command.ts';
import { needMaps, openCrate } from '../folder.ts';
import { buildAll } from './build.ts';

export const trialCommand: Command = {
  summary: 'Run the built main map without a screen: walk its trial steps, run its scripts.',
  usage: 'crate trial DIR',
  options: { game: { value: 'DIR', summary: 'the game’s install' } },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const open = openCrate(dir, options.game);
    needMaps(open.world, true);
    const name = open.world.crate.manifest.mainMap;
    const built = (await buildAll(open, { quality: 'draft' }, progress)).get(name);
    if (!built?.artefacts)
      return {
        code: 1,
        result: { built: false, findings: built?.findings ?? [] },
        text: `The map does not build.\n${findingLines(built?.findings ?? [])}`,
      };
    const file = (of: string): Uint8Array => built.artefacts!.get(`maps/${name}/${of}`)!;
    const report = await runTrialApart({
      profile: open.world.profile,
      map: JSON.parse(new TextDecoder().decode(file('map.json'))) as RuntimeMap,
      collision: decodeCollision(file('collision.bin')),
      scripts: open.world.crate.scripts,
    });
    const findings = [...built.findings, ...report.findings];
    const lines = report.console.map((line) => `${line.time.toFixed(1).padStart(6)} s  ${line.kind.padEnd(6)} ${line.text}`);
    return {
      code: report.ok ? 0 : 1,
      result: { built: true, ...report, findings },
      text: `${lines.join('\n')}\nEnded: ${report.ended} after ${report.seconds} s, ${report.steps.filter((s) => s.ok).length} of ${report.steps.length} steps.\n${findingLines(findings)}`,
    };
  },
};
