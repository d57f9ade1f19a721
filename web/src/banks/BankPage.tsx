import { useEffect, useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { Modal } from 'react-bootstrap';
import { addRow, removeRow, rowsAt } from '@violet-crate/core/bank/edit';
import type { BankEntry, BankReport } from '@violet-crate/core/bank/views';
import { getJson, message } from '../api/http.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { RecordTable } from '../records/RecordTable.tsx';
import { refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { columnsOf, rowsShown } from './bankColumns.ts';
import { BankStrip } from './BankStrip.tsx';
import { HexView } from './HexView.tsx';
import { applied, RowPanel } from './RowPanel.tsx';
import { useBank } from './useBank.ts';
import './banks.css';

/** Binary banks of the game: their rows as tables, what lies where, and what the crate changes. */
export function BankPage() {
  const view = useAppSelector((s) => s.crate.view);
  const [banks, setBanks] = useState<BankEntry[] | null>(null);
  const [problem, setProblem] = useState('');
  const crateId = view?.id;
  useEffect(() => {
    if (!crateId) return;
    getJson<BankEntry[]>(`/api/crates/${crateId}/banks`)
      .then(setBanks)
      .catch((error) => setProblem(message(error)));
  }, [crateId]);
  if (!view) return null;
  if (problem) return <Trouble>{problem}</Trouble>;
  if (!banks) return <Busy what="Looking for banks" />;
  if (banks.length === 0)
    return (
      <div className="page">
        <h1>Game banks</h1>
        <p className="faint">The profile of this game describes no binary banks. docs/banks.md says how one is described.</p>
      </div>
    );
  return <Bank key={`${view.id} ${banks[0].id}`} crateId={view.id} entry={banks[0]} />;
}

function Bank({ crateId, entry }: { crateId: string; entry: BankEntry }) {
  const dispatch = useAppDispatch();
  const [address, setAddress] = useSearchParams();
  const bank = useBank(crateId, entry.id);
  const [query, setQuery] = useState('');
  const [row, setRow] = useState(0);
  const [byte, setByte] = useState<number | null>(null);
  const [report, setReport] = useState<{ report: BankReport; done: boolean } | null>(null);
  const [trouble, setTrouble] = useState('');
  const [busy, setBusy] = useState(false);
  const { view, document } = bank;
  const shown = address.get('view') ?? view?.layout.sections[0].name ?? '';
  const layout = view?.layout;
  const section = layout?.sections.find(({ name }) => name === shown);
  const columns = useMemo(() => (layout && document && section ? columnsOf(layout, document, section.record) : []), [layout, document, section]);
  const rows = useMemo(
    () => (document && section ? rowsShown(document, columns, document.sections[section.name]) : []),
    [document, section, columns],
  );
  if (bank.problem) return <Trouble>{bank.problem}</Trouble>;
  if (!view || !layout || !document) return <Busy what="Reading the bank" />;
  const readOnly = view.version === null;
  const go = (next: string) => setAddress({ view: next }, { replace: true });
  const work = async (what: () => Promise<{ report: BankReport; done: boolean } | null>) => {
    setBusy(true);
    setTrouble('');
    try {
      setReport(await what());
    } catch (error) {
      setReport(null);
      setTrouble(message(error));
    }
    setBusy(false);
  };
  const chosen = Math.min(row, rows.length - 1);
  return (
    <div
      className="bank"
      onKeyDown={(event) => {
        if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || (event.target as HTMLElement).tagName === 'INPUT') return;
        event.preventDefault();
        if (event.shiftKey) bank.redo();
        else bank.undo();
      }}
    >
      <header className="bank-bar">
        <h1>{view.title}</h1>
        <span className="faint">
          {view.file}, {bytes(view.bytes)}, version {view.version ?? 'not known: it can be looked at, and not changed'}
        </span>
        <span className={`stamp ${view.changed ? 'stale' : 'clear'}`}>
          <Icon name={view.changed ? 'pencil-square' : 'check-circle'} />{' '}
          {view.changed ? plural(view.differences.length, 'difference') : 'as in the game'}
        </span>
        <div className="ms-auto d-flex gap-2">
          <button className="btn btn-quiet btn-sm" disabled={!bank.canUndo} onClick={bank.undo} aria-label="Undo" title="Undo (Ctrl+Z)">
            <Icon name="arrow-counterclockwise" />
          </button>
          <button className="btn btn-quiet btn-sm" disabled={!bank.canRedo} onClick={bank.redo} aria-label="Redo" title="Redo (Ctrl+Shift+Z)">
            <Icon name="arrow-clockwise" />
          </button>
          <button
            className="btn btn-primary btn-sm"
            disabled={!bank.changed || busy || readOnly}
            onClick={() => void work(async () => ({ report: await bank.plan(), done: false }))}
          >
            <Icon name="save" /> Write …
          </button>
        </div>
      </header>
      <div className="bank-bar">
        <div className="btn-group" role="group" aria-label="What is shown of the bank">
          {[
            ...layout.sections.map(({ name, title }) => [name, `${title ?? name} ${document.sections[name].length}`] as const),
            ['map', 'What lies where'] as const,
            ['bytes', 'Bytes'] as const,
            ['changes', `Changes ${view.differences.length}`] as const,
          ].map(([name, words]) => (
            <button
              key={name}
              className={`btn btn-quiet btn-sm ${shown === name ? 'active' : ''}`}
              aria-pressed={shown === name}
              onClick={() => go(name)}
            >
              {words}
            </button>
          ))}
        </div>
        {section && (
          <>
            <input
              className="form-control form-control-sm bank-search"
              placeholder="Search"
              aria-label="Search rows"
              value={query}
              onChange={(event) => setQuery(event.target.value)}
            />
            {typeof section.count !== 'number' && !readOnly && (
              <>
                <button className="btn btn-quiet btn-sm" onClick={() => bank.change(addRow(layout, document, [section.name], chosen))}>
                  <Icon name="plus-lg" /> Row like this
                </button>
                <button
                  className="btn btn-quiet btn-sm"
                  disabled={rows.length === 0}
                  onClick={() => bank.change(removeRow(layout, document, [section.name], chosen))}
                >
                  <Icon name="trash" /> Remove row
                </button>
              </>
            )}
          </>
        )}
        {shown === 'changes' && view.changed && (
          <button className="btn btn-quiet btn-sm" onClick={() => void bank.reset().then(() => dispatch(refreshFiles(crateId)))}>
            <Icon name="arrow-counterclockwise" /> Back to the game’s own
          </button>
        )}
      </div>
      {trouble && (
        <div className="severity blocker text-wrap" role="alert">
          {trouble}
        </div>
      )}
      <div className={`bank-main ${section ? 'with-row' : ''}`}>
        {section && (
          <>
            <RecordTable
              label={section.title ?? section.name}
              columns={columns}
              rows={rows}
              query={query}
              chosen={chosen}
              choose={setRow}
              change={(changes) => !readOnly && bank.change(applied(layout, document, [section.name], changes))}
            />
            {rows.length > 0 && rowsAt(layout, document, [section.name]).rows[chosen] && (
              <RowPanel {...{ layout, document, readOnly }} section={section.name} n={chosen} change={bank.change} />
            )}
          </>
        )}
        {shown === 'map' && (
          <BankStrip
            pieces={view.pieces}
            size={view.bytes}
            chosen={byte}
            choose={({ from, section: of }) => {
              setByte(from);
              if (of) setRow(0);
            }}
          />
        )}
        {shown === 'bytes' && <HexView crateId={crateId} bank={view.id} pieces={view.pieces} chosen={byte} choose={({ from }) => setByte(from)} />}
        {shown === 'changes' && <Changes differences={view.differences} />}
      </div>
      {report && (
        <ReportDialog
          {...report}
          busy={busy}
          close={() => setReport(null)}
          write={() =>
            void work(async () => {
              const made = await bank.write();
              await dispatch(refreshFiles(crateId));
              return { report: made, done: true };
            })
          }
        />
      )}
    </div>
  );
}

function Changes({ differences }: { differences: BankReport['differences'] }) {
  if (differences.length === 0) return <p className="faint p-2">The crate changes nothing of this bank yet.</p>;
  return (
    <table className="table panel align-middle">
      <thead>
        <tr>
          <th>Where</th>
          <th>Before</th>
          <th>After</th>
        </tr>
      </thead>
      <tbody>
        {differences.slice(0, 1000).map(({ where, before, after }) => (
          <tr key={where}>
            <td>{where}</td>
            <td>{before ?? <span className="faint">was not there</span>}</td>
            <td>{after ?? <span className="faint">is gone</span>}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface ReportProps {
  report: BankReport;
  done: boolean;
  busy: boolean;
  close(): void;
  write(): void;
}

/** What writing does, before it is done and after: moved things, pointers, room. */
function ReportDialog({ report: { moved, pointers, freed, checksums, differences }, done, busy, close, write }: ReportProps) {
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
                  {what}: {size} bytes at <span className="mono">{to}</span>
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
