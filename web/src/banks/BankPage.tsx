import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { useSearchParams, type Location } from 'react-router';
import { Dropdown } from 'react-bootstrap';
import { rowOfPiece } from '@violet-crate/core/bank/bankMap';
import { copyRow } from '@violet-crate/core/bank/copyRow';
import { bankDocument, type BankDocument } from '@violet-crate/core/bank/document';
import { comparable, differences, type Difference } from '@violet-crate/core/bank/differences';
import { readBank } from '@violet-crate/core/bank/read';
import { addRow, removeRow, rowsAt } from '@violet-crate/core/bank/edit';
import type { BankEntry, BankReport } from '@violet-crate/core/bank/views';
import { getJson, message } from '../api/http.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { LeaveGuard } from '../common/LeaveGuard.tsx';
import { saveFile } from '../common/saveFile.ts';
import { RecordTable } from '../records/RecordTable.tsx';
import { refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { columnsOf, rowsShown } from './bankColumns.ts';
import { BankStrip } from './BankStrip.tsx';
import { Changes } from './Changes.tsx';
import { ReportDialog } from './ReportDialog.tsx';
import { HexView } from './HexView.tsx';
import { applied, RowPanel } from './RowPanel.tsx';
import { sectionCsv, withCsv } from './sectionCsv.ts';
import { CopyDialog } from './CopyDialog.tsx';
import { useBank } from './useBank.ts';
import './banks.css';

/** Binary banks of the game: their rows as tables, what lies where, and what the crate changes. */
export function BankPage() {
  const view = useAppSelector((s) => s.crate.view);
  const [banks, setBanks] = useState<BankEntry[] | null>(null);
  const [problem, setProblem] = useState('');
  const [address, setAddress] = useSearchParams();
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
  const entry = banks.find(({ id }) => id === address.get('bank')) ?? banks[0];
  return (
    <Bank key={`${view.id} ${entry.id}`} crateId={view.id} entry={entry}>
      {banks.length > 1 && (
        <select
          className="form-select form-select-sm w-auto"
          aria-label="Bank"
          value={entry.id}
          onChange={({ target }) => setAddress({ bank: target.value })}
        >
          {banks.map(({ id, title }) => (
            <option key={id} value={id}>
              {title}
            </option>
          ))}
        </select>
      )}
    </Bank>
  );
}

const sameBank = (from: Location, to: Location): boolean =>
  from.pathname === to.pathname && new URLSearchParams(from.search).get('bank') === new URLSearchParams(to.search).get('bank');

function Bank({ crateId, entry, children }: { crateId: string; entry: BankEntry; children: ReactNode }) {
  const dispatch = useAppDispatch();
  const [address, setAddress] = useSearchParams();
  const bank = useBank(crateId, entry.id);
  const [query, setQuery] = useState('');
  const [row, setRow] = useState(0);
  const [byte, setByte] = useState<number | null>(null);
  const [report, setReport] = useState<{ report: BankReport; done: boolean } | null>(null);
  const [places, setPlaces] = useState<Record<string, number>>({});
  const [other, setOther] = useState<BankDocument | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const csv = useRef<HTMLInputElement>(null);
  const second = useRef<HTMLInputElement>(null);
  const [compared, setCompared] = useState<{ name: string; found: Difference[] } | null>(null);
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
  const go = (next: string) => setAddress({ ...Object.fromEntries(address), view: next }, { replace: true });
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
  const piece = byte === null ? undefined : view.pieces.find(({ from, to }) => byte >= from && byte < to);
  const home = piece && rowOfPiece(layout, piece);
  const plan = (chosenPlaces: Record<string, number>) => {
    setPlaces(chosenPlaces);
    return work(async () => ({ report: await bank.plan(chosenPlaces), done: false }));
  };
  /** Another bank of the same layout, read here. */
  const openOther = (chosenFile: File) =>
    work(async () => {
      setOther(bankDocument(layout, readBank(new Uint8Array(await chosenFile.arrayBuffer()), layout).data));
      return null;
    });
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
      <LeaveGuard when={bank.changed} what="What you changed in this bank is not written to the crate yet." stays={sameBank} />
      <header className="bank-bar">
        <h1>{view.title}</h1>
        {children}
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
          <button className="btn btn-primary btn-sm" disabled={!bank.changed || busy || readOnly} onClick={() => void plan({})}>
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
            <Dropdown>
              <Dropdown.Toggle variant="quiet" size="sm">
                CSV
              </Dropdown.Toggle>
              <Dropdown.Menu>
                <Dropdown.Item
                  as="button"
                  onClick={() => saveFile(`${section.name}.csv`, new Blob([sectionCsv(layout, document, section.name)], { type: 'text/csv' }))}
                >
                  Save these rows
                </Dropdown.Item>
                <Dropdown.Item as="button" disabled={readOnly} onClick={() => csv.current?.click()}>
                  Take values from a file …
                </Dropdown.Item>
              </Dropdown.Menu>
            </Dropdown>
            <input
              ref={csv}
              type="file"
              hidden
              accept=".csv,.tsv,.txt"
              aria-label="Values from a CSV file"
              onChange={({ target }) => {
                const chosenFile = target.files?.[0];
                target.value = '';
                if (chosenFile)
                  void work(async () => {
                    bank.change(withCsv(layout, document, section.name, await chosenFile.text(), chosenFile.name));
                    return null;
                  });
              }}
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
                <button className="btn btn-quiet btn-sm" onClick={() => file.current?.click()} title="Copy a row from another bank of this game">
                  <Icon name="files" /> From another …
                </button>
                <input
                  ref={file}
                  type="file"
                  hidden
                  aria-label="Another bank"
                  onChange={({ target }) => {
                    const chosenFile = target.files?.[0];
                    target.value = '';
                    if (chosenFile) void openOther(chosenFile);
                  }}
                />
              </>
            )}
          </>
        )}
        {shown === 'changes' && (
          <button className="btn btn-quiet btn-sm" onClick={() => second.current?.click()} title="Differences from another bank of this game">
            <Icon name="layout-split" /> Compare with another …
          </button>
        )}
        <input
          ref={second}
          type="file"
          hidden
          aria-label="Bank to compare with"
          onChange={({ target }) => {
            const chosenFile = target.files?.[0];
            target.value = '';
            if (chosenFile)
              void work(async () => {
                const { data } = readBank(new Uint8Array(await chosenFile.arrayBuffer()), layout);
                setCompared({ name: chosenFile.name, found: differences(layout, comparable(document), data) });
                return null;
              });
          }}
        />
        {shown === 'changes' && compared && (
          <button className="btn btn-quiet btn-sm" onClick={() => setCompared(null)}>
            <Icon name="x-lg" /> No longer with {compared.name}
          </button>
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
      {piece && (shown === 'map' || shown === 'bytes') && (
        <p className="mb-0" role="status" id="byte-told">
          {piece.what}: {bytes(piece.to - piece.from)} from byte <span className="mono">{piece.from}</span> on
          {shown === 'bytes' && (
            <>
              ; chosen is byte <span className="mono">{byte}</span>
              {!readOnly && ', which two digits (0 to f) set'}
            </>
          )}{' '}
          {home && (
            <button
              className="btn btn-quiet btn-sm py-0"
              onClick={() => {
                setRow(home.n);
                go(home.section);
              }}
            >
              Show the row
            </button>
          )}{' '}
          {shown === 'map' && (
            <button className="btn btn-quiet btn-sm py-0" onClick={() => go('bytes')}>
              Show the bytes
            </button>
          )}
        </p>
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
        {shown === 'map' && <BankStrip pieces={view.pieces} size={view.bytes} chosen={byte} choose={({ from }) => setByte(from)} />}
        {shown === 'bytes' && (
          <HexView
            {...{ crateId, layout, document, readOnly }}
            bank={view.id}
            pieces={view.pieces}
            chosen={byte}
            choose={setByte}
            change={bank.change}
            refused={setTrouble}
          />
        )}
        {shown === 'changes' &&
          (compared ? (
            <Changes differences={compared.found} none={`Nothing is different in ${compared.name}.`} />
          ) : (
            <Changes differences={view.differences} />
          ))}
      </div>
      {other && section && (
        <CopyDialog
          layout={layout}
          other={other}
          section={section.name}
          close={() => setOther(null)}
          copy={(n) => {
            setOther(null);
            try {
              bank.change(copyRow(layout, other, document, section.name, n));
              setRow(document.sections[section.name].length);
              setTrouble('');
            } catch (error) {
              setTrouble(message(error));
            }
          }}
        />
      )}
      {report && (
        <ReportDialog
          {...report}
          busy={busy}
          place={(id, at) => void plan({ ...places, [id]: at })}
          close={() => setReport(null)}
          write={() =>
            void work(async () => {
              const made = await bank.write(places);
              await dispatch(refreshFiles(crateId));
              return { report: made, done: true };
            })
          }
        />
      )}
    </div>
  );
}
