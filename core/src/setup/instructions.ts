/** `instructions.json` of a community's pack: typed steps, of which most can be done by the application, all in one go and undone in one. */

import { Type, type Static } from '@sinclair/typebox';
import type { FileTree } from '../crate/fileTree.ts';
import type { CrateManifest } from '../crate/manifest.ts';
import type { CrateWorld } from '../crate/world.ts';
import type { Change, MapEdit } from '../document/edit.ts';
import { freshId } from '../document/edit.ts';
import { readDocument } from '../document/readDocument.ts';
import type { GameMap } from '../document/schema.ts';
import { own } from '../own.ts';
import { globalFunctions } from '../script/check.ts';

const closed = { additionalProperties: false };
const Words = Type.String({ minLength: 1, maxLength: 400 });
/** A path within the pack or the crate. */
const Path = Type.String({ pattern: '^[a-z0-9_][A-Za-z0-9_.-]*(/[A-Za-z0-9_][A-Za-z0-9_.-]*)*$', maxLength: 200 });

export const InstructionStepSchema = Type.Union([
  Type.Object({ do: Type.Literal('put'), title: Words, file: Path, path: Path }, closed),
  Type.Object(
    {
      do: Type.Literal('snippet'),
      title: Words,
      script: Type.String({ pattern: '^scripts/[a-z0-9_]+\\.lua$' }),
      function: Type.String({ pattern: '^[A-Za-z_][A-Za-z0-9_]*$' }),
      text: Type.String({ maxLength: 20_000 }),
    },
    closed,
  ),
  Type.Object(
    {
      do: Type.Literal('set'),
      title: Words,
      setting: Type.Union([Type.Literal('skyColour'), Type.Literal('skyIntensity')]),
      value: Type.Union([Type.Number(), Type.String()]),
    },
    closed,
  ),
  Type.Object(
    {
      do: Type.Literal('place'),
      title: Words,
      prefab: Words,
      name: Words,
      position: Type.Tuple([Type.Number(), Type.Number(), Type.Number()]),
      turn: Type.Optional(Type.Number()),
    },
    closed,
  ),
  Type.Object({ do: Type.Literal('hand'), title: Words, text: Type.String({ maxLength: 2000 }) }, closed),
]);
export type InstructionStep = Static<typeof InstructionStepSchema>;

export const InstructionsSchema = Type.Object(
  {
    format: Type.Literal(1),
    title: Words,
    author: Type.String({ maxLength: 200 }),
    licence: Type.String({ maxLength: 100 }),
    steps: Type.Array(InstructionStepSchema, { maxItems: 100 }),
  },
  closed,
);
export type Instructions = Static<typeof InstructionsSchema>;

export const readInstructions = (text: string): Instructions => readDocument(text, InstructionsSchema, 'instructions.json');

export interface PlannedStep {
  step: InstructionStep;
  /** `ready` can be done; `there` is so already; `clash` would overwrite something other; `hand` is for the user. */
  state: 'ready' | 'there' | 'clash' | 'hand';
  /** What would be done, or what it clashes with. */
  words: string;
}

export interface InstructionPlan {
  steps: PlannedStep[];
  /** Files as they will be: put ones and scripts. */
  files: Map<string, Uint8Array>;
  /** Of the main map; null where nothing of it changes. */
  edit: MapEdit | null;
  manifest: CrateManifest;
}

const encoder = new TextEncoder();
const same = (a: Uint8Array, b: Uint8Array): boolean => a.length === b.length && a.every((byte, i) => byte === b[i]);

/**
 * What following the instructions would do to a crate. Steps that clash are left out, and told.
 *
 * @param pack files of the pack by path
 * @param readFile contents of a file of the crate, or null
 */
export function planInstructions(
  { crate, profile }: CrateWorld,
  instructions: Instructions,
  pack: FileTree,
  readFile: (path: string) => Uint8Array | null,
): InstructionPlan {
  const files = new Map<string, Uint8Array>();
  const scripts = { ...crate.scripts };
  const changes: Change[] = [];
  const { mainMap } = crate.manifest;
  const map: GameMap | undefined = own(crate.maps, mainMap);
  const copies = new Set(map ? Object.values(map.copies).map(({ name }) => name) : []);
  const taken = new Set<string>();
  let settings = map?.settings;
  const plan = (step: InstructionStep): Pick<PlannedStep, 'state' | 'words'> => {
    if (step.do === 'hand') return { state: 'hand', words: step.text };
    if (step.do === 'put') {
      const bytes = pack.get(step.file);
      if (!bytes) return { state: 'clash', words: `The pack has no file ${step.file}.` };
      const present = readFile(step.path);
      if (present)
        return same(present, bytes)
          ? { state: 'there', words: `${step.path} is there.` }
          : { state: 'clash', words: `The crate has another ${step.path}.` };
      files.set(step.path, bytes);
      return { state: 'ready', words: `Puts ${step.path}.` };
    }
    if (step.do === 'snippet') {
      const source = own(scripts, step.script) ?? '';
      if (source.includes(step.text.trim())) return { state: 'there', words: `${step.function} is in ${step.script}.` };
      if (globalFunctions(scripts).includes(step.function)) return { state: 'clash', words: `The scripts have another function ${step.function}.` };
      scripts[step.script] = `${source}${source === '' || source.endsWith('\n') ? '' : '\n'}\n${step.text}`;
      files.set(step.script, encoder.encode(scripts[step.script]));
      return { state: 'ready', words: `Adds ${step.function} to ${step.script}.` };
    }
    if (!map || !settings) return { state: 'clash', words: `The crate has no map ${mainMap}.` };
    if (step.do === 'set') {
      const before = settings[step.setting];
      if (before === step.value) return { state: 'there', words: `${step.setting} is ${step.value}.` };
      if (typeof before !== typeof step.value) return { state: 'clash', words: `${step.setting} cannot be ${JSON.stringify(step.value)}.` };
      settings = { ...settings, [step.setting]: step.value };
      return { state: 'ready', words: `Sets ${step.setting} of ${mainMap} to ${step.value}; it is ${before}.` };
    }
    if (copies.has(step.name)) return { state: 'there', words: `${step.name} stands in ${mainMap}.` };
    if (!own(map.prefabs, step.prefab) && !own(profile.prefabs ?? {}, step.prefab))
      return { state: 'clash', words: `There is no prefab ${step.prefab}.` };
    const id = freshId(map.copies, 'c', taken);
    taken.add(id);
    changes.push({ of: 'copies', id, to: { prefab: step.prefab, name: step.name, position: step.position, turn: step.turn ?? 0, values: {} } });
    return { state: 'ready', words: `Places ${step.name} in ${mainMap}.` };
  };
  const steps = instructions.steps.map((step): PlannedStep => ({ step, ...plan(step) }));
  if (map && settings !== map.settings) changes.push({ of: 'settings', to: settings! });
  const credit = { author: instructions.author, work: instructions.title, licence: instructions.licence };
  const known = instructions.author === '' || crate.manifest.credits.some(({ author, work }) => author === credit.author && work === credit.work);
  return {
    steps,
    files,
    edit: changes.length > 0 ? { name: `follow ${instructions.title}`.slice(0, 120), changes } : null,
    manifest: known ? crate.manifest : { ...crate.manifest, credits: [...crate.manifest.credits, credit] },
  };
}
