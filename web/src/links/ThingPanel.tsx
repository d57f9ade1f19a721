import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { chainsTo, without } from '@violet-crate/core/link/chains';
import type { Tie, Use } from '@violet-crate/core/link/graph';
import { entryOfThing, LINK_KINDS } from '@violet-crate/core/link/thing';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { selected } from '../state/viewSlice.ts';
import { ChangeForm } from './ChangeForm.tsx';
import { KindIcon } from './KindIcon.tsx';
import { OriginStamp } from './OriginStamp.tsx';
import type { Links } from './useLinks.ts';

interface Props {
  links: Links;
  id: string;
  choose(id: string): void;
  /** Shows what orders would do before they are given. */
  propose(changes: LinkChange[]): void;
}

/** Chains that are shown before more are asked for, and things that are named of what would go. */
const SHOWN = 5;
const NAMED = 8;

/** One thing: why it is here, what would happen without it, and what can be done with it. */
export function ThingPanel({ links, id, choose, propose }: Props) {
  const { graph, rows, world } = links;
  const [all, setAll] = useState(false);
  // The graph is the same one after an edit: what is looked up in it is looked up anew with the links.
  const { chains, more } = useMemo(() => chainsTo(links.graph, id), [links, id]);
  const loss = useMemo(() => without(links.graph, id), [links, id]);
  const thing = graph.thing(id);
  const row = rows.find((one) => one.id === id);
  const entry = entryOfThing(id);
  const shown = all ? chains : chains.slice(0, SHOWN);
  return (
    <aside className="thing panel" aria-label={`About ${thing.name}`}>
      <header>
        <h2>
          <KindIcon kind={thing.kind} /> {LINK_KINDS[thing.kind]} <span className="mono">{thing.name}</span>
        </h2>
      </header>
      <div className="body">
        <p className="mb-2">
          <OriginStamp row={row ?? { origin: thing.origin, unused: false }} /> {thing.bytes > 0 && bytes(thing.bytes)}{' '}
          {thing.sha256 && <span className="mono faint">{thing.sha256.slice(0, 12)}</span>}
        </p>
        <h3>Why is this here?</h3>
        {chains.length === 0 ? (
          <p className="faint">
            {thing.kind === 'map' ? 'It is a map of the crate.' : row?.kept ? `No map needs it. It is kept: ${row.kept}` : 'No map needs it.'}
          </p>
        ) : (
          <ol className="chains" aria-label="Chains from a map, the shortest first">
            {shown.map((chain, n) => (
              <li key={n}>
                <button className="link-name" onClick={() => choose(chain[0].from)}>
                  {graph.thing(chain[0].from).name}
                </button>
                {chain.map((tie) => (
                  <Step key={tie.to} tie={tie} links={links} choose={choose} />
                ))}
              </li>
            ))}
          </ol>
        )}
        {(chains.length > SHOWN || more) && (
          <button className="btn btn-quiet btn-sm" onClick={() => setAll(!all)}>
            {all ? 'The shortest only' : `All ${more ? 'of the first ' : ''}${chains.length} chains`}
          </button>
        )}
        {thing.kind !== 'map' && thing.origin !== 'missing' && (
          <>
            <h3>What if it went?</h3>
            <p className="mb-1">
              {loss.goes.length === 0
                ? 'The package would stay as it is.'
                : loss.bytes > 0
                  ? `${bytes(loss.bytes)} would go.`
                  : 'No bytes of the package would go.'}
            </p>
            {loss.goes.length > 1 && (
              <p className="faint mb-1">
                With it:{' '}
                {loss.goes
                  .filter((one) => one.id !== id)
                  .slice(0, NAMED)
                  .map(({ name }) => name)
                  .join(', ')}
                {loss.goes.length - 1 > NAMED && ` and ${loss.goes.length - 1 - NAMED} more`}.
              </p>
            )}
            {loss.breaks.length > 0 && (
              <p className="mb-1">
                <Icon name="exclamation-triangle" /> Left without it: {brokenWords(loss.breaks, links)}.
              </p>
            )}
          </>
        )}
        {entry !== null && thing.kind !== 'script' && <ChangeForm key={id} thing={thing} entry={entry} row={row} world={world} propose={propose} />}
      </div>
    </aside>
  );
}

function brokenWords(breaks: readonly Tie[], { graph }: Links): string {
  const who = new Set(breaks.flatMap(({ uses }) => [...uses.values()].map((use) => graph.whoIs(use))));
  const names = [...who];
  return names.length > NAMED ? `${names.slice(0, NAMED).join(', ')} and ${names.length - NAMED} more` : names.join(', ');
}

function Step({ tie, links: { graph }, choose }: { tie: Tie; links: Links; choose(id: string): void }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { view } = useAppSelector((s) => s.crate);
  const map = useAppSelector((s) => s.map.name);
  const uses = [...tie.uses.values()];
  const [first] = uses;
  const show = () => {
    const here = uses.filter((use) => use.map === map);
    const ids = (of: 'object' | 'solid') => [...new Set(here.flatMap((use: Use) => (use[of] === undefined ? [] : [use[of]])))];
    const objects = ids('object');
    if (first.line !== undefined) return void navigate(`/crates/${view!.id}/scripts?file=${encodeURIComponent(first.who)}&line=${first.line}`);
    dispatch(selected(objects.length > 0 ? { kind: 'objects', ids: objects } : { kind: 'solids', ids: ids('solid') }));
    void navigate(`/crates/${view!.id}/map`);
  };
  const showable = first.line !== undefined || (first.map === map && (first.object !== undefined || first.solid !== undefined));
  const who = `${graph.whoIs(first)}${uses.length > 1 ? ` and ${uses.length - 1} more` : ''}`;
  return (
    <>
      <Icon name="arrow-right-short" />
      {tie.from.startsWith('map:') || first.line !== undefined ? (
        <>
          {showable ? (
            <button className="link-name" onClick={show} title="Show it">
              {first.line !== undefined ? first.what : who}
            </button>
          ) : (
            <span>{who}</span>
          )}{' '}
          {first.line === undefined && <span className="faint">({first.what})</span>}
          <Icon name="arrow-right-short" />
        </>
      ) : (
        <span className="faint">({first.what}) </span>
      )}
      <button className="link-name" onClick={() => choose(tie.to)}>
        <KindIcon kind={graph.thing(tie.to).kind} /> {graph.thing(tie.to).name}
      </button>
    </>
  );
}
