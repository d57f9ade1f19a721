import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { boxSize } from '@violet-crate/core/math/box3';
import {
  COLLISIONS,
  HANDEDNESS,
  NORMAL_MODES,
  PIVOTS,
  TANGENT_MODES,
  UNITS,
  UP_AXES,
  WINDINGS,
  type ModelOptions,
} from '@violet-crate/core/asset/mesh/model/options';
import { SOUND_CHANNELS, SOUND_FORMATS, type SoundOptions } from '@violet-crate/core/asset/sound/options';
import { COMPRESSIONS, TEXTURE_USES, type TextureOptions } from '@violet-crate/core/asset/texture/options';
import { readCrate, writeDocuments } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { enterAsset, type ImportedAsset } from '@violet-crate/core/importing/importAsset';
import { isCompanion } from '@violet-crate/core/crate/assetKind';
import { distinctPath, planImport, type Clash, type ImportUnit } from '@violet-crate/core/importing/importPlan';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { unreadableFinding, type Finding } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { Profile } from '@violet-crate/core/profile/schema';
import { Converter } from '@violet-crate/host/converter';
import { writeTree, writeWhole } from '@violet-crate/host/files';
import { readRegular, readTree } from '@violet-crate/host/folderTree';
import { findingLines, UsageError, type Command, type Options } from '../command.ts';
import { basePackOf, defaultGame, profileById, readCrateTree } from '../folder.ts';

function choice<T extends string>(options: Options, name: string, allowed: readonly T[]): T | undefined {
  const value = options[name];
  if (value !== undefined && !allowed.includes(value as T)) throw new UsageError(`--${name} has to be one of ${allowed.join(', ')}.`);
  return value as T | undefined;
}

function numeric(options: Options, name: string, least: number, most: number): number | undefined {
  if (options[name] === undefined) return undefined;
  const value = Number(options[name]);
  if (!(value >= least && value <= most)) throw new UsageError(`--${name} has to be a number from ${least} to ${most}.`);
  return value;
}

/** `on` and `off`; an option that is not there stays undefined. */
const onOff = (options: Options, name: string): boolean | undefined => {
  const value = choice(options, name, ['on', 'off']);
  return value === undefined ? undefined : value === 'on';
};

const given = <T extends object>(values: T): Partial<T> =>
  Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined)) as Partial<T>;

function modelOptions(options: Options): Partial<ModelOptions> {
  const lods = options.lods?.split(',').map(Number);
  if (lods?.some((share, i) => !(share > 0 && share < 1) || (i > 0 && share >= lods[i - 1])))
    throw new UsageError('--lods has to be shares between 0 and 1, falling, like 0.5,0.25.');
  const point = options['pivot-point']?.split(',').map(Number);
  if (point && (point.length !== 3 || point.some((v) => !Number.isFinite(v))))
    throw new UsageError('--pivot-point has to be three numbers, like 0,0,16.');
  const materials = options.material?.split(',').map((pair) => pair.split('='));
  if (materials?.some((pair) => pair.length !== 2)) throw new UsageError('--material has to be SLOT=MATERIAL, several with commas between.');
  return given({
    unit: choice(options, 'unit', UNITS),
    upAxis: choice(options, 'up', UP_AXES),
    handedness: choice(options, 'handedness', HANDEDNESS),
    pivot: choice(options, 'pivot', PIVOTS) ?? (point ? ('point' as const) : undefined),
    pivotPoint: point as [number, number, number] | undefined,
    normals: choice(options, 'normals', NORMAL_MODES),
    smoothAngle: numeric(options, 'smooth-angle', 0, 180),
    weld: numeric(options, 'weld', -1, 1e6),
    tangents: choice(options, 'tangents', TANGENT_MODES),
    winding: choice(options, 'winding', WINDINGS),
    tidy: onOff(options, 'tidy'),
    lods,
    collision: choice(options, 'collision', COLLISIONS),
    collisionParts: numeric(options, 'collision-parts', 1, 64),
    movable: onOff(options, 'movable'),
    mass: numeric(options, 'mass', 0, 1e6),
    materials: materials && (Object.fromEntries(materials) as Record<string, string>),
  });
}

const textureOptions = (options: Options): Partial<TextureOptions> =>
  given({
    use: choice(options, 'use', TEXTURE_USES),
    compression: choice(options, 'compression', COMPRESSIONS),
    cutout: options['material-type'] === 'cutout' ? true : undefined,
    maxSize: numeric(options, 'max-size', 1, 8192),
    strength: numeric(options, 'strength', 0, 100),
    flipGreen: onOff(options, 'flip-green'),
  });

const soundOptions = (options: Options): Partial<SoundOptions> =>
  given({
    channels: choice(options, 'channels', SOUND_CHANNELS),
    format: choice(options, 'sound-format', SOUND_FORMATS),
    trim: onOff(options, 'trim'),
    normalise: onOff(options, 'normalise'),
    loop: onOff(options, 'loop'),
  });

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
    files.set(at(basename(input)), new Uint8Array(readFileSync(input)));
    asked.add(at(basename(input)));
    if (!/\.(obj|gltf|dae|fbx)$/i.test(input)) return;
    for (const name of readdirSync(home)) {
      if (files.has(at(name)) || !(isCompanion(name) || /\.(png|jpe?g|tga|bmp|webp|gif|tiff?)$/i.test(name))) continue;
      const bytes = readRegular(join(home, name));
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
    findings: asset.findings,
  };
}

/** What a fault of ours means for the file: the others go on. */
function unexpected(file: string, error: unknown): UnreadableInput {
  if (process.env.VIOLET_CRATE_DEBUG) console.error(error);
  return new UnreadableInput('internal', `${file}: the conversion failed unexpectedly.`, { file }, 'Export the file again, or as GLB, and tell us.');
}

export const convertCommand: Command = {
  summary: 'Convert models, textures, sounds and scripts; files, folders and ZIPs.',
  usage: 'crate convert INPUT... --profile brinewick --out DIR',
  options: {
    profile: { value: 'ID', summary: 'the game whose rules apply', required: true },
    out: { value: 'DIR', summary: 'where results go; into a crate’s folder they are imported', required: true },
    clash: { value: 'HOW', summary: 'a name that is taken: rename (default), replace, keep' },
    threads: { value: 'N', summary: 'files at a time; default: one per core' },
    format: { value: 'KIND', summary: 'also written: obj for models, png for textures' },
    unit: { value: 'UNIT', summary: `model: ${UNITS.join(', ')}` },
    up: { value: 'AXIS', summary: `model: ${UP_AXES.join(', ')}` },
    handedness: { value: 'HAND', summary: `model: ${HANDEDNESS.join(', ')}` },
    pivot: { value: 'WHERE', summary: `model: ${PIVOTS.join(', ')}` },
    'pivot-point': { value: 'X,Y,Z', summary: 'model: pivot in game units from the file’s origin' },
    normals: { value: 'MODE', summary: `model: ${NORMAL_MODES.join(', ')}` },
    'smooth-angle': { value: 'DEGREES', summary: 'model: faces that meet under less are smoothed' },
    weld: { value: 'DISTANCE', summary: 'model: points nearer than this (game units) become one; -1 keeps all' },
    tangents: { value: 'MODE', summary: `model: ${TANGENT_MODES.join(', ')}` },
    winding: { value: 'MODE', summary: `model: ${WINDINGS.join(', ')}` },
    tidy: { value: 'ON', summary: 'model: on drops faces without area and second copies' },
    lods: { value: 'SHARES', summary: 'model: levels of detail, like 0.5,0.25' },
    collision: { value: 'SHAPE', summary: `model: ${COLLISIONS.join(', ')}` },
    'collision-parts': { value: 'N', summary: 'model: most convex parts' },
    movable: { value: 'ON', summary: 'model: on, or off' },
    mass: { value: 'KG', summary: 'model: mass; 0 takes it from the volume' },
    material: { value: 'SLOT=NAME', summary: 'model: material of a slot; several with commas' },
    use: { value: 'USE', summary: `texture: ${TEXTURE_USES.join(', ')}` },
    compression: { value: 'HOW', summary: `texture: ${COMPRESSIONS.join(', ')}` },
    'max-size': { value: 'PIXELS', summary: 'texture: most pixels along a side' },
    'material-type': { value: 'TYPE', summary: 'texture: type of the material that is made, as the profile names it' },
    strength: { value: 'TEXELS', summary: 'texture: rise of a height map' },
    'flip-green': { value: 'ON', summary: 'texture: on turns the green of a normal map' },
    channels: { value: 'HOW', summary: `sound: ${SOUND_CHANNELS.join(', ')}` },
    'sound-format': { value: 'KIND', summary: `sound: ${SOUND_FORMATS.join(', ')}` },
    trim: { value: 'ON', summary: 'sound: off keeps silence at the ends' },
    normalise: { value: 'ON', summary: 'sound: off keeps its loudness' },
    loop: { value: 'ON', summary: 'sound: on keeps or makes a loop' },
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
    const clash = choice<Clash>(options, 'clash', ['rename', 'replace', 'keep']) ?? 'rename';
    const settings = { model: modelOptions(options), texture: textureOptions(options), sound: soundOptions(options) };
    const contents = existsSync(join(out, 'crate.json')) ? readCrate(readCrateTree(out)) : null;
    let manifest = contents?.manifest ?? EMPTY;
    const { files, asked } = readInputs(inputs);
    const plan = planImport(profile, manifest, files, {
      clashes: Object.fromEntries([...files.keys()].map((file) => [file, clash])),
      options: settings,
      stockMaterials: basePackOf(profile, defaultGame(profile.id)).materials.map((m) => m.name),
      scripts: contents?.scripts,
    });
    // Neighbours that were only looked at for a model are no input of their own.
    const units = plan.units.filter((unit) => asked.has(unit.file) || !files.has(unit.file));
    const lone = inputs.length === 1 && statSync(inputs[0]).isFile() && units.length === 0 ? plan.skipped[0] : undefined;
    if (lone)
      throw new UnreadableInput('asset-kind', `${lone.file}: ${lone.reason}.`, { file: lone.file }, 'crate convert --help lists what is taken.');
    const converter = new Converter(numeric(options, 'threads', 1, 64));
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
          writeTree(out, asset.files);
          written.push(...asset.files.keys());
          manifest = enterAsset(manifest, asset);
        } else {
          const other = /^(models\/.*\.(obj|mtl)|textures\/.*\.png)$/;
          for (const [path, bytes] of asset.files) {
            if (path !== asset.path && !other.test(path)) continue;
            const file = join(out, basename(path));
            writeWhole(file, bytes);
            written.push(file);
          }
        }
        results.push(report(profile, unit, asset, written));
      }
    } finally {
      await converter.close();
      // Also where the disk filled up half-way: what has been written is entered.
      if (contents && manifest !== contents.manifest)
        writeTree(out, new Map([['crate.json', writeDocuments({ ...contents, manifest, maps: {}, scripts: {} }).get('crate.json')!]]));
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
