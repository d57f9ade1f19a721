import { useMemo } from 'react';
import { Link } from 'react-router';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { cellWords } from '@violet-crate/core/table/cell';
import { keyOf, lineOfRow, recordsPath, titleOf, valueAt, type TableDocument } from '@violet-crate/core/table/document';
import { namesIn } from '@violet-crate/core/table/formula';
import type { Column, Table } from '@violet-crate/core/table/schema';
import type { Tables } from '@violet-crate/core/table/tables';
import { FormulaProblem } from '@violet-crate/core/table/formula';
import { usesOfRow } from '@violet-crate/core/check/usesOfRow';
import { fileUrl, previewUrl } from '../api/assetUrl.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';

interface Props {
  world: CrateWorld;
  tables: Tables;
  table: Table;
  document: TableDocument;
  n: number;
  wrong: ReadonlyMap<string, string>;
  change(column: string, text: string): void;
}

/** One row with all that it has: portrait, fields, party, and what its formulas come to. */
export function RowForm({ world, tables, table, document, n, wrong, change }: Props) {
  const view = useAppSelector((s) => s.crate.view);
  const row = document.rows[n];
  const key = keyOf(table, row);
  const uses = useMemo(() => usesOfRow(world, table.id, key), [world, table.id, key]);
  const portrait = table.portrait ? row[table.portrait] : null;
  if (!view) return null;
  const source = { view, profileId: world.profile.id };
  return (
    <aside className="panel data-side" aria-label={`Row ${titleOf(table, row)}`}>
      <header className="row-head">
        {typeof portrait === 'string' && portrait !== '' ? (
          <img
            className="row-portrait"
            src={previewUrl(source, portrait)}
            alt=""
            onError={({ currentTarget }) => (currentTarget.src = fileUrl(source, portrait))}
          />
        ) : null}
        <h2>{titleOf(table, row) || `Row ${n + 1}`}</h2>
        <span className="faint small mono">{key}</span>
      </header>
      <div className="body">
        <div className="row-fields">
          {table.columns.map((column) => (
            <Field
              key={column.id}
              {...{ world, tables, table, column, row, n }}
              problem={wrong.get(`${n}.${column.id}`)}
              change={(text) => change(column.id, text)}
            />
          ))}
        </div>
        <h3 className="mt-3">Used by</h3>
        {uses.length === 0 ? (
          <p className="faint small mb-0">Nothing.</p>
        ) : (
          <ul className="small mb-0">
            {uses.slice(0, 30).map(({ words, file, line, map }, i) => (
              <li key={i}>
                {file ? (
                  <Link to={`/crates/${view.id}/data?file=${encodeURIComponent(file)}&line=${line}`}>{words}</Link>
                ) : map ? (
                  <Link to={`/crates/${view.id}/map`}>{words}</Link>
                ) : (
                  words
                )}
              </li>
            ))}
          </ul>
        )}
        <p className="faint small mt-2 mb-0">
          {recordsPath(table.id)}, line {lineOfRow(n)}
        </p>
      </div>
    </aside>
  );
}

interface FieldProps {
  world: CrateWorld;
  tables: Tables;
  table: Table;
  column: Column;
  row: TableDocument['rows'][number];
  n: number;
  problem?: string;
  change(text: string): void;
}

function Field({ world, tables, table, column, row, n, problem, change }: FieldProps) {
  const value = valueAt(column, row);
  const id = `row-${n}-${column.id}`;
  const hint = column.description ? <span title={column.description}> </span> : null;
  return (
    <>
      {column.type === 'formula' || column.type === 'flags' || column.type === 'rows' ? (
        <span className="term" title={column.description}>
          {column.label}
        </span>
      ) : (
        <label htmlFor={id} title={column.description}>
          {column.label}
          {column.unit ? <span className="faint"> {column.unit}</span> : null}
          {hint}
        </label>
      )}
      <div>
        <Input {...{ world, tables, table, column, row, id, change }} />
        {problem && <div className="wrong">{problem}</div>}
        {column.type === 'text' && column.most !== undefined && (
          <div className="faint small">
            {[...String(value)].length} of {column.most}
          </div>
        )}
      </div>
    </>
  );
}

function Input({ world, tables, table, column, row, id, change }: Omit<FieldProps, 'n' | 'problem'> & { id: string }) {
  const value = valueAt(column, row);
  const words = cellWords(value);
  const typed = (
    <input
      id={id}
      key={words}
      className="form-control form-control-sm"
      defaultValue={words}
      inputMode={column.type === 'number' ? 'decimal' : undefined}
      onBlur={({ target }) => target.value !== words && change(target.value)}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      list={column.type === 'picture' ? 'data-pictures' : column.type === 'sound' ? 'data-sounds' : undefined}
    />
  );
  const to = tables.get(column.table ?? '');
  switch (column.type) {
    case 'choice':
      return (
        <select id={id} className="form-select form-select-sm" value={words} onChange={({ target }) => change(target.value)}>
          {!column.choices?.some((choice) => choice.id === words) && <option value={words}>{words}</option>}
          {column.choices?.map((choice) => (
            <option key={choice.id} value={choice.id}>
              {choice.label}
            </option>
          ))}
        </select>
      );
    case 'flags': {
      const on = value as readonly string[];
      return (
        <div>
          {column.choices?.map((choice) => (
            <label key={choice.id} className="d-block">
              <input
                type="checkbox"
                className="form-check-input me-1"
                checked={on.includes(choice.id)}
                onChange={({ target }) => change((target.checked ? [...on, choice.id] : on.filter((bit) => bit !== choice.id)).join('; '))}
              />
              {choice.label}
            </label>
          ))}
        </div>
      );
    }
    case 'reference':
      return to ? (
        <select id={id} className="form-select form-select-sm" value={words} onChange={({ target }) => change(target.value)}>
          <option value="">–</option>
          {words !== '' && !to.byKey.has(words) && <option value={words}>{words} (is not there)</option>}
          {to.document.rows.map((one) => (
            <option key={keyOf(to.table, one)} value={keyOf(to.table, one)}>
              {titleOf(to.table, one)}
            </option>
          ))}
        </select>
      ) : (
        typed
      );
    case 'rows': {
      const keys = value as readonly string[];
      if (!to) return typed;
      return (
        <ol className="list-unstyled mb-0">
          {keys.map((key, i) => (
            <li key={i} className="d-flex gap-1 mb-1">
              <select
                className="form-select form-select-sm"
                aria-label={`${column.label} ${i + 1}`}
                value={key}
                onChange={({ target }) => change(keys.map((one, k) => (k === i ? target.value : one)).join('; '))}
              >
                {!to.byKey.has(key) && <option value={key}>{key} (is not there)</option>}
                {to.document.rows.map((one) => (
                  <option key={keyOf(to.table, one)} value={keyOf(to.table, one)}>
                    {titleOf(to.table, one)}
                  </option>
                ))}
              </select>
              <button
                className="btn btn-quiet btn-sm"
                aria-label={`Take ${column.label} ${i + 1} out`}
                onClick={() => change(keys.filter((_, k) => k !== i).join('; '))}
              >
                <Icon name="x-lg" />
              </button>
            </li>
          ))}
          <li>
            <button
              className="btn btn-quiet btn-sm"
              disabled={to.document.rows.length === 0 || (column.most !== undefined && keys.length >= column.most)}
              onClick={() => change([...keys, keyOf(to.table, to.document.rows[0])].join('; '))}
            >
              <Icon name="plus-lg" /> {column.most === undefined ? 'Add' : `Add (${keys.length} of ${column.most})`}
            </button>
          </li>
        </ol>
      );
    }
    case 'formula': {
      const computed = tables.computed(table, row, column);
      return (
        <div>
          <strong>{'value' in computed ? Math.round(computed.value * 100) / 100 : '?'}</strong>{' '}
          <span className="faint formula-numbers">
            = {column.formula}
            {'problem' in computed ? `: ${computed.problem}` : ''}
          </span>
          <div className="faint formula-numbers">{numbersOf(tables, table, row, column.formula ?? '')}</div>
        </div>
      );
    }
    case 'picture':
    case 'sound': {
      const kind = column.type === 'picture' ? 'textures/' : 'sounds/';
      const paths = [...world.crate.files, ...world.base.files].map(({ path }) => path).filter((path) => path.startsWith(kind));
      return (
        <>
          {typed}
          <datalist id={column.type === 'picture' ? 'data-pictures' : 'data-sounds'}>
            {paths.map((path) => (
              <option key={path} value={path} />
            ))}
          </datalist>
        </>
      );
    }
    default:
      return typed;
  }
}

/** The numbers that a formula is made of, in this row. */
function numbersOf(tables: Tables, table: Table, row: TableDocument['rows'][number], formula: string): string {
  return namesIn(formula)
    .map((name) => {
      try {
        return `${name} ${tables.worth(table, row, `sum(${name})`)}`;
      } catch (error) {
        if (error instanceof FormulaProblem) return `${name} ?`;
        throw error;
      }
    })
    .join(', ');
}
