import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { RowSelectionState } from '@tanstack/react-table';
import { entryOfThing, thingId } from '@violet-crate/core/link/thing';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { Busy } from '../common/Busy.tsx';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { ChangeDialog } from './ChangeDialog.tsx';
import { ChangeHistory } from './ChangeHistory.tsx';
import { GrownSince } from './GrownSince.tsx';
import { LinkBytes } from './LinkBytes.tsx';
import { LinkDiagram } from './LinkDiagram.tsx';
import { LinkFindings } from './LinkFindings.tsx';
import { LinkTable } from './LinkTable.tsx';
import { RequiredCrates } from './RequiredCrates.tsx';
import { ThingPanel } from './ThingPanel.tsx';
import { useLinks, type LinkRow } from './useLinks.ts';
import './links.css';

const VIEWS = {
  list: 'List',
  graph: 'Graph',
  bytes: 'Bytes',
  findings: 'Findings',
  crates: 'Other crates',
  since: 'Since a package',
  changes: 'Changes',
} as const;
type View = keyof typeof VIEWS;

type Filter = 'all' | LinkRow['origin'] | 'unused';
const FILTERS: Record<Filter, string> = { all: 'All', crate: 'crate', game: 'game', missing: 'missing', unused: 'unused' };
const passes = (row: LinkRow, filter: Filter): boolean =>
  filter === 'all' || (filter === 'unused' ? row.unused : !row.unused && row.origin === filter);

/** Stage 5: everything that the maps need, why, where it comes from and how big it is, and what can be done about it. */
export function LinksPage() {
  const [address, setAddress] = useSearchParams();
  const [map, setMap] = useState('');
  const [filter, setFilter] = useState<Filter>('all');
  const [query, setQuery] = useState('');
  const [picked, setPicked] = useState<RowSelectionState>({});
  const [proposed, setProposed] = useState<LinkChange[] | null>(null);
  const view = useAppSelector((s) => s.crate.view);
  const all = useAppSelector((s) => s.checks.findings);
  const links = useLinks(map);
  const findings = useMemo(() => all.filter(({ stage }) => stage === 'links'), [all]);
  const maps = links ? Object.keys(links.world.crate.maps) : [];
  const known = maps.join();
  const roots = useMemo(() => (map === '' ? known.split(',') : [map]).map((name) => thingId('map', name)), [map, known]);
  const rows = useMemo(() => links?.rows.filter((row) => passes(row, filter)) ?? [], [links, filter]);
  if (!view) return null;
  if (!links) return <Busy what="Following the links" />;
  const shown = (address.get('view') as View | null) ?? 'list';
  const chosen = address.get('thing');
  const go = (change: Record<string, string>) => setAddress({ ...Object.fromEntries(address), ...change }, { replace: true });
  const choose = (id: string) => go({ thing: id });
  const count = (one: Filter) => links.rows.filter((row) => passes(row, one)).length;
  const entries = Object.keys(picked)
    .filter((id) => picked[id])
    .flatMap((id) => entryOfThing(id) ?? []);
  const sameKind = new Set(Object.keys(picked).map((id) => id.split(':')[0])).size === 1;
  return (
    <div className="links">
      <header className="links-bar">
        <h1>Links</h1>
        <span className="faint">
          {plural(count('all') - count('unused'), 'thing')}: {count('crate')} of the crate ({bytes(links.ownBytes)}, travels), {count('game')} of the
          game ({bytes(links.gameBytes)}, already there), {count('missing')} missing, {count('unused')} unused.
        </span>
      </header>
      <div className="links-bar">
        <div className="btn-group" role="group" aria-label="How links are shown">
          {(Object.keys(VIEWS) as View[]).map((one) => (
            <button
              key={one}
              className={`btn btn-quiet ${shown === one ? 'active' : ''}`}
              aria-pressed={shown === one}
              onClick={() => go({ view: one })}
            >
              {VIEWS[one]}
              {one === 'findings' && findings.length > 0 && ` ${findings.length}`}
            </button>
          ))}
        </div>
        {maps.length > 1 && (
          <select className="form-select form-select-sm w-auto" aria-label="Map" value={map} onChange={(event) => setMap(event.target.value)}>
            <option value="">All maps</option>
            {maps.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        )}
        {shown === 'list' && (
          <>
            <div className="btn-group" role="group" aria-label="From where">
              {(Object.keys(FILTERS) as Filter[]).map((one) => (
                <button
                  key={one}
                  className={`btn btn-quiet btn-sm ${filter === one ? 'active' : ''}`}
                  aria-pressed={filter === one}
                  onClick={() => setFilter(one)}
                >
                  {FILTERS[one]} {count(one)}
                </button>
              ))}
            </div>
            <input
              className="form-control form-control-sm links-search"
              placeholder="Search"
              aria-label="Search links"
              value={query}
              onChange={(event) => setQuery(event.target.value)}
            />
          </>
        )}
        {shown === 'list' && entries.length > 0 && (
          <>
            <button className="btn btn-quiet btn-sm" onClick={() => setProposed([{ do: 'remove', entries }])}>
              <Icon name="trash" /> Remove {entries.length} …
            </button>
            {entries.length > 1 && sameKind && (
              <button className="btn btn-quiet btn-sm" onClick={() => setProposed([{ do: 'merge', into: entries[0], from: entries.slice(1) }])}>
                <Icon name="union" /> Merge into {entries[0].replace('material:', '')} …
              </button>
            )}
          </>
        )}
      </div>
      <div className="links-main">
        {shown === 'list' && <LinkTable rows={rows} query={query} chosen={chosen} choose={choose} picked={picked} pick={setPicked} />}
        {shown === 'graph' && <LinkDiagram links={links} roots={roots} findings={findings} chosen={chosen} choose={choose} />}
        {shown === 'bytes' && <LinkBytes links={links} choose={choose} />}
        {shown === 'findings' && <LinkFindings findings={findings} propose={setProposed} />}
        {shown === 'crates' && <RequiredCrates crateId={view.id} />}
        {shown === 'since' && <GrownSince links={links} choose={choose} />}
        {shown === 'changes' && <ChangeHistory crateId={view.id} />}
      </div>
      {chosen ? (
        <ThingPanel links={links} id={chosen} choose={choose} propose={setProposed} />
      ) : (
        <aside className="thing panel">
          <p className="p-3 faint mb-0">Choose a thing: here it says why it is in the package, what would go without it, and what can be done.</p>
        </aside>
      )}
      {proposed && (
        <ChangeDialog
          crateId={view.id}
          changes={proposed}
          close={() => setProposed(null)}
          done={() => {
            setProposed(null);
            setPicked({});
          }}
        />
      )}
    </div>
  );
}
