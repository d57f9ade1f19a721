import { useState } from 'react';
import { Modal } from 'react-bootstrap';
import { cellWords } from '@violet-crate/core/table/cell';
import { titleOf, valueAt, type TableDocument } from '@violet-crate/core/table/document';
import type { Table } from '@violet-crate/core/table/schema';
import type { Tables } from '@violet-crate/core/table/tables';

interface Props {
  tables: Tables;
  table: Table;
  document: TableDocument;
  n: number;
  close(): void;
}

/** Two rows beside each other; what differs is marked by a word, too. */
export function CompareDialog({ tables, table, document, n, close }: Props) {
  const [a, setA] = useState(n);
  const [b, setB] = useState(n === 0 ? 1 : 0);
  const words = (row: number, id: string) => {
    const column = table.columns.find((one) => one.id === id)!;
    if (column.type !== 'formula') return cellWords(valueAt(column, document.rows[row]));
    const computed = tables.computed(table, document.rows[row], column);
    return 'value' in computed ? String(Math.round(computed.value * 100) / 100) : '?';
  };
  const pick = (label: string, value: number, set: (to: number) => void) => (
    <select className="form-select form-select-sm" aria-label={label} value={value} onChange={({ target }) => set(Number(target.value))}>
      {document.rows.map((row, i) => (
        <option key={i} value={i}>
          {titleOf(table, row) || `Row ${i + 1}`}
        </option>
      ))}
    </select>
  );
  return (
    <Modal show onHide={close} aria-labelledby="compare-rows" scrollable>
      <Modal.Header closeButton>
        <h2 id="compare-rows" className="m-0">
          Compare two rows
        </h2>
      </Modal.Header>
      <Modal.Body>
        <table className="table align-middle">
          <thead>
            <tr>
              <th />
              <th>{pick('First row', a, setA)}</th>
              <th>{pick('Second row', b, setB)}</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {table.columns.map(({ id, label }) => {
              const [one, two] = [words(a, id), words(b, id)];
              const by = Number(two) - Number(one);
              return (
                <tr key={id}>
                  <th scope="row">{label}</th>
                  <td>{one}</td>
                  <td>{two}</td>
                  <td className="faint small">
                    {one === two
                      ? ''
                      : Number.isFinite(by) && one !== '' && two !== ''
                        ? `${by > 0 ? '+' : ''}${Math.round(by * 100) / 100}`
                        : 'other'}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Modal.Body>
    </Modal>
  );
}
