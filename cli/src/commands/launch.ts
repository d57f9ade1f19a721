import { join } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { Finding } from '@violet-crate/core/finding';
import { localRelease } from '@violet-crate/core/release/pack';
import { placeRequired } from '@violet-crate/host/requiredCrates';
import { GameRun, localName, placeLocal } from '@violet-crate/host/launchGame';
import { inInstall, placesOf } from '@violet-crate/host/setup/places';
import { findingLines, UsageError, type Command } from '../command.ts';
import { runProgram } from '@violet-crate/host/setup/runProgram';
import { stepStates } from '@violet-crate/host/setup/preparation';
import { defaultGame, gamesFolder, needMaps, needMayRun, openCrate, PROGRAMS_OPTION, requiredRoot } from '../folder.ts';
import { buildAll, qualityOf } from './build.ts';

export const launchCommand: Command = {
  summary: 'Build a crate, put a local copy into the game’s mods, and start the game with it.',
  usage: 'crate launch DIR [--game DIR] [--map NAME] [--quality Q] [--quit-after SECONDS]',
  options: {
    game: { value: 'DIR', summary: 'the game’s install' },
    ...PROGRAMS_OPTION,
    map: { value: 'NAME', summary: 'the map to begin with; the main one without it' },
    quality: { value: 'Q', summary: 'draft, preview or final (draft)' },
    'quit-after': { value: 'SECONDS', summary: 'end the game after so long; without it, it runs until it ends' },
  },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const after = options['quit-after'] === undefined ? null : Number(options['quit-after']);
    if (after !== null && !(after > 0 && after <= 86_400))
      throw new UsageError(`--quit-after has to be a number of seconds above 0, not "${options['quit-after']}".`);
    const open = openCrate(dir, options.game);
    needMaps(open.world, true);
    const { world, readFile } = open;
    const map = options.map ?? world.crate.manifest.mainMap;
    if (!Object.hasOwn(world.crate.maps, map))
      throw new UnreadableInput('map-unknown', `The crate has no map "${map}". Maps: ${Object.keys(world.crate.maps).join(', ')}.`);
    needMayRun(world.profile, open.game, options);
    // What the application looks at too; steps that somebody ticks there are nobody's here, and are not asked for.
    const steps = stepStates({ profile: world.profile, folder: open.game }, placesOf(gamesFolder()), new Set());
    const undone = steps.filter(
      ({ step, done }) => !done && step.concerns.includes('trial') && (step.done.when === 'file' || step.done.when === 'setting'),
    );
    if (undone.length > 0)
      throw new UnreadableInput(
        'not-prepared',
        `${world.profile.title} is not prepared: ${undone.map(({ step }) => `${step.title}. ${step.how}`).join(' ')}`,
      );
    const results = await buildAll(open, { quality: qualityOf(options.quality ?? 'draft'), programs: options.programs }, progress);
    const artefacts = new Map<string, Uint8Array>();
    const findings: Finding[] = [...results.values()].flatMap((result) => result.findings);
    for (const result of results.values()) {
      if (!result.artefacts) return { code: 1, result: { built: false, findings }, text: `A map does not build.\n${findingLines(findings)}` };
      for (const [path, bytes] of result.artefacts) artefacts.set(path, bytes);
    }
    const game = options.game ?? defaultGame(world.profile.id);
    placeLocal(world.profile, game, await localRelease({ world, artefacts, readFile }));
    placeRequired(requiredRoot(), world.required!.lock, inInstall(game, world.profile.install.mods));
    for (const program of world.profile.programs ?? []) {
      if (program.at !== 'launch') continue;
      progress(`${program.title} …`);
      const mod = localName(world.crate.manifest.name);
      const values = { game, in: join(inInstall(game, world.profile.install.mods), mod), map, name: mod, version: open.gameVersion };
      findings.push(...(await runProgram({ program, values, stage: 'trial', onLine: progress })).findings);
    }
    const log: string[] = [];
    const ended = await new Promise<number | null>((resolve) => {
      const run = new GameRun(
        { profile: world.profile, game, mod: localName(world.crate.manifest.name), map },
        {
          line: (text, finding) => {
            log.push(text);
            progress(text);
            if (finding) findings.push(finding);
          },
          ended: ({ code, finding }) => {
            if (finding) findings.push(finding);
            resolve(code);
          },
        },
      );
      if (after !== null) setTimeout(() => void run.quit(), after * 1000).unref();
      process.once('SIGINT', () => void run.quit());
    });
    const blocked = findings.some(({ severity }) => severity === 'blocker');
    return {
      code: blocked ? 1 : 0,
      result: { built: true, exit: ended, log, findings },
      text: `${world.profile.title} ended${ended === null ? '' : ` with code ${ended}`}, after ${log.length} lines.\n${findingLines(findings)}`,
    };
  },
};
