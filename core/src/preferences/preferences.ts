/** What a user may prefer: one table, from which the page, the check of files and the defaults are made. */

export type PreferenceValue = string | number | boolean;

export interface Preference {
  id: string;
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
}

const choice = (id: string, group: string, label: string, explains: string, choices: [string, string][]): Preference => ({
  id,
  group,
  label,
  explains,
  kind: 'choice',
  default: choices[0][0],
  choices: choices.map(([value, word]) => ({ value, label: word })),
});
const number = (
  id: string,
  group: string,
  label: string,
  explains: string,
  value: number,
  [min, max, step]: [number, number, number],
  unit: string,
): Preference => ({
  id,
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
const turnedOn = (id: string, group: string, label: string, explains: string, value: boolean): Preference => ({
  id,
  group,
  label,
  explains,
  kind: 'switch',
  default: value,
});

export const PREFERENCES = [
  choice('theme', 'Look', 'Theme', 'Dark, or light for bright rooms.', [
    ['dark', 'dark'],
    ['light', 'light'],
  ]),
  number('textSize', 'Look', 'Size of text', 'Everything that is written grows with it.', 100, [80, 150, 5], '%'),
  choice('contrast', 'Look', 'Contrast', 'Strong draws lines and lesser words as clearly as the rest.', [
    ['normal', 'normal'],
    ['strong', 'strong'],
  ]),
  turnedOn('stillness', 'Look', 'Less motion', 'Nothing turns, slides or fades, whatever the system says.', false),
  choice('lengths', 'Map', 'Lengths under the pointer', 'In the units of the game, or in metres.', [
    ['game', 'units of the game'],
    ['metres', 'metres'],
  ]),
  number('fieldOfView', 'Map', 'Field of view of the perspective', 'How much of the map is in sight, from top to bottom.', 60, [30, 110, 1], '°'),
  number('undoDepth', 'Map', 'Steps that can be undone', 'More of them take more memory.', 1000, [50, 5000, 50], ''),
  turnedOn('snapping', 'Map', 'Snap to the grid', 'What a newly opened map begins with.', true),
  choice('quality', 'Builds', 'Quality of a first build', 'Later ones begin with that of the build before.', [
    ['preview', 'preview'],
    ['draft', 'draft'],
    ['final', 'final'],
  ]),
  turnedOn('notices', 'Builds', 'Tell the end of long builds', 'By a notice of the system, while another window is in front.', true),
  number('trialView', 'Test run', 'Field of view', 'How much the player sees, from top to bottom.', 72, [50, 110, 1], '°'),
  number('volume', 'Test run', 'Volume of sounds', 'None at 0.', 100, [0, 100, 5], '%'),
] as const satisfies readonly Preference[];

export type PreferenceId = (typeof PREFERENCES)[number]['id'];

export interface Preferences {
  values: Record<PreferenceId, PreferenceValue>;
  /** Keys of commands that are not those they come with; an empty text takes a command's key away. */
  keys: Record<string, string>;
}

const row = (id: string): Preference | undefined => PREFERENCES.find((one) => one.id === id);

export const defaultPreferences = (): Preferences => ({
  values: Object.fromEntries(PREFERENCES.map((one) => [one.id, one.default])) as Preferences['values'],
  keys: {},
});

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
  const { values, keys } = (typeof given === 'object' && given !== null ? given : {}) as { values?: unknown; keys?: unknown };
  for (const [id, value] of entriesOf(values)) {
    const preference = row(id);
    const fit = preference ? allowed(preference, value) : null;
    if (fit === null) left.push(id);
    else preferences.values[id as PreferenceId] = fit;
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
