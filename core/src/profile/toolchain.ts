/**
 * The part of a profile that says how its game lies on a machine: how it is found, what its tools are, what has to be done once, and
 * which programs of the game run at import, after a build and at launch.
 *
 * What a game has is named by paths within its install. Where it is looked for may begin with `{home}` (the user's own folder), `{games}`
 * (where the application keeps games) or `{env:NAME}`; what a step writes begins with `{game}` (the install) or `{settings}` (its folder of
 * settings). Paths are put together from whole pieces; no shell ever reads them.
 */

import { Type, type Static } from '@sinclair/typebox';
import { INSIDE, InsidePath } from './insidePath.ts';
import { Keyed } from '../keyed.ts';

const Id = Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 40 });
const closed = { additionalProperties: false };
const Path = Type.String({ minLength: 1, maxLength: 400 });
const Words = Type.String({ minLength: 1, maxLength: 400 });

export const SYSTEMS = ['linux', 'darwin', 'win32'] as const;
export type System = (typeof SYSTEMS)[number];
const SystemSchema = Type.Union(SYSTEMS.map((system) => Type.Literal(system)));

/** The stages that something undone stands in the way of. */
const STAGE_IDS = ['setup', 'assets', 'scripts', 'map', 'links', 'build', 'trial', 'publish'] as const;
const StagesSchema = Type.Array(Type.Union(STAGE_IDS.map((stage) => Type.Literal(stage))), { uniqueItems: true });

/** How a game is found. A folder counts as an install where all markers are in it, or where its version file names this game. */
export const FindSchema = Type.Object(
  {
    folders: Type.Optional(
      Type.Array(Type.Object({ system: Type.Optional(SystemSchema), path: Path }, closed), { description: 'Usual folders, by system.' }),
    ),
    environment: Type.Optional(Type.Array(Type.String({ pattern: '^[A-Za-z_][A-Za-z0-9_]*$' }), { description: 'Variables that hold a folder.' })),
    libraries: Type.Optional(
      Type.Array(Type.Object({ file: Path, below: Type.Optional(InsidePath) }, closed), {
        description: 'Files that list folders, one a line or as a list in JSON; the game lies in `below` of one of them.',
      }),
    ),
    markers: Type.Optional(Type.Array(InsidePath, { description: 'Files that are in every install.' })),
  },
  closed,
);
export type Find = Static<typeof FindSchema>;

export const VersionCommandSchema = Type.Object(
  {
    program: Path,
    arguments: Type.Array(Type.String({ maxLength: 400 })),
    line: Type.String({ maxLength: 200, description: 'The line that it answers, with {version} in it.' }),
    seconds: Type.Optional(Type.Number({ exclusiveMinimum: 0, maximum: 60, description: 'How long it may take; 5 without it.' })),
  },
  { ...closed, description: 'Asks a tool for its version by running it.' },
);

export const ToolSchema = Type.Object(
  {
    id: Id,
    title: Type.String(),
    folder: InsidePath,
    rule: Type.Optional(
      Type.String({
        maxLength: 100,
        description: '"release": the same major.minor as the game (what holds without it); "exact": the very same; else a range of versions.',
      }),
    ),
    version: Type.Optional(VersionCommandSchema),
    optional: Type.Optional(Type.Boolean({ description: 'Nothing needs it; it is listed, and its absence is a note.' })),
  },
  closed,
);
export type Tool = Static<typeof ToolSchema>;

/** Where systems keep the settings of programs, one folder for each. */
const SETTINGS_FOLDER = `^(\\{home\\}/(\\.config|\\.local/share|Library/Application Support|Library/Preferences|Documents|Saved Games)|\\{env:(APPDATA|LOCALAPPDATA|XDG_CONFIG_HOME|XDG_DATA_HOME)\\})/${INSIDE}$`;

export const InstallSchema = Type.Object(
  {
    versionFile: InsidePath,
    basePack: InsidePath,
    mods: InsidePath,
    redist: Type.String({ ...InsidePath, description: 'Folder with the archives from which missing parts are restored.' }),
    tools: Type.Array(ToolSchema),
    minFreeBytes: Type.Integer(),
    find: Type.Optional(FindSchema),
    settings: Type.Optional(
      Type.Array(Type.Object({ system: Type.Optional(SystemSchema), path: Type.String({ maxLength: 400, pattern: SETTINGS_FOLDER }) }, closed), {
        description: 'Folders of settings outside the install, by system: each is the game’s own below one that systems keep settings in.',
      }),
    ),
    paths: Type.Optional(
      Type.Object(
        {
          maxLength: Type.Optional(Type.Integer({ minimum: 20, maximum: 4096, description: 'Characters of a whole path that its tools can take.' })),
          spaces: Type.Optional(Type.Boolean({ description: 'False: its tools cannot take a space in a path.' })),
          ascii: Type.Optional(Type.Boolean({ description: 'True: its tools take plain letters only.' })),
        },
        closed,
      ),
    ),
    needs: Type.Optional(
      Type.Object(
        {
          systems: Type.Optional(Type.Array(SystemSchema)),
          memory: Type.Optional(Type.Integer({ minimum: 1, description: 'MiB of memory in all.' })),
          cores: Type.Optional(Type.Integer({ minimum: 1 })),
          webgl: Type.Optional(Type.Boolean({ description: 'The browser has to draw in three dimensions.' })),
        },
        closed,
      ),
    ),
  },
  closed,
);

/** A settings file, or a file whose being there says something: in the install, or in the game’s folder of settings. */
const StepPath = Type.String({ maxLength: 400, pattern: `^\\{(game|settings)\\}/${INSIDE}$` });

/** When a step counts as done. */
export const DoneRuleSchema = Type.Union([
  Type.Object({ when: Type.Literal('file'), path: StepPath }, closed),
  Type.Object(
    { when: Type.Literal('setting'), file: StepPath, key: Words, value: Type.String({ maxLength: 400 }) },
    { ...closed, description: 'A line `key = value` of a settings file, or a member of a JSON file.' },
  ),
  Type.Object({ when: Type.Literal('program'), program: Id }, { ...closed, description: 'A program of the profile ran to a good end.' }),
  Type.Object({ when: Type.Literal('hand') }, { ...closed, description: 'Whoever did it says so.' }),
]);
export type DoneRule = Static<typeof DoneRuleSchema>;

/** A step that is done once before a game can be modded. */
export const StepSchema = Type.Object(
  {
    id: Id,
    title: Words,
    why: Words,
    how: Words,
    done: DoneRuleSchema,
    offer: Type.Optional(
      Type.Union(
        [
          Type.Object({ do: Type.Literal('write') }, { ...closed, description: 'The file or the value of its rule is written.' }),
          Type.Object({ do: Type.Literal('run'), program: Id }, { ...closed, description: 'A program of the profile is run.' }),
        ],
        { description: 'What the application does on request.' },
      ),
    ),
    concerns: StagesSchema,
  },
  closed,
);
export type Step = Static<typeof StepSchema>;

export const LogPatternSchema = Type.Object(
  {
    line: Type.String({ maxLength: 400 }),
    severity: Type.Union([Type.Literal('blocker'), Type.Literal('warning'), Type.Literal('note')]),
  },
  closed,
);

/** A program of the game. Its arguments are given one by one; placeholders are {game}, {in}, {out}, {map}, {name}, {version} and, at import, {file}. */
export const ProgramSchema = Type.Object(
  {
    id: Id,
    title: Words,
    at: Type.Union([Type.Literal('import'), Type.Literal('build'), Type.Literal('launch'), Type.Literal('preparation')], {
      description: 'When it runs: on a file that is taken in, on a built map, before the game is started, or once, as a step of the preparation.',
    }),
    endings: Type.Optional(Type.Array(Type.String({ pattern: '^[a-z0-9]+$' }), { description: 'At import: endings of the files that it takes.' })),
    program: Path,
    arguments: Type.Array(Type.String({ maxLength: 400 })),
    folder: Type.Optional(Type.String({ maxLength: 400, description: 'Where it runs; {in} without it.' })),
    environment: Type.Optional(Keyed(Type.String({ pattern: '^[A-Za-z_][A-Za-z0-9_]*$' }), Type.String({ maxLength: 400 }))),
    seconds: Type.Number({ exclusiveMinimum: 0, maximum: 3600 }),
    memory: Type.Integer({ minimum: 16, maximum: 65536, description: 'MiB that it and what it starts may take together.' }),
    outputs: Type.Array(
      Type.Object({ path: Path, maxBytes: Type.Integer({ minimum: 1 }), starts: Type.Optional(Type.String({ maxLength: 16 })) }, closed),
      { description: 'Files that it has to have written in {out}, and with which characters they begin.' },
    ),
    log: Type.Array(LogPatternSchema),
    progress: Type.Optional(Type.String({ maxLength: 200, description: 'A line that says how far it is, with {percent} in it.' })),
  },
  closed,
);
export type Program = Static<typeof ProgramSchema>;
export type VersionCommand = Static<typeof VersionCommandSchema>;
