/** Who uses a row: rows that refer to it, people of maps, and what is said. */

import type { CrateWorld } from '../crate/world.ts';
import { lineOfRow, recordsPath, titleOf } from '../table/document.ts';
import { Tables } from '../table/tables.ts';
import { lineOfStep } from '../talk/document.ts';
import { talksOf } from '../talk/talks.ts';

export interface RowUse {
  words: string;
  /** File of game data and line in it, or the map and its object. */
  file?: string;
  line?: number;
  map?: string;
  object?: string;
}

export function usesOfRow({ profile, crate }: CrateWorld, table: string, key: string): RowUse[] {
  const uses: RowUse[] = [];
  const tables = new Tables(profile.tables ?? [], crate.data);
  for (const { table: of, document } of tables)
    document.rows.forEach((row, n) => {
      for (const { column, to, key: named } of tables.referencesOf(of, row))
        if (to === table && named === key) uses.push({ words: `${titleOf(of, row)}: ${column.label}`, file: recordsPath(of.id), line: lineOfRow(n) });
    });
  for (const [map, { objects }] of Object.entries(crate.maps))
    for (const [object, { name, class: id, properties }] of Object.entries(objects))
      for (const property of profile.classes.find((one) => one.id === id)?.properties ?? [])
        if (property.type === 'record' && property.table === table && properties[property.id] === key)
          uses.push({ words: `${name} in map ${map}`, map, object });
  for (const { path, talk } of talksOf(crate.data).talks) {
    const steps = talk.steps.flatMap((step, n) =>
      (step.do === 'say' && step.who === key) ||
      (step.do === 'contest' && step.against === key) ||
      ((step.do === 'give' || step.do === 'take') && step.what === key)
        ? [n]
        : [],
    );
    if (steps.length > 0)
      uses.push({ words: `${talk.title || path}: ${steps.length} ${steps.length === 1 ? 'step' : 'steps'}`, file: path, line: lineOfStep(steps[0]) });
  }
  return uses;
}
