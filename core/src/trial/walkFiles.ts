/** Where walks lie in a crate: `walks/MAP/NAME.walk.json`, working files that are never packaged. */

import { readDocument } from '../document/readDocument.ts';
import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { WalkReport } from './record.ts';
import { WalkSchema, type Walk } from './walk.ts';

const WALK_PATH = /^walks\/([^/]+)\/([^/]+)\.walk\.json$/;

export const walkPath = (map: string, name: string): string => `walks/${map}/${name}.walk.json`;

/** Names of a map's walks by their paths among others. */
export function walksAmong(paths: Iterable<string>, map: string): string[] {
  const names: string[] = [];
  for (const path of paths) {
    const found = WALK_PATH.exec(path);
    if (found?.[1] === map) names.push(found[2]);
  }
  return names.sort();
}

/** @throws UnreadableInput where it is damaged, or was recorded in another map */
export function readWalk(text: string, path: string, map: string): Walk {
  const walk = readDocument(text, WalkSchema, path);
  if (walk.map !== map)
    throw new UnreadableInput(
      'walk-other-map',
      `${path} was recorded in the map ${walk.map}, not in ${map}.`,
      { file: path },
      `Move it to walks/${walk.map}/, or record it anew in ${map}.`,
    );
  return walk;
}

/** What is to be said of a walk that no longer works. */
export function walkFindings(map: string, { name, ok, difference }: Pick<WalkReport, 'name' | 'ok' | 'difference'>): Finding[] {
  if (ok || !difference) return [];
  return [
    {
      code: 'walk-broken',
      severity: 'warning',
      stage: 'trial',
      message: `The walk ${name} no longer works: at ${difference.second} s ${difference.message}.`,
      hint: 'Watch it in the test run. If the map is right as it is now, record the walk anew.',
      place: { map, point: difference.at },
    },
  ];
}
