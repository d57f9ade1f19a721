import { join } from 'node:path';
import { buildMap, type BuildResult } from '@violet-crate/core/build/pipeline';
import { QUALITIES, type Quality } from '@violet-crate/core/build/stage';
import { findingLines, UsageError, type Command } from '../command.ts';
import { writeTree } from '@violet-crate/host/files';
import { folderCache, openCrate, type OpenCrate } from '../folder.ts';

export function qualityOf(value: string | undefined): Quality {
  const quality = (value ?? 'preview') as Quality;
  if (!QUALITIES.includes(quality)) throw new UsageError(`--quality has to be one of ${QUALITIES.join(', ')}.`);
  return quality;
}

/** Builds every map of a crate, with the stage cache of its folder. */
export async function buildAll(open: OpenCrate, quality: Quality, progress: (text: string) => void): Promise<Map<string, BuildResult>> {
  const results = new Map<string, BuildResult>();
  for (const name of Object.keys(open.world.crate.maps)) {
    results.set(
      name,
      await buildMap(open.world, name, {
        quality,
        cache: folderCache(open.folder),
        onStage: (report) => progress(`${name} ${report.stage}: ${report.state}, ${report.milliseconds} ms. ${report.summary}`),
      }),
    );
  }
  return results;
}

export const buildCommand: Command = {
  summary: 'Build all maps of a crate into DIR/build.',
  usage: 'crate build DIR [--quality draft|preview|final]',
  options: { quality: { value: 'Q', summary: 'draft, preview or final (preview)' }, game: { value: 'DIR', summary: 'the game’s install' } },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const quality = qualityOf(options.quality);
    const open = openCrate(dir, options.game);
    const results = await buildAll(open, quality, progress);
    const maps = [...results].map(([name, result]) => {
      if (result.artefacts) writeTree(join(dir, 'build'), result.artefacts);
      return {
        map: name,
        ok: result.ok,
        stages: result.stages,
        findings: result.findings,
        files: result.artefacts ? [...result.artefacts].map(([path, bytes]) => ({ path: `build/${path}`, bytes: bytes.length })) : [],
      };
    });
    const ok = maps.every((m) => m.ok);
    return {
      code: ok ? 0 : 1,
      result: { quality, maps },
      text: maps.map((m) => `${m.map}: ${m.ok ? 'built' : 'stopped'}\n${findingLines(m.findings)}`).join('\n'),
    };
  },
};
