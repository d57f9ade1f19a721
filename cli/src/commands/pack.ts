import { packRelease } from '@violet-crate/core/release/pack';
import { platformOf } from '@violet-crate/core/release/platform';
import { FRAMES_PER_SECOND, previewFrames } from '@violet-crate/core/release/moving';
import { picturesOf } from '@violet-crate/core/release/pictures';
import { findingLines, type Command } from '../command.ts';
import { animatedWebp } from '@violet-crate/host/animatedWebp';
import { authorKey, defaultKeyFile } from '@violet-crate/host/authorKey';
import { needMaps, openCrate, PROGRAMS_OPTION } from '../folder.ts';
import { buildAll, qualityOf } from './build.ts';
import { needFree, writeOutput } from '../output.ts';

export const packCommand: Command = {
  summary: 'Build a crate and make its package.',
  usage: 'crate pack DIR --out FILE.zip [--platform ID]',
  options: {
    out: { value: 'FILE.zip', summary: 'where the package goes', required: true },
    quality: { value: 'Q', summary: 'draft, preview or final (preview)' },
    game: { value: 'DIR', summary: 'the game’s install' },
    platform: { value: 'ID', summary: 'one of the game’s platforms; what is different there is listed' },
    unsigned: { summary: 'do not sign it with the author’s key of this machine' },
    ...PROGRAMS_OPTION,
  },
  arguments: [1, 1],
  async run([dir], options, progress) {
    const open = openCrate(dir, options.game);
    needMaps(open.world, true);
    needFree(options.out!, [], options);
    const platform = options.platform === undefined ? undefined : platformOf(open.world.profile, options.platform);
    const { world, tree } = open;
    const results = await buildAll(open, { quality: qualityOf(options.quality), programs: options.programs }, progress);
    const artefacts = new Map<string, Uint8Array>();
    const buildFindings = [...results.values()].flatMap((r) => r.findings);
    for (const result of results.values()) {
      if (!result.artefacts)
        return { code: 1, result: { built: false, findings: buildFindings }, text: `A map does not build.\n${findingLines(buildFindings)}` };
      for (const [path, bytes] of result.artefacts) artefacts.set(path, bytes);
    }
    const main = world.crate.manifest.mainMap;
    const glb = artefacts.get(`maps/${main}/map.glb`)!;
    const readFile = (path: string) => Promise.resolve(tree.get(path)!);
    progress('Drawing the pictures');
    const { title, more } = await picturesOf(glb, world, readFile);
    const frames = await previewFrames(glb, world, (fraction) => progress(`Drawing the moving preview: ${Math.round(fraction * 100)} %`));
    const sign = options.unsigned === undefined ? authorKey(defaultKeyFile()).sign : undefined;
    const { manifest, zip, findings, differences } = await packRelease({
      world,
      artefacts,
      thumbnail: title,
      pictures: more,
      ...(frames.length > 0 ? { preview: await animatedWebp(frames, FRAMES_PER_SECOND) } : {}),
      sign,
      platform,
      readFile,
    });
    writeOutput(options.out!, zip, [], options);
    const all = [...buildFindings, ...findings];
    const blocked = findings.some((f) => f.severity === 'blocker');
    return {
      code: blocked ? 1 : 0,
      result: { built: true, out: options.out, bytes: zip.length, manifest, differences, findings: all },
      text: `${options.out}: ${zip.length} bytes, ${manifest.files.length} files.\n${differences.map((line) => `  ${line}\n`).join('')}${findingLines(all)}`,
    };
  },
};
