import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Link as CrateLink } from '@violet-crate/core/link/report';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { selected } from '../state/viewSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { Busy } from '../common/Busy.tsx';

const ORIGIN: Record<CrateLink['origin'], [icon: string, word: string, tone: string]> = {
  crate: ['box-seam', 'crate', 'clear'],
  game: ['controller', 'game', 'open'],
  missing: ['x-octagon', 'missing', 'blocked'],
};

/** Stage 5: everything that the map needs, where it comes from, and what the crate carries in vain. */
export function LinksPage() {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { view } = useAppSelector((s) => s.crate);
  const report = useAppSelector((s) => s.checks.links.find((r) => r.map === s.map.name));
  const [filter, setFilter] = useState<'all' | CrateLink['origin']>('all');
  const [query, setQuery] = useState('');
  if (!view) return null;
  if (!report) return <Busy what="Following the links" />;
  const count = (origin: CrateLink['origin']) => report.links.filter((link) => link.origin === origin).length;
  const shown = report.links.filter(
    (link) => (filter === 'all' || link.origin === filter) && `${link.name} ${link.kind}`.includes(query.toLowerCase()),
  );
  const show = (link: CrateLink) => {
    dispatch(selected(link.objects.length > 0 ? { kind: 'objects', ids: link.objects } : { kind: 'solids', ids: link.solids }));
    void navigate(`/crates/${view.id}/map`);
  };
  return (
    <div className="page">
      <h1>Links</h1>
      <p className="lead">
        The map needs {plural(report.links.length, 'thing')}: {count('crate')} of the crate ({bytes(report.ownBytes)}, travels with the package),{' '}
        {count('game')} of the game ({bytes(report.gameBytes)}, already there), {count('missing')} missing.
      </p>
      <div className="d-flex gap-2 mb-2 align-items-center">
        {(['all', 'crate', 'game', 'missing'] as const).map((origin) => (
          <button
            key={origin}
            className={`btn btn-quiet ${filter === origin ? 'active' : ''}`}
            aria-pressed={filter === origin}
            onClick={() => setFilter(origin)}
          >
            {origin === 'all' ? `All ${report.links.length}` : `${ORIGIN[origin][1]} ${count(origin)}`}
          </button>
        ))}
        <input
          className="form-control"
          style={{ maxWidth: '16rem' }}
          placeholder="Search"
          aria-label="Search links"
          value={query}
          onChange={(event) => setQuery(event.target.value)}
        />
      </div>
      <div className="panel mb-3">
        <table className="table mb-0 align-middle">
          <thead>
            <tr>
              <th>From</th>
              <th>Kind</th>
              <th>Name</th>
              <th className="text-end">Size</th>
              <th>Needed by</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {shown.map((link) => {
              const [icon, word, tone] = ORIGIN[link.origin];
              return (
                <tr key={`${link.kind}/${link.name}`} data-origin={link.origin}>
                  <td>
                    <span className={`stamp ${tone}`}>
                      <Icon name={icon} /> {word}
                    </span>
                  </td>
                  <td>{link.kind}</td>
                  <td className="mono">{link.name}</td>
                  <td className="text-end text-nowrap">{link.bytes > 0 ? bytes(link.bytes) : '–'}</td>
                  <td className="faint">
                    {link.usedBy.length > 4 ? `${link.usedBy.slice(0, 4).join(', ')} and ${link.usedBy.length - 4} more` : link.usedBy.join(', ')}
                  </td>
                  <td className="text-end">
                    {(link.objects.length > 0 || link.solids.length > 0) && (
                      <button className="btn btn-quiet btn-sm py-0" onClick={() => show(link)}>
                        Show
                      </button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {shown.length === 0 && <div className="p-3 faint">Nothing of this kind.</div>}
      </div>
      <section className="panel">
        <header>
          <h2>In the crate, but needed by no map</h2>
        </header>
        <div className="body">
          {report.unused.length === 0 ? (
            <span className="faint">Nothing: every file of the crate is used.</span>
          ) : (
            report.unused.map((file) => (
              <div key={file.path} data-unused={file.path}>
                <span className="mono">{file.path}</span> <span className="faint">{bytes(file.bytes)}, will not be packaged</span>
              </div>
            ))
          )}
        </div>
      </section>
    </div>
  );
}
