import { useEffect, useState } from 'react';
import { getJson, message, request } from '../api/http.ts';
import type { DepotItem } from '@violet-crate/core/setup/depot';

interface DepotProfile {
  item: DepotItem;
  /** The version of it that is here. */
  installed: string | null;
}

/** Profiles that the depot has, to be added or changed for another version. */
export function DepotProfiles({ added }: { added(id: string): void }) {
  const [items, setItems] = useState<DepotProfile[] | null>(null);
  const [problem, setProblem] = useState('');
  const load = () => {
    getJson<DepotProfile[]>('/api/depot/profiles')
      .then((list) => {
        setItems(list);
        setProblem('');
      })
      .catch((error) => setProblem(message(error)));
  };
  useEffect(load, []);
  const take = (item: string, version: string) =>
    void request('/api/depot/profiles', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ item, version }),
    })
      .then(() => {
        load();
        added(item);
      })
      .catch((error) => setProblem(message(error)));
  return (
    <section className="mt-3" aria-label="Profiles of the depot">
      <h2>From the depot</h2>
      {!items && !problem && <div className="faint small">Asking the depot …</div>}
      {problem && (
        <div className="severity warning text-wrap small" role="alert">
          {problem}{' '}
          <button className="btn btn-quiet btn-sm py-0" onClick={load}>
            Ask again
          </button>
        </div>
      )}
      {items?.length === 0 && <div className="faint small">It has none.</div>}
      {items?.map(({ item, installed }) => {
        const { version, notes } = item.versions.at(-1)!;
        return (
          <div key={item.id} className="mb-2">
            <strong>{item.title}</strong> <span className="faint small">{version}</span>
            <div className="faint small">
              {item.brings} By {item.author}, {item.licence}.
            </div>
            {installed === version ? (
              <span className="stamp clear">there</span>
            ) : (
              <button className="btn btn-quiet btn-sm" title={notes} onClick={() => take(item.id, version)}>
                {installed === null ? 'Add' : `Change ${installed || 'yours'} for ${version}`}
              </button>
            )}
          </div>
        );
      })}
    </section>
  );
}
