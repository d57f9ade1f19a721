import { useEffect, useMemo, useRef, useState } from 'react';
import { Dropdown } from 'react-bootstrap';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { cellProblems, cellWords } from '@violet-crate/core/table/cell';
import {
  givenAt,
  keyOf,
  lineOfRow,
  readTable,
  recordsPath,
  titleOf,
  valueAt,
  writeTable,
  type Row,
  type TableDocument,
} from '@violet-crate/core/table/document';
import { insertRows, newRow, removeRows, renameKey, typeCells } from '@violet-crate/core/table/edit';
import { exportCsv } from '@violet-crate/core/table/exchange';
import type { Column, Table } from '@violet-crate/core/table/schema';
import { Tables } from '@violet-crate/core/table/tables';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { Trouble } from '../common/Busy.tsx';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { saveFile } from '../common/saveFile.ts';
import { RecordTable, type CellChange, type RecordColumn, type RecordRow } from '../records/RecordTable.tsx';
import { scriptTyped } from '../state/scriptsSlice.ts';
import { useAppDispatch } from '../state/store.ts';
import { BalanceDialog } from './BalanceDialog.tsx';
import { CompareDialog } from './CompareDialog.tsx';
import { ImportDialog } from './ImportDialog.tsx';
import { RandomDialog } from './RandomDialog.tsx';
import { RowForm } from './RowForm.tsx';
import { FileButtons, undoKeys } from '../common/text/FileButtons.tsx';
import { useText } from '../common/text/useText.ts';

interface Props {
  crateId: string;
  world: CrateWorld;
  table: Table;
  /** Line of the file that is to be shown first; 0 for none. */
  line: number;
}

/** What texts that were made here are, so that an edit keeps the rows that it did not touch; the last few. */
const madeHere = new Map<string, TableDocument>();
const MADE = 6;

/** Rows of one table as a sheet, and one of them as a form. */
export function TablePage({ crateId, world, table, line }: Props) {
  const path = recordsPath(table.id);
  const file = useText(crateId, path);
  const dispatch = useAppDispatch();
  const [query, setQuery] = useState('');
  const [filter, setFilter] = useState<{ column: string; text: string }>({ column: '', text: '' });
  const [row, setRow] = useState(line > 0 ? Math.max(0, line - lineOfRow(0)) : 0);
  const [marked, setMarked] = useState<readonly number[]>([]);
  const [problems, setProblems] = useState<string[]>([]);
  const [open, setOpen] = useState<'compare' | 'random' | 'balance' | null>(null);
  const [coming, setComing] = useState<{ name: string; text: string } | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const { profile, crate } = world;
  useEffect(() => {
    if (line > 0) setRow(Math.max(0, line - lineOfRow(0)));
  }, [line]);
  const read = useMemo((): { document: TableDocument } | { problem: string } => {
    if (file.text === null) return { document: { format: 1, table: table.id, rows: [] } };
    const made = madeHere.get(file.text);
    if (made) return { document: made };
    try {
      return { document: readTable(file.text, path) };
    } catch (error) {
      if (error instanceof UnreadableInput) return { problem: error.message };
      throw error;
    }
  }, [file.text, path, table.id]);
  const document = 'document' in read ? read.document : null;
  const tables = useMemo(() => new Tables(profile.tables ?? [], crate.data, document ?? undefined), [profile, crate.data, document]);
  const columns = useMemo(() => columnsOf(tables, table), [tables, table]);
  const { rows, wrong } = useMemo(() => shownRows(tables, table, document), [tables, table, document]);
  if (!document) return <Trouble>{`${'problem' in read ? read.problem : ''} The history of versions has it as it was.`}</Trouble>;
  const shown =
    filter.column === '' || filter.text === ''
      ? rows
      : rows.filter(({ cells }) =>
          String(cells[filter.column] ?? '')
            .toLowerCase()
            .includes(filter.text.toLowerCase()),
        );
  const chosen = Math.min(row, document.rows.length - 1);
  const put = (next: TableDocument) => {
    const text = writeTable(table, next);
    if (madeHere.size >= MADE) madeHere.delete(madeHere.keys().next().value!);
    madeHere.set(text, next);
    file.change(text);
  };
  const change = (changes: CellChange[]) => {
    const keys = changes.filter(({ column }) => column === table.key);
    // Another key is followed by all that refer to the row.
    if (changes.length === 1 && keys.length === 1 && keys[0].text.trim() !== '') {
      const from = keyOf(table, document.rows[keys[0].n]);
      const to = keys[0].text.trim();
      if (from === to) return;
      if (document.rows.some((one) => keyOf(table, one) === to)) return setProblems([`The key "${to}" is taken.`]);
      const changed = renameKey(profile.tables ?? [], crate.data, table, from, to);
      for (const [other, source] of Object.entries(changed)) if (other !== path) dispatch(scriptTyped({ crateId, path: other, source }));
      if (changed[path]) return file.change(changed[path]);
    }
    const typed = typeCells(table, document, changes);
    setProblems(typed.problems);
    if (typed.document.rows.some((one, n) => one !== document.rows[n])) put(typed.document);
  };
  const going = marked.length > 1 ? marked : chosen >= 0 ? [chosen] : [];
  const full = table.rows !== undefined;
  return (
    <div className="d-flex flex-column gap-2 h-100" style={{ minHeight: 0 }} onKeyDown={undoKeys(file)}>
      <header className="data-bar">
        <h1>{table.label}</h1>
        <span className="faint small">
          {plural(document.rows.length, 'row')}
          {table.rows !== undefined ? ` of exactly ${table.rows}` : table.most !== undefined ? `, room for ${table.most}` : ''}
        </span>
        <input
          className="form-control form-control-sm data-search"
          placeholder="Search"
          aria-label="Search rows"
          value={query}
          onChange={({ target }) => setQuery(target.value)}
        />
        <select
          className="form-select form-select-sm w-auto"
          aria-label="Column that is filtered"
          value={filter.column}
          onChange={({ target }) => setFilter({ ...filter, column: target.value })}
        >
          <option value="">All rows</option>
          {table.columns.map(({ id, label }) => (
            <option key={id} value={id}>
              {label} has
            </option>
          ))}
        </select>
        {filter.column !== '' && (
          <input
            className="form-control form-control-sm data-search"
            aria-label="What it has"
            value={filter.text}
            onChange={({ target }) => setFilter({ ...filter, text: target.value })}
          />
        )}
        <div className="ms-auto d-flex gap-1">
          <FileButtons crateId={crateId} path={path} file={file} />
        </div>
      </header>
      <div className="data-bar">
        <button
          className="btn btn-quiet btn-sm"
          disabled={full}
          onClick={() => (put(insertRows(table, document, chosen, [newRow(table, document)])), setRow(chosen + 1))}
        >
          <Icon name="plus-lg" /> Row
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={full || going.length === 0}
          onClick={() =>
            put(
              insertRows(
                table,
                document,
                Math.max(...going),
                going.map((n) => document.rows[n]),
              ),
            )
          }
        >
          <Icon name="copy" /> {going.length > 1 ? `Double ${going.length}` : 'Double'}
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={full || going.length === 0}
          onClick={() => (put(removeRows(document, new Set(going))), setMarked([]))}
        >
          <Icon name="trash" /> {going.length > 1 ? `Remove ${going.length}` : 'Remove'}
        </button>
        <button className="btn btn-quiet btn-sm" disabled={document.rows.length < 2} onClick={() => setOpen('compare')}>
          <Icon name="layout-split" /> Compare …
        </button>
        <button className="btn btn-quiet btn-sm" disabled={full} onClick={() => setOpen('random')}>
          <Icon name="dice-5" /> At random …
        </button>
        {(profile.contestModels ?? []).some((model) => model.table === table.id) && (
          <button className="btn btn-quiet btn-sm" disabled={document.rows.length < 2} onClick={() => setOpen('balance')}>
            <Icon name="bar-chart" /> Balance …
          </button>
        )}
        <Dropdown>
          <Dropdown.Toggle variant="quiet" size="sm">
            Files
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item
              as="button"
              onClick={() => saveFile(`${table.id}.csv`, new Blob([exportCsv(tables, table, document)], { type: 'text/csv' }))}
            >
              Save as CSV
            </Dropdown.Item>
            <Dropdown.Item
              as="button"
              onClick={() => saveFile(`${table.id}.json`, new Blob([writeTable(table, document)], { type: 'application/json' }))}
            >
              Save as JSON
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => picker.current?.click()}>
              Take rows from a file …
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
        <input
          ref={picker}
          type="file"
          hidden
          accept=".csv,.tsv,.txt,.json"
          aria-label="File with rows"
          onChange={({ target }) => {
            const taken = target.files?.[0];
            target.value = '';
            if (taken) void taken.text().then((text) => setComing({ name: taken.name, text }));
          }}
        />
        {problems.length > 0 && (
          <span className="severity blocker text-wrap" role="alert">
            {problems.slice(0, 2).join(' ')}
            {problems.length > 2 ? ` And ${problems.length - 2} more.` : ''}
          </span>
        )}
      </div>
      <div className="data-split">
        <RecordTable
          label={table.label}
          columns={columns}
          rows={shown}
          query={query}
          chosen={chosen}
          choose={setRow}
          mark={setMarked}
          frozen={1}
          wrong={wrong}
          change={change}
        />
        {chosen >= 0 && document.rows[chosen] ? (
          <RowForm
            key={`${table.id} ${chosen}`}
            {...{ world, tables, table, document }}
            n={chosen}
            wrong={wrong}
            change={(column, text) => change([{ n: chosen, column, text }])}
          />
        ) : (
          <p className="faint p-2">{table.description ?? ''} There are no rows yet.</p>
        )}
      </div>
      {open === 'compare' && <CompareDialog {...{ tables, table, document }} n={chosen} close={() => setOpen(null)} />}
      {open === 'balance' && <BalanceDialog {...{ world, tables, table, document }} close={() => setOpen(null)} choose={setRow} />}
      {open === 'random' && <RandomDialog {...{ tables, table, document }} close={() => setOpen(null)} take={(next) => (put(next), setOpen(null))} />}
      {coming && <ImportDialog {...{ table, document }} file={coming} close={() => setComing(null)} take={(next) => (put(next), setComing(null))} />}
    </div>
  );
}

/** Where a choice has more rows than this, keys are typed. */
const MOST_CHOICES = 400;

function columnsOf(tables: Tables, table: Table): RecordColumn[] {
  return table.columns.map((column) => {
    const title = column.unit ? `${column.label} (${column.unit})` : column.label;
    if (column.type === 'choice')
      return { id: column.id, title, kind: 'choice', choices: Object.fromEntries((column.choices ?? []).map(({ id, label }) => [id, label])) };
    if (column.type === 'reference') {
      const to = tables.get(column.table ?? '');
      if (to && to.document.rows.length <= MOST_CHOICES)
        return {
          id: column.id,
          title,
          kind: 'choice',
          choices: { '': '–', ...Object.fromEntries(to.document.rows.map((row) => [keyOf(to.table, row), titleOf(to.table, row)])) },
        };
    }
    return {
      id: column.id,
      title,
      kind: column.type === 'number' || column.type === 'formula' ? 'number' : 'text',
      fixed: column.type === 'formula',
    };
  });
}

interface ShownRow {
  /** Documents of the other tables, which formulas and references look into. */
  others: readonly TableDocument[];
  cells: RecordRow['cells'];
  wrong: readonly [string, string][];
}
/** Rows as they were shown last: an edit makes new values of what it changes, and of nothing else. */
const shownBefore = new WeakMap<Row, ShownRow>();

function shownRows(tables: Tables, table: Table, document: TableDocument | null): { rows: RecordRow[]; wrong: Map<string, string> } {
  const wrong = new Map<string, string>();
  const others = [...tables].flatMap((one) => (one.table.id === table.id ? [] : [one.document]));
  // What looks into its own table depends on all of it.
  const closed = !table.columns.some((column) => column.table === table.id);
  const rows = (document?.rows ?? []).map((row, n): RecordRow => {
    let shown = shownBefore.get(row);
    if (!shown || !closed || shown.others.some((one, i) => one !== others[i])) {
      shown = showRow(tables, table, row, others);
      shownBefore.set(row, shown);
    }
    for (const [column, problem] of shown.wrong) wrong.set(`${n}.${column}`, problem);
    return { n, cells: shown.cells };
  });
  return { rows, wrong };
}

function showRow(tables: Tables, table: Table, row: Row, others: readonly TableDocument[]): ShownRow {
  const wrong: [string, string][] = [];
  const cells = Object.fromEntries(
    table.columns.map((column) => {
      const value = valueAt(column, row);
      const problem = problemOf(tables, table, column, row);
      if (problem) wrong.push([column.id, problem]);
      if (column.type !== 'formula') return [column.id, typeof value === 'number' ? value : cellWords(value)];
      const computed = tables.computed(table, row, column);
      return [column.id, 'value' in computed ? Math.round(computed.value * 100) / 100 : '?'];
    }),
  );
  return { others, cells, wrong };
}

/** What is wrong in a cell, as its title says it. */
function problemOf(tables: Tables, table: Table, column: Column, row: Row): string | null {
  const [first] = cellProblems(column, givenAt(column, row));
  if (first) return `${column.label} ${first.words}.`;
  const lost = tables.referencesOf(table, row).find((one) => one.column === column && tables.row(one.to, one.key) === undefined);
  return lost ? `There is no row "${lost.key}".` : null;
}
