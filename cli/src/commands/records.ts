import { dirname, resolve } from 'node:path';
import { mkdirSync } from 'node:fs';
import { checkRecords } from '@violet-crate/core/check/checkRecords';
import { checkTalk } from '@violet-crate/core/check/checkTalk';
import { dataProblem } from '@violet-crate/core/check/dataProblem';
import { countFindings, hasBlocker } from '@violet-crate/core/finding';
import { recordsPath, writeTable, type TableDocument } from '@violet-crate/core/table/document';
import { exportCsv, planImport } from '@violet-crate/core/table/exchange';
import { Tables } from '@violet-crate/core/table/tables';
import { talksOf } from '@violet-crate/core/talk/talks';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { findingLines, UsageError, type Command, type Options, type Outcome } from '../command.ts';
import { openCrate, type OpenCrate } from '../folder.ts';
import { readText } from '../readInput.ts';
import { writeOutput } from '../output.ts';
import { writeInside } from '@violet-crate/host/inside';

const ACTS = ['check', 'export', 'import'] as const;
type Act = (typeof ACTS)[number];

/** Changes that are told as text; the document has all. */
const SHOWN = 100;

export const recordsCommand: Command = {
  summary: 'Check a crate’s tables and conversations, write a table out as CSV or JSON, or take rows from such a file.',
  usage: 'crate records DIR check|export|import [--table TABLE] [--out FILE] [--from FILE] [--plan]',
  options: {
    table: { value: 'TABLE', summary: 'export and import: which table of the game' },
    out: { value: 'FILE', summary: 'export: where it goes; its ending, .csv or .json, says as what' },
    plain: { summary: 'export: cells that begin like a formula without the apostrophe that keeps spreadsheets from working them out' },
    from: { value: 'FILE', summary: 'import: a CSV or JSON file; rows are known by their key' },
    plan: { summary: 'import: only say what would change' },
    game: { value: 'DIR', summary: 'the game’s install' },
  },
  arguments: [2, 2],
  run([dir, word], options) {
    if (!(ACTS as readonly string[]).includes(word)) throw new UsageError(`"${word}" is not known; use ${ACTS.join(', ')}.`);
    const open = openCrate(dir, options.game);
    return Promise.resolve({ check, export: exportTable, import: importRows }[word as Act](open, options));
  },
};

function check({ world }: OpenCrate): Outcome {
  const { talks } = talksOf(world.crate.data);
  const findings = [...checkRecords(world, talks), ...checkTalk(world)];
  const tables = [...new Tables(world.profile.tables ?? [], world.crate.data)].map(({ table, document }) => ({
    table: table.id,
    rows: document.rows.length,
  }));
  return {
    code: hasBlocker(findings) ? 1 : 0,
    result: { findings, counts: countFindings(findings), tables, conversations: talks.map(({ name, talk }) => ({ name, steps: talk.steps.length })) },
    text: [...tables.map(({ table, rows }) => `${table}: ${rows} rows`), `${talks.length} conversations`, findingLines(findings)].join('\n'),
  };
}

/** @throws UnreadableInput where there is no such table, or its file cannot be read */
function tableOf({ world }: OpenCrate, id: string | undefined) {
  const tables = new Tables(world.profile.tables ?? [], world.crate.data);
  const names = [...tables].map(({ table }) => table.id).join(', ');
  if (id === undefined) throw new UsageError(`--table is needed: ${names || 'the game has none'}.`);
  const found = tables.get(id);
  if (!found) throw new UnreadableInput('table-unknown', `${world.profile.title} has no table "${id}".`, {}, `It has ${names || 'none'}.`);
  if (found.problem) throw found.problem;
  return { tables, ...found };
}

function exportTable(open: OpenCrate, options: Options): Outcome {
  const { tables, table, document } = tableOf(open, options.table);
  if (options.out === undefined) throw new UsageError('--out is needed: a file that ends in .csv or .json.');
  const file = resolve(options.out);
  const text = /\.json$/i.test(file) ? writeTable(table, document) : exportCsv(tables, table, document, options.plain !== undefined);
  mkdirSync(dirname(file), { recursive: true });
  writeOutput(file, Buffer.from(text), [], options);
  return {
    code: 0,
    result: { table: table.id, rows: document.rows.length, out: file },
    text: `${document.rows.length} rows of ${table.label} are in ${file}.`,
  };
}

function importRows(open: OpenCrate, options: Options): Outcome {
  const { table, document } = tableOf(open, options.table);
  if (options.from === undefined) throw new UsageError('--from is needed: a CSV or JSON file.');
  const { added, changed, missing, problems, document: next } = planImport(table, document, readText(options.from), options.from);
  const path = recordsPath(table.id);
  const nothing = added.length === 0 && changed.length === 0;
  const kept = options.plan === undefined && !nothing;
  if (kept) keep(open, path, writeTable(table, next as TableDocument));
  return {
    code: problems.length > 0 ? 1 : 0,
    result: { table: table.id, added, changed, missing, problems, written: kept },
    text: [
      ...added.slice(0, SHOWN).map((key) => `new      ${key}`),
      ...changed.slice(0, SHOWN).map(({ key, column, from, to }) => `changed  ${key}, ${column}: ${from || '–'} → ${to || '–'}`),
      ...problems.slice(0, SHOWN).map((problem) => `LEFT OUT ${problem}`),
      `${added.length} new, ${changed.length} values changed, ${missing.length} rows are not in the file and stay${kept ? '' : nothing ? '; nothing to write' : '; nothing was written'}.`,
    ].join('\n'),
  };
}

function keep({ folder, world }: OpenCrate, path: string, text: string): void {
  const problem = dataProblem(world.profile, path, text);
  if (problem) throw new UnreadableInput('data', problem, { file: path });
  writeInside(folder, [[path, Buffer.from(text)]]);
}
