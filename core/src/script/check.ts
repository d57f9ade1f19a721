import type { Finding } from '../finding.ts';
import type { Profile } from '../profile/schema.ts';
import { LuaSyntaxError } from './lexer.ts';
import { parseLua, type LuaOutline } from './parse.ts';

export interface ScriptReading {
  path: string;
  outline: LuaOutline | null;
  findings: Finding[];
}

/** Characters that a script may have. */
export const SCRIPT_LIMIT = 1_000_000;
/** Readings that are remembered: many ask for the same text again, at every key and at every move of a caret. */
const REMEMBERED = 64;
const readings = new Map<string, ScriptReading>();

/** Reads one script: its outline, or the syntax error as a finding at its line. What it answers belongs to all who ask. */
export function readScript(path: string, source: string): ScriptReading {
  const key = `${path}\0${source}`;
  const known = readings.get(key);
  if (known) return known;
  const reading = readAnew(path, source);
  readings.set(key, reading);
  if (readings.size > REMEMBERED) readings.delete(readings.keys().next().value!);
  return reading;
}

function readAnew(path: string, source: string): ScriptReading {
  if (source.length > SCRIPT_LIMIT)
    return {
      path,
      outline: null,
      findings: [
        {
          code: 'script-too-long',
          severity: 'blocker',
          stage: 'scripts',
          message: `${path} has ${(source.length / 1e6).toFixed(1)} million characters; a script may have ${SCRIPT_LIMIT / 1e6} million.`,
          hint: 'Split it; what is data may stand in a file of its own, in parts.',
          place: { file: path, line: 1 },
        },
      ],
    };
  try {
    return { path, outline: parseLua(source), findings: [] };
  } catch (error) {
    if (!(error instanceof LuaSyntaxError)) throw error;
    const column = error.from - source.lastIndexOf('\n', error.from - 1);
    return {
      path,
      outline: null,
      findings: [
        {
          code: 'script-syntax',
          severity: 'blocker',
          stage: 'scripts',
          message: `${path}:${error.line}: ${error.message}.`,
          hint: 'The game stops loading at this line.',
          place: { file: path, line: error.line, column },
        },
      ],
    };
  }
}

/** What the functions that are called at an object's events begin with. */
const ON = 'on_';

/** Checks all scripts of a crate together: syntax, the start-up function, functions that nothing calls. */
export function checkScripts(
  profile: Profile,
  scripts: Record<string, string>,
  calledBySignals: ReadonlySet<string>,
  /** Events of the objects that have a script of their own, by its path. */
  ofObjects: ReadonlyMap<string, ReadonlySet<string>> = new Map(),
): Finding[] {
  const readings = Object.entries(scripts).map(([path, source]) => readScript(path, source));
  const findings = readings.flatMap((reading) => reading.findings);
  const used = new Set<string>([profile.scripts.startup, ...calledBySignals]);
  for (const { outline } of readings) for (const name of outline?.mentions ?? []) used.add(name);
  const main = readings.find((reading) => reading.path === profile.scripts.main);
  const defined = readings.flatMap(({ path, outline }) => (outline?.functions ?? []).filter((f) => f.name).map((f) => ({ path, ...f })));
  if (main?.outline && !defined.some((f) => f.name === profile.scripts.startup)) {
    findings.push({
      code: 'script-no-startup',
      severity: 'warning',
      stage: 'scripts',
      message: `No script defines the function ${profile.scripts.startup}, with which the game starts.`,
      hint: `Add "function ${profile.scripts.startup}() … end" to ${profile.scripts.main}.`,
      place: { file: profile.scripts.main, line: 1 },
    });
  }
  for (const f of defined) {
    // Methods and members are reached through their table, which is mentioned.
    const root = f.name!.split(/[.:]/)[0];
    const events = ofObjects.get(f.path);
    if (events && f.name!.startsWith(ON)) {
      if (!events.has(f.name!.slice(ON.length)))
        findings.push({
          code: 'script-event',
          severity: 'warning',
          stage: 'scripts',
          message: `No object with ${f.path} has the event "${f.name!.slice(ON.length)}", so that ${f.name} is never called.`,
          hint: events.size > 0 ? `Their events: ${[...events].sort().join(', ')}.` : 'Their classes have no events.',
          place: { file: f.path, line: f.line },
        });
    } else if (!used.has(root)) {
      findings.push({
        code: 'script-uncalled',
        severity: 'note',
        stage: 'scripts',
        message: `Nothing calls the function ${f.name}.`,
        hint: `Call it from ${profile.scripts.startup}, connect a signal to it, or remove it.`,
        place: { file: f.path, line: f.line },
      });
    }
  }
  return findings;
}

/** Names of all global functions that a crate's scripts define, for signals to choose from. */
export function globalFunctions(scripts: Record<string, string>): string[] {
  const names = Object.entries(scripts).flatMap(([path, source]) => readScript(path, source).outline?.functions ?? []);
  return [...new Set(names.flatMap((f) => (f.name && !/[.:]/.test(f.name) ? [f.name] : [])))].sort();
}
