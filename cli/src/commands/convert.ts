import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { PIVOTS, NORMAL_MODES, type ModelOptions } from '@violet-crate/core/asset/mesh/convert';
import { readCrate, writeDocuments } from '@violet-crate/core/crate/contents';
import { enterAsset, importAsset } from '@violet-crate/core/crate/importAsset';
import { UnreadableInput, type Finding } from '@violet-crate/core/finding';
import { findingLines, UsageError, type Command, type Options } from '../command.ts';
import { profileById, readTree, writeTree, writeWhole } from '../folder.ts';

function modelOptions(options: Options): Partial<ModelOptions> {
  const choice = <T extends string>(name: string, allowed: readonly T[]): T | undefined => {
    const value = options[name];
    if (value !== undefined && !allowed.includes(value as T)) throw new UsageError(`--${name} has to be one of ${allowed.join(', ')}.`);
    return value as T | undefined;
  };
  const given: Partial<ModelOptions> = {
    unit: options.unit,
    upAxis: choice('up', ['y', 'z'] as const),
    pivot: choice('pivot', PIVOTS),
    normals: choice('normals', NORMAL_MODES),
  };
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined));
}

export const convertCommand: Command = {
  summary: 'Convert models (OBJ, GLB) and textures (PNG, JPEG).',
  usage: 'crate convert INPUT... --profile brinewick --out DIR',
  options: {
    profile: { value: 'ID', summary: 'the game whose rules apply', required: true },
    out: { value: 'DIR', summary: 'where results go; into a crate’s folder they are imported', required: true },
    unit: { value: 'UNIT', summary: 'unit of the model: game, m, cm, mm, in, ft' },
    up: { value: 'AXIS', summary: 'up axis of the model: y or z' },
    pivot: { value: 'WHERE', summary: PIVOTS.join(', ') },
    normals: { value: 'MODE', summary: NORMAL_MODES.join(', ') },
  },
  arguments: [1, Infinity],
  async run(inputs, options, progress) {
    const profile = profileById(options.profile!);
    const out = options.out!;
    const intoCrate = existsSync(join(out, 'crate.json'));
    const given = modelOptions(options);
    let contents = intoCrate ? readCrate(readTree(out)) : null;
    const results: Record<string, unknown>[] = [];
    const findings: Finding[] = [];
    for (const input of inputs) {
      progress(`Converting ${input}`);
      if (!existsSync(input)) throw new UnreadableInput('file-missing', `There is no file ${input}.`, { file: input });
      const companions = new Map<string, Uint8Array>();
      if (/\.obj$/i.test(input))
        for (const name of readdirSync(dirname(input))) if (/\.mtl$/i.test(name)) companions.set(name, readFileSync(join(dirname(input), name)));
      const asset = await importAsset(profile, basename(input), readFileSync(input), given, companions);
      findings.push(...asset.findings);
      const written: string[] = [];
      if (contents) {
        writeTree(out, asset.files);
        written.push(...asset.files.keys());
        contents = { ...contents, manifest: enterAsset(contents.manifest, asset) };
      } else {
        const file = join(out, basename(asset.path));
        writeWhole(file, asset.files.get(asset.path)!);
        written.push(file);
      }
      const { bounds, triangles, width, height } = asset.record;
      results.push({
        input,
        kind: asset.kind,
        output: written,
        triangles,
        vertices: asset.vertices,
        bounds,
        width,
        height,
        findings: asset.findings,
      });
    }
    if (contents) writeTree(out, new Map([['crate.json', writeDocuments({ ...contents, maps: {}, scripts: {} }).get('crate.json')!]]));
    const blocked = findings.some((f) => f.severity === 'blocker');
    return {
      code: blocked ? 1 : 0,
      result: { files: results },
      text: `${results.map((r) => `${String(r.input)} → ${(r.output as string[]).join(', ')}`).join('\n')}\n${findingLines(findings)}`,
    };
  },
};
