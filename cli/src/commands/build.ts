import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { freshnessOf, type BuildInputs } from '@violet-crate/core/stages/freshness';
import { parameterProblem, PARAMETERS, type BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import { buildMap, type BuildResult } from '@violet-crate/core/stages/pipeline';
import { BUILD_STAGES, QUALITIES, type BuildStage, type Quality } from '@violet-crate/core/stages/contract/stage';
import { sha256Hex } from '@violet-crate/core/hash';
import { writeWhole } from '@violet-crate/host/files';
import { draughtsman } from '@violet-crate/host/draughtsman';
import { lightCrew } from '@violet-crate/host/lightCrew';
import { programRunner } from '@violet-crate/host/setup/runProgram';
import { findingLines, UsageError, type Command, type Options } from '../command.ts';
import { folderCache, needMaps, needMayRun, openCrate, PROGRAMS_OPTION, type OpenCrate } from '../folder.ts';
import { writeInside } from '@violet-crate/host/inside';
import { readText } from '../readInput.ts';

export interface BuildOrder {
  quality: Quality;
  parameters?: Partial<BuildParameters>;
  only?: BuildStage;
  anyway?: boolean;
  threads?: number;
  /** "allow": programs of a profile that did not ship were read and may run. */
  programs?: string;
}

export function qualityOf(value: string | undefined): Quality {
  const quality = (value ?? 'preview') as Quality;
  if (!QUALITIES.includes(quality)) throw new UsageError(`--quality has to be one of ${QUALITIES.join(', ')}.`);
  return quality;
}

/** `sunRays` is `--sun-rays`. */
const flagOf = (id: string): string => id.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);

function orderOf(options: Options): BuildOrder {
  const parameters: Record<string, string | number> = {};
  for (const parameter of PARAMETERS) {
    const value = options[flagOf(parameter.id)];
    if (value === undefined) continue;
    const problem = parameterProblem(parameter, value);
    if (problem) throw new UsageError(`--${flagOf(parameter.id)} ${problem}.`);
    parameters[parameter.id] = parameter.choices ? value : Number(value);
  }
  const only = options.only as BuildStage | undefined;
  if (only && !BUILD_STAGES.includes(only)) throw new UsageError(`--only has to be one of ${BUILD_STAGES.join(', ')}.`);
  const threads = options.threads === undefined ? availableParallelism() : Number(options.threads);
  if (!Number.isInteger(threads) || threads < 1 || threads > 256) throw new UsageError('--threads has to be a whole number from 1 to 256.');
  if (options.anyway !== undefined && options.anyway !== 'yes' && options.anyway !== 'no') throw new UsageError('--anyway has to be yes or no.');
  return {
    quality: qualityOf(options.quality),
    parameters: parameters as Partial<BuildParameters>,
    only,
    anyway: options.anyway === 'yes',
    threads,
    programs: options.programs,
  };
}

/** Builds every map of a crate, with the stage cache of its folder. */
export async function buildAll(open: OpenCrate, order: BuildOrder, progress: (text: string) => void): Promise<Map<string, BuildResult>> {
  const { profile } = open.world;
  if (profile.programs?.some(({ at }) => at === 'build')) needMayRun(profile, open.game, order);
  const results = new Map<string, BuildResult>();
  for (const name of Object.keys(open.world.crate.maps)) {
    results.set(
      name,
      await buildMap(open.world, name, {
        ...order,
        cache: folderCache(open.folder),
        crew: lightCrew(order.threads),
        draughtsman,
        readFile: open.readFile,
        runProgram: programRunner(open.game, open.gameVersion, (line) => progress(`${name} ${line}`)),
        memory: () => process.memoryUsage.rss(),
        onStage: (report) => progress(`${name} ${report.stage}: ${report.state}, ${report.milliseconds} ms. ${report.summary}`),
      }),
    );
  }
  return results;
}

/** What the last build of a map in this folder was made from. */
const inputsFile = (dir: string, map: string): string => join(dir, 'build', 'inputs', `${map}.json`);

/** Null where the file is damaged: then nothing can be told of what has changed, and all else is as it would be. */
function readInputs(file: string): BuildInputs | null {
  try {
    const inputs = JSON.parse(readText(file)) as Partial<BuildInputs> | null;
    return typeof inputs?.parts === 'object' && typeof inputs.revisions === 'object' ? (inputs as BuildInputs) : null;
  } catch {
    return null;
  }
}

export const buildCommand: Command = {
  summary: 'Build all maps of a crate into DIR/build.',
  usage: 'crate build DIR [--quality draft|preview|final] [--only STAGE]',
  options: {
    quality: { value: 'Q', summary: 'draft, preview or final (preview)' },
    only: { value: 'STAGE', summary: `one stage and what it needs: ${BUILD_STAGES.join(', ')}` },
    threads: { value: 'N', summary: 'threads for lighting (one per core)' },
    anyway: { value: 'yes', summary: 'go on in spite of blockers, as far as the stages can' },
    game: { value: 'DIR', summary: 'the game’s install' },
    ...PROGRAMS_OPTION,
    ...Object.fromEntries(
      PARAMETERS.map((p) => [
        flagOf(p.id),
        { value: p.choices ? p.choices.join('|') : `${p.min}–${p.max}`, summary: `${p.label.toLowerCase()}: ${p.explains}` },
      ]),
    ),
  },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const order = orderOf(options);
    const open = openCrate(dir, options.game);
    needMaps(open.world);
    const before = new Map(
      Object.keys(open.world.crate.maps).map((map) => {
        const file = inputsFile(dir, map);
        return [map, existsSync(file) ? readInputs(file) : null];
      }),
    );
    const results = await buildAll(open, order, progress);
    const maps = [...results].map(([name, result]) => {
      if (result.artefacts)
        writeInside(
          dir,
          [...result.artefacts].map(([path, bytes]) => [`build/${path}`, bytes] as const),
        );
      writeWhole(inputsFile(dir, name), new TextEncoder().encode(JSON.stringify(result.plan)));
      const last = before.get(name);
      const changed = last ? freshnessOf(last, result.plan) : [];
      return {
        map: name,
        ok: result.ok,
        parameters: result.parameters,
        stages: result.stages.map((stage) => ({ ...stage, changes: changed.find((c) => c.stage === stage.stage)?.reasons ?? [] })),
        findings: result.findings,
        files: [...(result.artefacts ?? [])].map(([path, bytes]) => ({ path: `build/${path}`, bytes: bytes.length, sha256: sha256Hex(bytes) })),
      };
    });
    const ok = maps.every((m) => m.ok);
    return {
      code: ok ? 0 : 1,
      result: { quality: order.quality, maps },
      text: maps.map((m) => `${m.map}: ${m.ok ? 'built' : 'stopped'}\n${findingLines(m.findings)}`).join('\n'),
    };
  },
};
