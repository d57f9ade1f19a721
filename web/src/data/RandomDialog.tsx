import { useMemo, useState } from 'react';
import { Modal } from 'react-bootstrap';
import type { TableDocument } from '@violet-crate/core/table/document';
import { FormulaProblem } from '@violet-crate/core/table/formula';
import { MOST_RANDOM, randomRows, type ColumnRule, type RandomRule } from '@violet-crate/core/table/randomRows';
import type { Table } from '@violet-crate/core/table/schema';
import type { Tables } from '@violet-crate/core/table/tables';
import { titleOf } from '@violet-crate/core/table/document';
import { plural } from '../common/format.ts';

interface Props {
  tables: Tables;
  table: Table;
  document: TableDocument;
  close(): void;
  take(next: TableDocument): void;
}

/** Rows at random: ranges of the numbers, and what formulas have to come to. */
export function RandomDialog({ tables, table, document, close, take }: Props) {
  const numbers = table.columns.filter(({ type }) => type === 'number');
  const formulas = table.columns.filter(({ type }) => type === 'formula');
  const [count, setCount] = useState(5);
  const [seed, setSeed] = useState(1);
  const [key, setKey] = useState(table.id.replace(/s$/, ''));
  const [rules, setRules] = useState<Record<string, ColumnRule>>({});
  const [bounds, setBounds] = useState<Record<string, { least: string; most: string }>>({});
  const made = useMemo(() => {
    const titled = table.title ? { [table.title]: { among: [] } } : {};
    const rule: RandomRule = {
      count: Math.max(1, Math.min(MOST_RANDOM, count)),
      seed,
      key,
      columns: { ...titled, ...rules },
      budgets: Object.entries(bounds).flatMap(([id, { least, most }]) =>
        least === '' && most === ''
          ? []
          : [{ formula: id, least: least === '' ? -Infinity : Number(least), most: most === '' ? Infinity : Number(most) }],
      ),
    };
    try {
      return randomRows(tables, table, document, rule);
    } catch (error) {
      if (error instanceof FormulaProblem) return { document, made: 0, problem: error.message };
      throw error;
    }
  }, [tables, table, document, count, seed, key, rules, bounds]);
  const field = (label: string, value: string | number, set: (text: string) => void, type = 'number') => (
    <label className="d-flex align-items-center gap-2">
      {label}
      <input
        className="form-control form-control-sm"
        style={{ width: '6rem' }}
        type={type}
        value={value}
        onChange={({ target }) => set(target.value)}
      />
    </label>
  );
  const shown = made.document.rows.slice(document.rows.length);
  return (
    <Modal show onHide={close} aria-labelledby="random-rows" scrollable size="lg">
      <Modal.Header closeButton>
        <h2 id="random-rows" className="m-0">
          Rows at random
        </h2>
      </Modal.Header>
      <Modal.Body>
        <div className="d-flex flex-wrap gap-3 mb-3">
          {field('How many', count, (text) => setCount(Math.round(Number(text)) || 1))}
          {field('Seed', seed, (text) => setSeed(Math.round(Number(text)) || 0))}
          {field('Keys begin with', key, setKey, 'text')}
        </div>
        <table className="table align-middle">
          <thead>
            <tr>
              <th>Column</th>
              <th>Least</th>
              <th>Most</th>
            </tr>
          </thead>
          <tbody>
            {numbers.map(({ id, label, least = 0, most = 100 }) => (
              <tr key={id}>
                <th scope="row">{label}</th>
                {(['least', 'most'] as const).map((end) => (
                  <td key={end}>
                    <input
                      className="form-control form-control-sm"
                      type="number"
                      aria-label={`${label}, ${end}`}
                      value={rules[id]?.[end] ?? (end === 'least' ? least : most)}
                      onChange={({ target }) => setRules({ ...rules, [id]: { ...rules[id], [end]: Number(target.value) } })}
                    />
                  </td>
                ))}
              </tr>
            ))}
            {formulas.map(({ id, label }) => (
              <tr key={id}>
                <th scope="row">
                  {label} <span className="faint">has to come to</span>
                </th>
                {(['least', 'most'] as const).map((end) => (
                  <td key={end}>
                    <input
                      className="form-control form-control-sm"
                      type="number"
                      aria-label={`${label}, ${end}`}
                      placeholder="any"
                      value={bounds[id]?.[end] ?? ''}
                      onChange={({ target }) => setBounds({ ...bounds, [id]: { ...(bounds[id] ?? { least: '', most: '' }), [end]: target.value } })}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {made.problem && (
          <p className="severity warning text-wrap" role="alert">
            {made.problem}
          </p>
        )}
        <p className="mb-1">{plural(made.made, 'row')} as they would be:</p>
        <ul className="small">
          {shown.slice(0, 12).map((row, i) => (
            <li key={i}>
              {titleOf(table, row)}: {numbers.map(({ id, label }) => `${label} ${String(row[id])}`).join(', ')}
            </li>
          ))}
        </ul>
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          Leave it
        </button>
        <button className="btn btn-primary" disabled={made.made === 0} onClick={() => take(made.document)}>
          Add {plural(made.made, 'row')}
        </button>
      </Modal.Footer>
    </Modal>
  );
}
