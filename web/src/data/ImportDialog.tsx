import { useMemo } from 'react';
import { Modal } from 'react-bootstrap';
import type { TableDocument } from '@violet-crate/core/table/document';
import { planImport, type ImportPlan } from '@violet-crate/core/table/exchange';
import type { Table } from '@violet-crate/core/table/schema';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { plural } from '../common/format.ts';

interface Props {
  table: Table;
  document: TableDocument;
  file: { name: string; text: string };
  close(): void;
  take(next: TableDocument): void;
}

const SHOWN = 200;

/** What a file would change of a table, before it does. */
export function ImportDialog({ table, document, file, close, take }: Props) {
  const plan = useMemo((): ImportPlan | string => {
    try {
      return planImport(table, document, file.text, file.name);
    } catch (error) {
      if (error instanceof UnreadableInput) return `${error.message} ${error.hint ?? ''}`;
      throw error;
    }
  }, [table, document, file]);
  const nothing = typeof plan !== 'string' && plan.added.length === 0 && plan.changed.length === 0;
  return (
    <Modal show onHide={close} aria-labelledby="import-rows" scrollable size="lg">
      <Modal.Header closeButton>
        <h2 id="import-rows" className="m-0">
          Rows from {file.name}
        </h2>
      </Modal.Header>
      <Modal.Body>
        {typeof plan === 'string' ? (
          <p className="severity blocker text-wrap mb-0" role="alert">
            {plan}
          </p>
        ) : (
          <>
            <p>
              {plural(plan.added.length, 'row')} would come, {plural(plan.changed.length, 'value')} would change, {plural(plan.missing.length, 'row')}{' '}
              of the table {plan.missing.length === 1 ? 'is' : 'are'} not in the file and would stay.
            </p>
            {plan.problems.length > 0 && (
              <ul className="severity warning text-wrap">
                {plan.problems.slice(0, 20).map((problem) => (
                  <li key={problem}>{problem}</li>
                ))}
                {plan.problems.length > 20 && <li>And {plan.problems.length - 20} more.</li>}
              </ul>
            )}
            {plan.added.length > 0 && (
              <p>
                New: {plan.added.slice(0, 30).join(', ')}
                {plan.added.length > 30 ? ` and ${plan.added.length - 30} more` : ''}.
              </p>
            )}
            {plan.changed.length > 0 && (
              <table className="table">
                <thead>
                  <tr>
                    <th>Row</th>
                    <th>Column</th>
                    <th>Before</th>
                    <th>After</th>
                  </tr>
                </thead>
                <tbody>
                  {plan.changed.slice(0, SHOWN).map(({ key, column, from, to }) => (
                    <tr key={`${key} ${column}`}>
                      <td>{key}</td>
                      <td>{column}</td>
                      <td>{from}</td>
                      <td>{to}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          Leave it
        </button>
        {typeof plan !== 'string' && (
          <button className="btn btn-primary" disabled={nothing} onClick={() => take(plan.document)}>
            Take them
          </button>
        )}
      </Modal.Footer>
    </Modal>
  );
}
