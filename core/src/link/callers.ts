/** Who calls each function of a crate: other functions, the top level of a script, signals of a map, the game itself. */

import { expandMap } from '../map/prefab.ts';
import type { GameMap } from '../document/schema.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import { readScript } from '../script/check.ts';
import { lineOfStep } from '../talk/document.ts';
import { talksOf } from '../talk/talks.ts';
import { own } from '../own.ts';

export interface Caller {
  by: 'function' | 'script' | 'signal' | 'talk' | 'game';
  /** Name of the calling function, path of the script, name of the object whose signal it is, or title of the conversation. */
  name: string;
  /** Script or conversation, and line of the call. */
  path?: string;
  line?: number;
  /** Map and id of the object whose signal it is. */
  map?: string;
  object?: string;
}

/** By name of the function; functions that nothing calls have no entry. */
export function callersOf(
  profile: Profile,
  scripts: Readonly<Record<string, string>>,
  maps: Readonly<Record<string, GameMap>>,
  data: Readonly<Record<string, string>> = {},
): Map<string, Caller[]> {
  const callers = new Map<string, Caller[]>();
  const add = (name: string, caller: Caller) => {
    const known = callers.get(name);
    if (known) known.push(caller);
    else callers.set(name, [caller]);
  };
  for (const [path, source] of Object.entries(scripts))
    for (const call of readScript(path, source).outline?.calls ?? [])
      add(
        call.name,
        call.within ? { by: 'function', name: call.within, path, line: call.line } : { by: 'script', name: path, path, line: call.line },
      );
  for (const [map, raw] of Object.entries(maps)) {
    const { signals, objects } = expandMap(raw, profile);
    for (const signal of Object.values(signals))
      if ('script' in signal.to)
        add(signal.to.script, { by: 'signal', name: own(objects, signal.from)?.name ?? signal.from, map, object: signal.from });
    for (const [object, { name, class: classId, script }] of Object.entries(objects)) {
      const functions = script === undefined ? [] : (readScript(script, own(scripts, script) ?? '').outline?.functions ?? []);
      const events = new Set((classOf(profile, classId)?.events ?? []).map(({ id }) => `on_${id}`));
      for (const one of functions) if (one.name !== null && events.has(one.name)) add(one.name, { by: 'signal', name, map, object });
    }
    for (const [object, { name, class: classId, properties }] of Object.entries(objects))
      for (const { id, type } of classOf(profile, classId)?.properties ?? [])
        if (type === 'script' && typeof properties[id] === 'string' && properties[id] !== '')
          add(properties[id], { by: 'signal', name, map, object });
  }
  for (const { name, path, talk } of talksOf(data).talks)
    talk.steps.forEach((step, n) => {
      if (step.do === 'call') add(step.function, { by: 'talk', name: talk.title || name, path, line: lineOfStep(n) });
    });
  add(profile.scripts.startup, { by: 'game', name: profile.title });
  return callers;
}
