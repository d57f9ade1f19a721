import { useMemo, useState } from 'react';
import type { Claim, CrateManifest } from '@violet-crate/core/crate/manifest';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { ledgerOf, type LedgerRow } from '@violet-crate/core/release/ledger';
import { readLicence } from '@violet-crate/core/release/licence/expression';
import { message, sendJson } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { manifestChanged, refreshPackages } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';

const BY: Record<LedgerRow['by'], [icon: string, words: string]> = {
  hand: ['pencil', 'entered by hand'],
  pack: ['box2', 'by the pack that it came with'],
  file: ['file-earmark-text', 'by the file itself'],
  own: ['person', 'the crate’s own'],
};

/** Whose work every file is that travels; what nobody has said is entered here. */
export function LedgerTable({ crateId }: { crateId: string }) {
  const dispatch = useAppDispatch();
  const world = useAppSelector(selectWorld);
  const ledger = useMemo(() => (world ? ledgerOf(world, new LinkGraph(world)) : []), [world]);
  const [open, setOpen] = useState<{ path: string; claim: Required<Claim> } | null>(null);
  const [only, setOnly] = useState(true);
  const [problem, setProblem] = useState('');
  if (!world) return null;
  const foreign = ledger.filter(({ by }) => by !== 'own');
  const shown = only ? foreign : ledger;
  const save = async (path: string, claim: Claim | null) => {
    const { [path]: _, ...rest } = world.crate.manifest.ledger ?? {};
    try {
      const next = claim ? { ...rest, [path]: claim } : rest;
      dispatch(manifestChanged(await sendJson<CrateManifest>('PATCH', `/api/crates/${crateId}`, { ledger: next })));
      await dispatch(refreshPackages(crateId));
      setOpen(null);
      setProblem('');
    } catch (error) {
      setProblem(message(error));
    }
  };
  return (
    <section className="panel mt-3" aria-label="Whose work the files are">
      <header>
        <h2>Whose work the files are</h2>
        <label className="form-check m-0">
          <input type="checkbox" className="form-check-input" checked={!only} onChange={(event) => setOnly(!event.target.checked)} /> also our own
        </label>
      </header>
      {shown.length === 0 ? (
        <p className="body faint mb-0">All {ledger.length} files that travel are the crate’s own. Say here where one is not.</p>
      ) : (
        <div className="ledger">
          <table className="table mb-0 align-middle">
            <thead>
              <tr>
                <th>File</th>
                <th>Author</th>
                <th>Licence</th>
                <th>Known by</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {shown.map((row) => (
                <tr key={row.path} data-file={row.path}>
                  <td className="mono">{row.path}</td>
                  <td>{row.author || <span className="severity warning">nobody named</span>}</td>
                  <td>
                    {row.licence ? (
                      <span className={readLicence(row.licence) ? 'mono' : 'severity warning'}>{row.licence}</span>
                    ) : (
                      <span className="severity blocker">none</span>
                    )}
                  </td>
                  <td className="faint text-nowrap">
                    <Icon name={BY[row.by][0]} /> {BY[row.by][1]}
                  </td>
                  <td className="text-end">
                    <button
                      className="btn btn-quiet btn-sm py-0"
                      aria-label={`Change whose work ${row.path} is`}
                      onClick={() =>
                        setOpen({ path: row.path, claim: { author: row.author, work: row.work, source: row.source, licence: row.licence } })
                      }
                    >
                      Change
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {only && ledger.length > foreign.length && foreign.length > 0 && (
        <p className="px-3 py-1 mb-0 faint">{ledger.length - foreign.length} more are the crate’s own.</p>
      )}
      {problem && (
        <p className="severity blocker text-wrap px-3" role="alert">
          {problem}
        </p>
      )}
      {open && (
        <form
          className="body claim"
          aria-label={`Whose work ${open.path} is`}
          onSubmit={(event) => {
            event.preventDefault();
            void save(open.path, open.claim);
          }}
        >
          <strong className="mono">{open.path}</strong>
          {(['author', 'work', 'source', 'licence'] as const).map((part) => (
            <label key={part}>
              {part[0].toUpperCase() + part.slice(1)}
              <input
                className="form-control form-control-sm"
                value={open.claim[part]}
                list={part === 'licence' ? 'licences' : undefined}
                onChange={(event) => setOpen({ ...open, claim: { ...open.claim, [part]: event.target.value } })}
              />
            </label>
          ))}
          <button className="btn btn-primary btn-sm">Save</button>
          <button type="button" className="btn btn-quiet btn-sm" onClick={() => setOpen(null)}>
            Cancel
          </button>
          {world.crate.manifest.ledger?.[open.path] && (
            <button type="button" className="btn btn-quiet btn-sm" onClick={() => void save(open.path, null)}>
              Forget what was entered
            </button>
          )}
        </form>
      )}
    </section>
  );
}
