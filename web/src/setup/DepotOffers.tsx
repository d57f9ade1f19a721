import { useCallback, useEffect, useState } from 'react';
import type { DepotKind } from '@violet-crate/core/setup/depot';
import type { Offer } from '@violet-crate/core/setup/packUpdates';
import { getJson, message, remove, sendJson } from '../api/http.ts';
import type { Download, Offers } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { DownloadBar } from './DownloadBar.tsx';
import { SetupRow } from './SetupRow.tsx';

interface Props {
  profile: string;
  install?: string;
  /** The kinds that are shown. */
  kinds: readonly DepotKind[];
  /** Something was put in or taken out. */
  onChange(): void;
}

/** What the depot has for a game: got, brought up to date, taken back by a version and removed here. */
export function DepotOffers({ profile, install, kinds, onChange }: Props) {
  const [offers, setOffers] = useState<Offer[] | null>(null);
  const [problem, setProblem] = useState('');
  const downloads = useAppSelector((s) => s.downloads.list);
  const query = install ? `?install=${install}` : '';
  const at = `/api/depot/games/${profile}`;
  const load = useCallback(() => {
    getJson<Offers>(`${at}${query}`)
      .then((answer) => {
        setOffers(answer.offers);
        setProblem('');
      })
      .catch((error) => setProblem(message(error)));
  }, [at, query]);
  // A download that has come to its end changes what is there.
  const ended = downloads.filter(({ state }) => state === 'done').length;
  useEffect(load, [load, ended]);
  useEffect(() => {
    if (ended > 0) onChange();
    // Only when another one has ended.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ended]);
  const attempt = (work: Promise<unknown>) =>
    void work
      .then(() => {
        setProblem('');
        load();
        onChange();
      })
      .catch((error) => setProblem(message(error)));
  if (!offers) return problem ? <Trouble retry={load}>{problem}</Trouble> : <Busy what="Asking the depot" />;
  const shown = offers.filter(({ item, versions }) => kinds.includes(item.kind) && versions.length > 0);
  return (
    <div>
      {problem && (
        <div className="severity blocker text-wrap p-2 px-3" role="alert">
          {problem}
        </div>
      )}
      {shown.length === 0 && <div className="p-3 faint">The depot has nothing for this game that is not part of it.</div>}
      {shown.map((offer) => (
        <OfferRow
          key={offer.item.id}
          offer={offer}
          download={downloads.find((one) => one.item === offer.item.id && one.state !== 'done')}
          get={(version) => attempt(sendJson('POST', `${at}${query}`, { item: offer.item.id, version }))}
          drop={() => attempt(remove(`${at}/${offer.item.id}${query}`))}
        />
      ))}
    </div>
  );
}

const KIND_WORDS: Record<DepotKind, string> = {
  game: 'the game',
  tool: 'tool',
  pack: 'optional pack',
  community: 'pack of the community',
  profile: 'profile',
  crate: 'example crate',
};

function OfferRow({ offer, download, get, drop }: { offer: Offer; download?: Download; get(version: string): void; drop(): void }) {
  const { item, versions, installed, update, before } = offer;
  const newest = versions[0];
  const [version, setVersion] = useState(newest.version);
  const chosen = versions.find((one) => one.version === version) ?? newest;
  const state = update
    ? { stamp: 'notes', icon: 'arrow-up-circle', word: 'update' }
    : installed
      ? { stamp: 'clear', icon: 'check-circle', word: 'there' }
      : { stamp: 'open', icon: 'cloud', word: 'to get' };
  const removable = installed !== null && (item.kind === 'pack' || item.kind === 'tool');
  return (
    <SetupRow id={item.id} kind="offer" ok={installed !== null} state={state}>
      <div>
        <strong>{item.title}</strong>{' '}
        <span className="detail">
          {KIND_WORDS[item.kind]}
          {installed && ` · ${installed} is there`} · {item.author} · {item.licence}
        </span>
        <div>{item.brings}</div>
        <div className="small faint">
          {chosen.version}: {chosen.notes} {bytes(chosen.bytes)} to fetch, {bytes(chosen.unpacked)} on disk.
        </div>
        {download && <DownloadBar download={download} />}
      </div>
      {!download && (
        <div className="d-flex gap-1 align-items-center flex-wrap justify-content-end">
          {versions.length > 1 && (
            <select
              className="form-select form-select-sm w-auto"
              aria-label={`Version of ${item.title}`}
              value={version}
              onChange={(event) => setVersion(event.target.value)}
            >
              {versions.map((one) => (
                <option key={one.version} value={one.version}>
                  {one.version}
                  {one.version === installed ? ' (there)' : one.version === before ? ' (the one before)' : ''}
                </option>
              ))}
            </select>
          )}
          {chosen.version !== installed && (
            <button className="btn btn-warm" onClick={() => get(chosen.version)}>
              <Icon name="download" /> {!installed ? 'Get' : chosen.version === update ? 'Update' : chosen.version === before ? 'Go back' : 'Put in'}
            </button>
          )}
          {removable && (
            <button
              className="btn btn-quiet"
              onClick={() => window.confirm(`Remove ${item.title} from the game? It can be fetched again.`) && drop()}
            >
              <Icon name="trash" /> Remove
            </button>
          )}
        </div>
      )}
    </SetupRow>
  );
}
