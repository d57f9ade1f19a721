/** Findings of tables: what a row may not be, what refers to nothing, and what nothing refers to. */

import { findFile, type CrateWorld } from '../crate/world.ts';
import { unreadableFinding, type Finding } from '../finding.ts';
import { cellProblems } from '../table/cell.ts';
import { givenAt, keyOf, lineOfRow, recordsPath, titleOf, type Row } from '../table/document.ts';
import { columnOf, type Table } from '../table/schema.ts';
import { Tables } from '../table/tables.ts';
import type { NamedTalk } from '../talk/talks.ts';

/** Findings of one table that are told; a table of ten thousand wrong rows is wrong in one way. */
const MOST = 500;

/** @param talks conversations, which name rows as speakers and in contests */
export function checkRecords(world: CrateWorld, talks: readonly NamedTalk[]): Finding[] {
  const { profile, crate } = world;
  const tables = new Tables(profile.tables ?? [], crate.data);
  const findings: Finding[] = [];
  for (const path of Object.keys(crate.data))
    if (path.startsWith('records/') && !(profile.tables ?? []).some(({ id }) => recordsPath(id) === path))
      findings.push({
        code: 'record-table',
        severity: 'warning',
        stage: 'assets',
        message: `${path}: ${profile.title} has no such table.`,
        hint: 'Remove the file, or give it the name of a table.',
        place: { file: path },
      });
  const reached = rowsReached(world, tables, talks);
  for (const { table, document, problem, byKey } of tables) {
    const path = recordsPath(table.id);
    if (problem) {
      findings.push(unreadableFinding(problem, 'assets'));
      continue;
    }
    const found: Finding[] = [];
    const tell = (n: number, code: string, severity: Finding['severity'], message: string, hint?: string, set?: Row): void => {
      const row = document.rows[n];
      found.push({
        code,
        severity,
        stage: 'assets',
        message,
        ...(hint ? { hint } : {}),
        place: { file: path, line: lineOfRow(n) },
        ...(set
          ? { fix: { kind: 'line', label: 'Set it right', file: path, line: lineOfRow(n), was: JSON.stringify(row), to: JSON.stringify(set) } }
          : {}),
      });
    };
    if (table.rows !== undefined && document.rows.length !== table.rows)
      tell(
        Math.max(0, document.rows.length - 1),
        'record-count',
        'blocker',
        `${table.label} has ${document.rows.length} rows; the game has exactly ${table.rows}.`,
      );
    else if (table.most !== undefined && document.rows.length > table.most)
      tell(table.most, 'record-count', 'blocker', `${table.label} has ${document.rows.length} rows; the game has room for ${table.most}.`);
    document.rows.forEach((row, n) => {
      if (found.length < MOST) checkRow(world, tables, table, row, n, byKey, reached, tell);
    });
    findings.push(...found.slice(0, MOST));
  }
  return findings;
}

type Tell = (n: number, code: string, severity: Finding['severity'], message: string, hint?: string, set?: Row) => void;

function checkRow(
  world: CrateWorld,
  tables: Tables,
  table: Table,
  row: Row,
  n: number,
  byKey: ReadonlyMap<string, number>,
  reached: { used: ReadonlySet<string>; reached: ReadonlySet<string> },
  tell: Tell,
): void {
  const key = keyOf(table, row);
  const who = `${table.label}, ${titleOf(table, row) || `row ${n + 1}`}`;
  if (key === '') tell(n, 'record-key', 'blocker', `${who}: it has no ${table.key}.`, 'Nothing can refer to it.');
  else if (byKey.get(key) !== n)
    tell(n, 'record-key', 'blocker', `${table.label}: "${key}" is there twice; the first counts.`, 'Give one of them another key.');
  for (const id of Object.keys(row))
    if (!columnOf(table, id)) {
      const { [id]: _gone, ...rest } = row;
      tell(n, 'record-column', 'warning', `${who}: "${id}" is no column of ${table.label}.`, 'The game does not read it.', rest);
    }
  for (const column of table.columns) {
    if (column.type === 'formula') {
      const computed = tables.computed(table, row, column);
      if ('problem' in computed) tell(n, 'record-formula', 'warning', `${who}: ${column.label} cannot be worked out: ${computed.problem}.`);
      continue;
    }
    const value = givenAt(column, row);
    for (const { code, words, set } of cellProblems(column, value)) {
      const severity = code === 'record-text-long' || code === 'record-letters' || code === 'record-flags' ? 'warning' : 'blocker';
      tell(n, code, severity, `${who}: ${column.label} ${words}.`, column.description, set === undefined ? undefined : { ...row, [column.id]: set });
    }
    if ((column.type === 'picture' || column.type === 'sound') && typeof value === 'string' && value !== '' && !findFile(world, value))
      tell(
        n,
        'record-file',
        'blocker',
        `${who}: ${column.label} names ${value}, which neither the crate nor the game has.`,
        'Import it, or choose another.',
      );
  }
  for (const { column, to, key: wanted } of tables.referencesOf(table, row))
    if (!tables.row(to, wanted))
      tell(
        n,
        'record-reference',
        'blocker',
        `${who}: ${column.label} names "${wanted}", which ${tables.get(to)?.table.label ?? to} does not have.`,
        'Choose another, or add the row.',
      );
  if (!table.used || key === '') return;
  const id = `${table.id}/${key}`;
  if (!reached.used.has(id))
    tell(n, 'record-unused', 'note', `${who} is not used: no map, conversation, script or row names it.`, 'Use it, or take it away.');
  else if (!reached.reached.has(id))
    tell(n, 'record-unreached', 'note', `${who} is named only by rows that nothing leads to.`, 'Use one of them, or take it away.');
}

/** Rows that anything names, and those that maps, conversations and scripts lead to. */
function rowsReached({ profile, crate }: CrateWorld, tables: Tables, talks: readonly NamedTalk[]): { used: Set<string>; reached: Set<string> } {
  const roots: string[] = [];
  const names = new Set<string>();
  for (const { talk } of talks)
    for (const step of talk.steps)
      if (step.do === 'say') names.add(step.who);
      else if (step.do === 'contest') names.add(step.against);
      else if (step.do === 'give' || step.do === 'take') names.add(step.what);
  // All who race are in the race.
  const racing = profile.riders && tables.get(profile.riders.table);
  if (racing) for (const key of racing.byKey.keys()) roots.push(`${racing.table.id}/${key}`);
  for (const model of profile.contestModels ?? []) if (model.challenger !== undefined) roots.push(`${model.table}/${model.challenger}`);
  for (const map of Object.values(crate.maps))
    for (const object of Object.values(map.objects))
      for (const property of profile.classes.find(({ id }) => id === object.class)?.properties ?? [])
        if (property.type === 'record') roots.push(`${property.table ?? ''}/${String(object.properties[property.id] ?? '')}`);
  const scripts = Object.values(crate.scripts);
  for (const { table, byKey } of tables)
    for (const key of byKey.keys()) if (names.has(key) || scripts.some((source) => source.includes(`"${key}"`))) roots.push(`${table.id}/${key}`);
  const reached = new Set(roots);
  for (const id of reached) {
    const at = id.indexOf('/');
    const of = tables.get(id.slice(0, at));
    const row = of && tables.row(of.table.id, id.slice(at + 1));
    if (row) for (const { to, key } of tables.referencesOf(of.table, row)) reached.add(`${to}/${key}`);
  }
  const used = new Set(reached);
  for (const { table, document } of tables)
    for (const row of document.rows)
      for (const { to, key } of tables.referencesOf(table, row)) if (to !== table.id || key !== keyOf(table, row)) used.add(`${to}/${key}`);
  return { used, reached };
}
