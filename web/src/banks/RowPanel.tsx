import { addRow, fieldNamed, recordOfField, removeRow, rowsAt, setValue, type RowsPath } from '@violet-crate/core/bank/edit';
import type { BankDocument } from '@violet-crate/core/bank/document';
import type { BankLayout } from '@violet-crate/core/bank/layout';
import { Icon } from '../common/Icon.tsx';
import { cellText, RecordTable, type CellChange } from '../records/RecordTable.tsx';
import { columnsOf, rowsShown, valueOf } from './bankColumns.ts';

interface Props {
  layout: BankLayout;
  document: BankDocument;
  section: string;
  n: number;
  readOnly: boolean;
  change(next: BankDocument): void;
}

/** One row with all that hangs on it: its lists as tables of their own, at any depth one after the other. */
export function RowPanel({ layout, document, section, n, readOnly, change }: Props) {
  const { record } = rowsAt(layout, document, [section]);
  const row = document.sections[section][n];
  const columns = columnsOf(layout, document, record);
  const [shown] = rowsShown(document, columns, [row]);
  const key = layout.records[record].key;
  const lists = columns.filter(({ kind }) => kind === 'list');
  return (
    <aside className="panel bank-row" aria-label={`Row ${n + 1} of ${section}`}>
      <header>
        <h2>{(key && String(shown.cells[key] ?? '')) || `${section} ${n + 1}`}</h2>
        <span className="faint small mono">{row.at === undefined || row.at < 0 ? 'new' : `byte ${row.at}`}</span>
      </header>
      <div className="body">
        <dl className="bank-values">
          {columns
            .filter(({ kind }) => kind !== 'list')
            .map((column) => (
              <div key={column.id}>
                <dt>{column.title}</dt>
                <dd>{cellText(column, shown.cells[column.id]) || '–'}</dd>
              </div>
            ))}
        </dl>
        {lists.map(({ id, title }) => (
          <List key={`${id} ${n}`} title={title} path={[section, n, id]} {...{ layout, document, readOnly, change }} />
        ))}
      </div>
    </aside>
  );
}

interface ListProps extends Omit<Props, 'section' | 'n'> {
  title: string;
  path: RowsPath;
}

function List({ layout, document, title, path, readOnly, change }: ListProps) {
  const { rows, record } = rowsAt(layout, document, path);
  const columns = columnsOf(layout, document, record);
  const fixed =
    fieldNamed(layout, rowsAt(layout, document, path.slice(0, -2) as unknown as RowsPath).record, String(path[path.length - 1]))?.is === 'list';
  const inner = columns.filter(({ kind }) => kind === 'list');
  return (
    <section className="mb-3">
      <div className="d-flex align-items-center gap-2 mb-1">
        <h3 className="flex-grow-1">
          {title} <span className="faint">{rows.length}</span>
        </h3>
        {!fixed && !readOnly && (
          <>
            <button className="btn btn-quiet btn-sm py-0" onClick={() => change(addRow(layout, document, path, rows.length - 1))}>
              <Icon name="plus-lg" /> Add to {title.toLowerCase()}
            </button>
            <button
              className="btn btn-quiet btn-sm py-0"
              disabled={rows.length === 0}
              aria-label={`Remove the last of ${title.toLowerCase()}`}
              onClick={() => change(removeRow(layout, document, path, rows.length - 1))}
            >
              <Icon name="dash-lg" />
            </button>
          </>
        )}
      </div>
      <div className="bank-list">
        <RecordTable
          label={title}
          columns={columns}
          rows={rowsShown(document, columns, rows)}
          query=""
          chosen={null}
          choose={() => {}}
          change={(changes) => !readOnly && change(applied(layout, document, path, changes))}
        />
      </div>
      {inner.map(({ id, title: words }) =>
        rows.map((_, k) => (
          <List
            key={`${id} ${k}`}
            title={`${words} of ${k + 1}`}
            path={[...path, k, id] as unknown as RowsPath}
            {...{ layout, document, readOnly, change }}
          />
        )),
      )}
    </section>
  );
}

/** Cells that were typed, pasted or filled; what is no value of its column is left as it was. */
export function applied(layout: BankLayout, document: BankDocument, path: RowsPath, changes: readonly CellChange[]): BankDocument {
  const { record } = rowsAt(layout, document, path);
  const columns = columnsOf(layout, document, record);
  let next = document;
  for (const { n, column: id, text } of changes) {
    const column = columns.find((one) => one.id === id)!;
    const field = fieldNamed(layout, record, id);
    const value = valueOf(column, text, field?.is === 'number' && field.bytes > 6);
    if (value !== null && recordOfField(field) === null) next = setValue(layout, next, path, n, id, value);
  }
  return next;
}
