import { existsSync, readdirSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { boxSize } from '@violet-crate/core/math/box3';
import { optionProblem, optionValues, readOption } from '@violet-crate/core/asset/option/option';
import { readCrate, writeDocuments } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { enterAsset, type ImportedAsset } from '@violet-crate/core/importing/importAsset';
import { ASSET_KINDS, isCompanion, type AssetKind } from '@violet-crate/core/crate/assetKind';
import { IMPORT_KINDS } from '@violet-crate/core/importing/kind/kinds';
import { distinctPath, planImport, type Clash, type ImportUnit } from '@violet-crate/core/importing/importPlan';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { unreadableFinding, type Finding } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { Profile } from '@violet-crate/core/profile/schema';
import { Converter } from '@violet-crate/host/converter';
import { readTree } from '@violet-crate/host/folderTree';
import { isFileInside, readInside, writeInside } from '@violet-crate/host/inside';
import { findingLines, UsageError, type Command, type Options } from '../command.ts';
import { basePackOf, defaultGame, profileById, readCrateTree } from '../folder.ts';
import { writeOutput } from '../output.ts';
import { readInput } from '../readInput.ts';

function choice<T extends string>(options: Options, name: string, allowed: readonly T[]): T | undefined {
  const value = options[name];
  if (value !== undefined && !allowed.includes(value as T)) throw new UsageError(`--${name} has to be one of ${allowed.join(', ')}.`);
  return value as T | undefined;
}

/** Settings of one kind of asset as they were typed. */
function typedOptions(kind: AssetKind, options: Options): Record<string, unknown> {
  const typed: Record<string, unknown> = {};
  for (const option of IMPORT_KINDS[kind].options) {
    const text = option.flag && options[option.flag];
    if (text === undefined) continue;
    const value = readOption(option, text);
    const problem = optionProblem(option, value);
    if (problem) throw new UsageError(`--${option.flag} ${problem}.`);
    typed[option.key] = value;
  }
  return typed;
}

/** The flags of all kinds, from the tables of their settings. */
const KIND_FLAGS: Command['options'] = Object.fromEntries(
  ASSET_KINDS.flatMap((kind) =>
    IMPORT_KINDS[kind].options.flatMap((option) =>
      option.flag ? [[option.flag, { value: 'VALUE', summary: `${kind}: ${option.explains} (${optionValues(option)})` }] as const] : [],
    ),
  ),
);

/**
 * Files and folders as one batch. A folder's files carry its name in front; a lone OBJ or glTF brings its neighbours.
 * Files of several folders carry their folder's name, and folders of one name are numbered, so that none hides another.
 */
function readInputs(inputs: readonly string[]): { files: FileTree; asked: Set<string> } {
  const files: FileTree = new Map();
  const asked = new Set<string>();
  const prefixes = new Map<string, string>();
  const prefixOf = (folder: string): string => {
    const prefix = prefixes.get(folder) ?? distinctPath(basename(folder), new Set(prefixes.values()));
    prefixes.set(folder, prefix);
    return prefix;
  };
  const kinds = inputs.map((input) => {
    const stats = statSync(input, { throwIfNoEntry: false });
    if (!stats) throw new UnreadableInput('file-missing', `There is no file ${input}.`, { file: input });
    if (!stats.isFile() && !stats.isDirectory()) throw new UnreadableInput('file-kind', `${input} is neither a file nor a folder.`, { file: input });
    return stats.isDirectory();
  });
  const homes = new Set(inputs.filter((_, i) => !kinds[i]).map((input) => dirname(resolve(input))));
  inputs.forEach((input, i) => {
    if (kinds[i]) {
      for (const [path, bytes] of readTree(input)) {
        const at = `${prefixOf(resolve(input))}/${path}`;
        files.set(at, bytes);
        asked.add(at);
      }
      return;
    }
    const home = dirname(resolve(input));
    const at = (name: string) => (homes.size === 1 ? name : `${prefixOf(home)}/${name}`);
    files.set(at(basename(input)), readInput(input));
    asked.add(at(basename(input)));
    if (!/\.(obj|gltf|dae|fbx)$/i.test(input)) return;
    for (const name of readdirSync(home)) {
      if (files.has(at(name)) || !isFileInside(home, name) || !(isCompanion(name) || /\.(png|jpe?g|tga|bmp|webp|gif|tiff?)$/i.test(name))) continue;
      const bytes = readInside(home, name);
      if (bytes) files.set(at(name), bytes);
    }
  });
  return { files, asked };
}

const EMPTY: CrateManifest = {
  format: 1,
  name: 'none',
  title: 'none',
  description: '',
  version: '0.0.0',
  profile: '',
  mainMap: '',
  authors: [],
  credits: [],
  materials: [],
  assets: {},
};

function report(profile: Profile, unit: ImportUnit, asset: ImportedAsset, output: string[]): Record<string, unknown> {
  const { bounds, collision, ...record } = asset.record ?? ({} as Partial<NonNullable<ImportedAsset['record']>>);
  const size = bounds && boxSize(bounds);
  return {
    input: unit.file,
    kind: asset.kind,
    output,
    triangles: record.triangles,
    vertices: record.vertices,
    bounds,
    dimensions: size && { units: size, metres: size.map((v) => v * profile.unit.metres) },
    hullVolume: collision?.volume,
    collision,
    lods: record.lods,
    slots: record.slots,
    clips: record.clips,
    width: record.width,
    height: record.height,
    seconds: record.seconds,
    sampleRate: record.sampleRate,
    loudness: record.loudness,
    truePeak: record.truePeak,
    cues: record.cues,
    findings: asset.findings,
  };
}

/** What a fault of ours means for the file: the others go on. */
function unexpected(file: string, error: unknown): UnreadableInput {
  if (process.env.VIOLET_CRATE_DEBUG) console.error(error);
  return new UnreadableInput('internal', `${file}: the conversion failed unexpectedly.`, { file }, 'Export the file again, or as GLB, and tell us.');
}

export const convertCommand: Command = {
  summary: 'Convert models, textures, sounds, subtitles, effects and scripts; files, folders and ZIPs.',
  usage: 'crate convert INPUT... --profile brinewick --out DIR',
  options: {
    profile: { value: 'ID', summary: 'the game whose rules apply', required: true },
    out: { value: 'DIR', summary: 'where results go; into a crate’s folder they are imported', required: true },
    clash: { value: 'HOW', summary: 'a name that is taken: rename (default), replace, keep' },
    threads: { value: 'N', summary: 'files at a time; default: one per core' },
    format: { value: 'KIND', summary: 'also written: obj for models, png for textures' },
    'material-type': { value: 'TYPE', summary: 'texture: type of the material that is made, as the profile names it' },
    ...KIND_FLAGS,
  },
  arguments: [1, Infinity],
  async run(inputs, options, progress) {
    const profile = profileById(options.profile!);
    const out = options.out!;
    const type = options['material-type'];
    if (type !== undefined && !profile.materialTypes.some((t) => t.id === type))
      throw new UsageError(`--material-type has to be one of ${profile.materialTypes.map((t) => t.id).join(', ')}.`);
    const format = choice(options, 'format', ['game', 'obj', 'png']);
    const also = format === 'game' ? undefined : format;
    const threads = options.threads === undefined ? undefined : Number(options.threads);
    if (threads !== undefined && !(Number.isInteger(threads) && threads >= 1 && threads <= 64))
      throw new UsageError('--threads has to be a number from 1 to 64.');
    const clash = choice<Clash>(options, 'clash', ['rename', 'replace', 'keep']) ?? 'rename';
    const settings = Object.fromEntries(ASSET_KINDS.map((kind) => [kind, typedOptions(kind, options)]));
    if (settings.model.pivotPoint && !settings.model.pivot) settings.model.pivot = 'point';
    if (type === 'cutout') settings.texture.cutout = true;
    const contents = existsSync(join(out, 'crate.json')) ? readCrate(readCrateTree(out)) : null;
    let manifest = contents?.manifest ?? EMPTY;
    const { files, asked } = readInputs(inputs);
    const plan = planImport(profile, manifest, files, {
      clashes: Object.fromEntries([...files.keys()].map((file) => [file, clash])),
      options: settings,
      stockMaterials: basePackOf(profile, defaultGame(profile.id)).materials.map((m) => m.name),
      scripts: { ...contents?.scripts, ...contents?.data },
    });
    // Neighbours that were only looked at for a model are no input of their own.
    const units = plan.units.filter((unit) => asked.has(unit.file) || !files.has(unit.file));
    const lone = inputs.length === 1 && statSync(inputs[0]).isFile() && units.length === 0 ? plan.skipped[0] : undefined;
    if (lone)
      throw new UnreadableInput('asset-kind', `${lone.file}: ${lone.reason}.`, { file: lone.file }, 'crate convert --help lists what is taken.');
    const converter = new Converter(threads);
    const results: Record<string, unknown>[] = [];
    const findings: Finding[] = [];
    let failed = 0;
    let firstFailure: UnreadableInput | null = null;
    try {
      const work = units.map(async (unit) => {
        if (unit.unchanged) return { unit, asset: null };
        try {
          return {
            unit,
            asset: await converter.convert(profile, { ...unit, also }, undefined, () => progress(`Converting ${unit.file}`)),
          };
        } catch (error) {
          return { unit, asset: null, error: error instanceof UnreadableInput ? error : unexpected(unit.file, error) };
        }
      });
      // Written in the order of the inputs, whichever is done first.
      for (const { unit, asset, error } of await Promise.all(work)) {
        if (error) {
          failed++;
          firstFailure ??= error;
          const finding = unreadableFinding(error, 'assets');
          findings.push(finding);
          results.push({
            input: unit.file,
            kind: unit.kind,
            output: [],
            error: { code: finding.code, message: finding.message, hint: finding.hint, place: finding.place },
          });
          continue;
        }
        if (!asset) {
          results.push({ input: unit.file, kind: unit.kind, output: [unit.replaces], unchanged: true });
          continue;
        }
        findings.push(...asset.findings);
        if (asset.material && type !== undefined && asset.material.makes) asset.material.add.type = type;
        const written: string[] = [];
        if (contents) {
          writeInside(out, asset.files);
          written.push(...asset.files.keys());
          manifest = enterAsset(manifest, asset);
        } else {
          const other = /^(models\/.*\.(obj|mtl)|textures\/.*\.png)$/;
          for (const [path, bytes] of asset.files) {
            if (path !== asset.path && !other.test(path)) continue;
            const file = join(out, basename(path));
            writeOutput(file, bytes, inputs, options);
            written.push(file);
          }
        }
        results.push(report(profile, unit, asset, written));
      }
    } finally {
      await converter.close();
      // Also where the disk filled up half-way: what has been written is entered.
      if (contents && manifest !== contents.manifest)
        writeInside(out, [['crate.json', writeDocuments({ ...contents, manifest, maps: {}, scripts: {} }).get('crate.json')!]]);
    }
    // A single bad file is an unreadable input; in a batch the others count and the bad one is a finding.
    if (firstFailure && units.length === 1) throw firstFailure;
    const lines = results.map((r) => `${String(r.input)} → ${r.error ? 'failed' : r.unchanged ? 'unchanged' : (r.output as string[]).join(', ')}`);
    const skipped = plan.skipped.filter(({ file }) => asked.has(file) || !files.has(file));
    for (const { file, reason } of skipped) lines.push(`${file} → left out: ${reason}`);
    return {
      code: findings.some((f) => f.severity === 'blocker') ? 1 : 0,
      result: { files: results, skipped, converted: results.length - failed, failed },
      text: `${lines.join('\n')}\n${findingLines(findings)}`,
    };
  },
};
