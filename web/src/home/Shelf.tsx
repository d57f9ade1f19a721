import { useMemo, useState } from 'react';
import { message, remove, sendJson } from '../api/http.ts';
import type { CrateEntry, Game } from '../api/types.ts';
import { time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { CrateCard, type CrateAction } from './CrateCard.tsx';
import { NameCrate } from './NameCrate.tsx';

const ORDERS = {
  changed: { label: 'last changed', compare: (a: CrateEntry, b: CrateEntry) => (a.updatedAt < b.updatedAt ? 1 : -1) },
  title: { label: 'title', compare: (a: CrateEntry, b: CrateEntry) => a.manifest.title.localeCompare(b.manifest.title) },
  size: { label: 'size', compare: (a: CrateEntry, b: CrateEntry) => b.bytes - a.bytes },
};
type Order = keyof typeof ORDERS;

/** All crates: searched, sorted, copied, renamed, put away, deleted and had back. */
export function Shelf({ crates, games, onChange }: { crates: readonly CrateEntry[]; games: readonly Game[]; onChange(): void }) {
  const [wanted, setWanted] = useState('');
  const [order, setOrder] = useState<Order>('title');
  const [asking, setAsking] = useState<{ action: 'copy' | 'rename'; crate: CrateEntry } | null>(null);
  const [problem, setProblem] = useState('');
  const gameOf = (crate: CrateEntry) => games.find((game) => game.profile.id === crate.manifest.profile)?.profile;
  const shown = useMemo(() => {
    const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
    const fits = ({ manifest }: CrateEntry) => {
      const text = `${manifest.title} ${manifest.name} ${manifest.description} ${manifest.profile}`.toLowerCase();
      return words.every((word) => text.includes(word));
    };
    return crates
      .filter((crate) => !crate.deletedAt && fits(crate))
      .sort((a, b) => Number(a.archived) - Number(b.archived) || ORDERS[order].compare(a, b));
  }, [crates, wanted, order]);
  const deleted = crates.filter((crate) => crate.deletedAt);
  const attempt = (work: Promise<unknown>) =>
    work.then(() => {
      setProblem('');
      onChange();
    });
  const tell = (work: Promise<unknown>) => void attempt(work).catch((error) => setProblem(message(error)));
  const act = (crate: CrateEntry, action: CrateAction) => {
    if (action === 'copy' || action === 'rename') setAsking({ action, crate });
    else if (action === 'archive') tell(sendJson('PUT', `/api/crates/${crate.id}/archived`, { archived: !crate.archived }));
    else tell(remove(`/api/crates/${crate.id}`));
  };
  const taken = crates.filter((crate) => !crate.deletedAt).map((crate) => crate.manifest.name);
  const profile = asking && gameOf(asking.crate);
  return (
    <>
      {crates.length > 1 && (
        <div className="d-flex gap-2 mb-2">
          <input
            className="form-control"
            type="search"
            placeholder="Search crates"
            aria-label="Search crates"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
          <select
            className="form-select w-auto"
            aria-label="Order of the crates"
            value={order}
            onChange={(event) => setOrder(event.target.value as Order)}
          >
            {Object.entries(ORDERS).map(([id, { label }]) => (
              <option key={id} value={id}>
                by {label}
              </option>
            ))}
          </select>
        </div>
      )}
      {problem && (
        <div className="severity blocker text-wrap mb-2" role="alert">
          {problem}
        </div>
      )}
      {crates.length > 0 && shown.length === 0 && wanted !== '' && <p className="faint">No crate has all of these words.</p>}
      <div className="row g-3 mb-4">
        {shown.map((crate) => (
          <div className={`col-md-6 col-xl-4 ${crate.archived ? 'put-away' : ''}`} key={crate.id}>
            <CrateCard crate={crate} game={gameOf(crate)?.title ?? crate.manifest.profile} act={(action) => act(crate, action)} />
          </div>
        ))}
      </div>
      {deleted.length > 0 && (
        <section className="panel mb-4" aria-label="Deleted crates">
          <header>
            <h2>Deleted, kept for 30 days</h2>
          </header>
          <div className="body">
            {deleted.map((crate) => (
              <div key={crate.id} className="d-flex gap-2 align-items-center mb-1">
                <span className="flex-grow-1">
                  {crate.manifest.title} <span className="faint small">deleted {time(crate.deletedAt!)}</span>
                </span>
                <button className="btn btn-quiet btn-sm" onClick={() => tell(sendJson('POST', `/api/crates/deleted/${crate.id}/restore`, {}))}>
                  <Icon name="arrow-counterclockwise" /> Have it back
                </button>
                <button
                  className="btn btn-quiet btn-sm"
                  onClick={() =>
                    window.confirm(`Take "${crate.manifest.title}" away for good? This cannot be undone.`) &&
                    tell(remove(`/api/crates/deleted/${crate.id}`))
                  }
                >
                  <Icon name="trash" /> For good
                </button>
              </div>
            ))}
          </div>
        </section>
      )}
      {asking && profile && (
        <NameCrate
          heading={asking.action === 'copy' ? `Copy of ${asking.crate.manifest.title}` : `Rename ${asking.crate.manifest.title}`}
          take={asking.action === 'copy' ? 'Make the copy' : 'Rename'}
          profile={profile}
          name={asking.action === 'copy' ? `${asking.crate.manifest.name}_2` : asking.crate.manifest.name}
          title={asking.action === 'copy' ? `${asking.crate.manifest.title} 2` : asking.crate.manifest.title}
          taken={asking.action === 'copy' ? taken : taken.filter((one) => one !== asking.crate.manifest.name)}
          close={() => setAsking(null)}
          submit={(name, title) =>
            attempt(
              asking.action === 'copy'
                ? sendJson('POST', `/api/crates/${asking.crate.id}/copy`, { name, title })
                : sendJson('PUT', `/api/crates/${asking.crate.id}/name`, { name, title }),
            )
          }
        />
      )}
    </>
  );
}
