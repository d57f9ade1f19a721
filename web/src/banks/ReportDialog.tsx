import { Modal } from 'react-bootstrap';
import type { BankReport } from '@violet-crate/core/bank/views';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { Changes } from './Changes.tsx';

interface ReportProps {
  report: BankReport;
  done: boolean;
  busy: boolean;
  /** Another place for something that is moved. */
  place(id: string, at: number): void;
  close(): void;
  write(): void;
}

/** What writing does, before it is done and after: moved things, pointers, room. */
export function ReportDialog({ report: { moved, pointers, freed, checksums, differences }, done, busy, place, close, write }: ReportProps) {
  return (
    <Modal show onHide={close} aria-labelledby="bank-report" scrollable size="lg">
      <Modal.Header closeButton>
        <h2 id="bank-report" className="m-0">
          {done ? 'Written' : 'Write the bank'}
        </h2>
      </Modal.Header>
      <Modal.Body>
        <p className="mb-2">
          {done
            ? 'The crate keeps a patch against your own original, which is as it was. A game that is started with the crate gets a copy beside it.'
            : 'The original in the install is not touched: the crate keeps a patch against it.'}
        </p>
        <h3>{plural(differences.length, 'difference')}</h3>
        <Changes differences={differences.slice(0, 100)} />
        {moved.length > 0 && (
          <>
            <h3>{plural(moved.length, 'thing')} moved to free room</h3>
            <ul>
              {moved.map(({ id, what, from, to, bytes: size }) => (
                <li key={id}>
                  {what}: {size} bytes at{' '}
                  {done ? (
                    <span className="mono">{to}</span>
                  ) : (
                    <input
                      key={to}
                      className="bank-place mono"
                      aria-label={`Byte that ${what} is to lie at`}
                      defaultValue={to}
                      inputMode="numeric"
                      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
                      onBlur={({ target }) => /^\d+$/.test(target.value) && Number(target.value) !== to && place(id, Number(target.value))}
                    />
                  )}
                  {from === null ? ', new' : `, before at ${from}`}
                </li>
              ))}
            </ul>
          </>
        )}
        {pointers.length > 0 && (
          <>
            <h3>{plural(pointers.length, 'pointer')} changed</h3>
            <ul>
              {pointers.map(({ at, what, from, to }) => (
                <li key={at}>
                  {what}, at <span className="mono">{at}</span>: {from ?? 'nowhere'} → {to ?? 'nowhere'}
                </li>
              ))}
            </ul>
          </>
        )}
        <p className="faint mb-0">
          {freed.reduce((sum, { from, to }) => sum + to - from, 0)} bytes became free;{' '}
          {checksums.length === 0 ? 'no checksum is another one' : checksums.map(({ kind }) => kind).join(', ') + ' made anew'}.
        </p>
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          {done ? 'Close' : 'Not yet'}
        </button>
        {!done && (
          <button className="btn btn-primary" disabled={busy} onClick={write}>
            <Icon name="save" /> Write it
          </button>
        )}
      </Modal.Footer>
    </Modal>
  );
}
