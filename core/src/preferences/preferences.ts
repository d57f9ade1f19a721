/** What a user may prefer: one table, from which the page, the check of files and the defaults are made. */

export type PreferenceValue = string | number | boolean;

export interface Preference {
  group: string;
  label: string;
  explains: string;
  kind: 'choice' | 'number' | 'switch';
  default: PreferenceValue;
  choices?: readonly { value: string; label: string }[];
  min?: number;
  max?: number;
  step?: number;
  unit?: string;
  /** A crate may have a value of its own. */
  byCrate?: true;
}

const choice = (group: string, label: string, explains: string, choices: [string, string][]): Preference => ({
  group,
  label,
  explains,
  kind: 'choice',
  default: choices[0][0],
  choices: choices.map(([value, word]) => ({ value, label: word })),
});
const number = (
  group: string,
  label: string,
  explains: string,
  value: number,
  [min, max, step]: [number, number, number],
  unit: string,
): Preference => ({
  group,
  label,
  explains,
  kind: 'number',
  default: value,
  min,
  max,
  step,
  unit,
});
const byCrate = (preference: Preference): Preference => ({ ...preference, byCrate: true });
const turnedOn = (group: string, label: string, explains: string, value: boolean): Preference => ({
  group,
  label,
  explains,
  kind: 'switch',
  default: value,
});

const TABLE = {
  theme: choice('Look', 'Theme', 'Dark, or light for bright rooms.', [
    ['dark', 'dark'],
    ['light', 'light'],
  ]),
  textSize: number('Look', 'Size of text', 'Everything that is written grows with it.', 100, [80, 150, 5], '%'),
  contrast: choice('Look', 'Contrast', 'Strong draws lines and lesser words as clearly as the rest.', [
    ['normal', 'normal'],
    ['strong', 'strong'],
  ]),
  stillness: turnedOn('Look', 'Less motion', 'Nothing turns, slides or fades, whatever the system says.', false),
  frames: choice('Look', 'Pictures a second', 'At most so many where things move: fewer keep a laptop cool.', [
    ['0', 'as the screen'],
    ['60', '60'],
    ['30', '30'],
    ['15', '15'],
  ]),
  lengths: byCrate(
    choice('Map', 'Lengths', 'Shown and typed in the units of the game, or in metres. What is kept is the same.', [
      ['game', 'units of the game'],
      ['metres', 'metres'],
    ]),
  ),
  grid: byCrate(
    choice('Map', 'Grid', 'What a newly opened map begins with.', [
      ['game', 'as the game has it'],
      ['finer', 'half of that'],
      ['coarser', 'twice that'],
    ]),
  ),
  snapping: byCrate(turnedOn('Map', 'Snap to the grid', 'What a newly opened map begins with.', true)),
  fieldOfView: byCrate(
    number('Map', 'Field of view of the perspective', 'How much of the map is in sight, from top to bottom.', 60, [30, 110, 1], '°'),
  ),
  flySpeed: byCrate(number('Map', 'Speed of flying', 'To begin with; the wheel changes it as one flies.', 2, [0.5, 32, 0.5], ' m/s')),
  lookSpeed: number('Map', 'Speed of looking about', 'How far the view turns with the pointer, flying and in the test run.', 100, [20, 300, 10], '%'),
  undoDepth: number('Map', 'Steps that can be undone', 'More of them take more memory.', 1000, [50, 5000, 50], ''),
  saveAfter: number(
    'Map',
    'Edits are kept after',
    'Nothing is lost with a page that is closed before: it waits to be asked. Others at work, and a folder, see an edit when it is kept.',
    0.2,
    [0.2, 10, 0.2],
    ' s',
  ),
  quality: byCrate(
    choice('Builds', 'Quality of a first build', 'Later ones begin with that of the build before.', [
      ['preview', 'preview'],
      ['draft', 'draft'],
      ['final', 'final'],
    ]),
  ),
  threads: number('Builds', 'Cores for light and for imports', 'At most; 0 takes what the machine has.', 0, [0, 64, 1], ''),
  memory: number(
    'Builds',
    'Memory of a build',
    'At most; 0 leaves it to the server. What takes more ends with a finding.',
    0,
    [0, 32768, 512],
    ' MiB',
  ),
  notices: turnedOn('Builds', 'Tell the end of long builds', 'By a notice of the system, while another window is in front.', true),
  chime: turnedOn('Builds', 'Sound at the end of long builds', 'Two notes where it went well, one where it did not.', false),
  trialView: byCrate(number('Test run', 'Field of view of the player', 'How much the player sees, from top to bottom.', 72, [50, 110, 1], '°')),
  volume: number('Test run', 'Volume of sounds', 'None at 0.', 100, [0, 100, 5], '%'),
};

export type PreferenceId = keyof typeof TABLE;

export const PREFERENCES = Object.entries(TABLE).map(([id, preference]) => ({ ...preference, id: id as PreferenceId }));

export type PreferenceValues = Record<PreferenceId, PreferenceValue>;

export interface Preferences {
  values: PreferenceValues;
  /** What single crates have otherwise, by the id of the crate. */
  crates: Record<string, Partial<PreferenceValues>>;
  /** Keys of commands that are not those they come with; an empty text takes a command's key away. */
  keys: Record<string, string>;
}

export const defaultPreferences = (): Preferences => ({
  values: Object.fromEntries(PREFERENCES.map((one) => [one.id, one.default])) as PreferenceValues,
  crates: {},
  keys: {},
});

/** What holds in a crate, or where none is open. */
export const valuesIn = ({ values, crates }: Preferences, crate: string | undefined): PreferenceValues =>
  crate !== undefined && Object.hasOwn(crates, crate) ? { ...values, ...crates[crate] } : values;

/** A value as a preference can have it, or null where it cannot. */
export function allowed(preference: Preference, value: unknown): PreferenceValue | null {
  if (preference.kind === 'switch') return typeof value === 'boolean' ? value : null;
  if (preference.kind === 'choice') return preference.choices!.some((one) => one.value === value) ? (value as string) : null;
  return typeof value === 'number' && Number.isFinite(value) ? Math.min(preference.max!, Math.max(preference.min!, value)) : null;
}

/** Characters of the name of a key with what is held down. */
const KEY = /^(Ctrl\+)?(Alt\+)?(Shift\+)?(\S{1,12}| )$/;

/**
 * Preferences from whatever was stored or sent: what is missing or cannot be takes its default.
 *
 * @returns `left` names what was left out, for telling whoever brought a file
 */
export function readPreferences(given: unknown): { preferences: Preferences; left: string[] } {
  const preferences = defaultPreferences();
  const left: string[] = [];
  const { values, crates, keys } = (typeof given === 'object' && given !== null ? given : {}) as Partial<Record<keyof Preferences, unknown>>;
  const read = (from: unknown, into: Partial<PreferenceValues>, of = '', fits = (_: Preference) => true) => {
    for (const [id, value] of entriesOf(from)) {
      const preference = PREFERENCES.find((one) => one.id === id);
      const fit = preference && fits(preference) ? allowed(preference, value) : null;
      if (fit === null) left.push(`${id.slice(0, 60)}${of}`);
      else into[id as PreferenceId] = fit;
    }
  };
  read(values, preferences.values);
  for (const [crate, own] of entriesOf(crates)) {
    if (!/^[\w-]{1,60}$/.test(crate) || crate === '__proto__') left.push(`values of the crate ${crate.slice(0, 60)}`);
    else read(own, (preferences.crates[crate] = {}), ` of the crate ${crate}`, (one) => one.byCrate === true);
  }
  for (const [command, key] of entriesOf(keys)) {
    if (/^[a-z][a-z0-9-]{0,60}$/.test(command) && typeof key === 'string' && (key === '' || KEY.test(key))) preferences.keys[command] = key;
    else left.push(`key of ${command.slice(0, 60)}`);
  }
  return { preferences, left };
}

const entriesOf = (value: unknown): [string, unknown][] =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.entries(value).slice(0, 1000) : [];

/** Keys that two commands would have, with the commands. */
export function keyClashes(commands: readonly { id: string; keys?: string }[], keys: Preferences['keys']): Map<string, string[]> {
  const by = new Map<string, string[]>();
  for (const { id, keys: own } of commands) {
    const key = keys[id] ?? own;
    if (key) by.set(key, [...(by.get(key) ?? []), id]);
  }
  return new Map([...by].filter(([, ids]) => ids.length > 1));
}
