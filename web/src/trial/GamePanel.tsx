import { useCallback, useEffect, useRef, useState } from 'react';
import type { Finding } from '@violet-crate/core/finding';
import { getJson, message, sendJson } from '../api/http.ts';
import { FindingList } from '../common/FindingList.tsx';
import { Icon } from '../common/Icon.tsx';
import { saveScripts } from '../checks/savingScripts.ts';
import { useAppSelector } from '../state/store.ts';

/** A game that runs with the crate, as the server tells it. */
export interface LaunchView {
  crateId: string;
  map: string;
  running: boolean;
  startedAt: string;
  lines: string[];
  from: number;
  findings: Finding[];
}

/** The later of two words about a run: an answer may come in after an event that was sent later. */
export function later(known: LaunchView | null, next: LaunchView | null): LaunchView | null {
  if (!known || !next || known.startedAt !== next.startedAt) return next;
  const age = ({ from, lines, findings, running }: LaunchView) => from + lines.length + findings.length + (running ? 0 : 1);
  return age(next) >= age(known) ? next : known;
}

/** Lines of the log that are in the page at once. */
const SHOWN = 300;

/** The crate in the game itself: started, its log beside the map, scripts loaded anew, ended. */
export function GamePanel({ map }: { map: string }) {
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const maps = view.maps;
  const [launch, setKnown] = useState<LaunchView | null>(null);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState('');
  const list = useRef<HTMLDivElement>(null);
  const base = `/api/crates/${view.id}/launch`;

  const setLaunch = useCallback((next: LaunchView | null) => setKnown((known) => later(known, next)), []);

  useEffect(() => {
    getJson<{ launch: LaunchView | null }>(base)
      .then(({ launch: last }) => setLaunch(last))
      .catch((error) => setTrouble(message(error)));
    const source = new EventSource(`${base}/events`);
    source.addEventListener('launch', (event) => setLaunch(JSON.parse((event as MessageEvent<string>).data) as LaunchView));
    return () => source.close();
  }, [base, setLaunch]);
  const lines = launch?.lines ?? [];
  useEffect(() => {
    if (list.current) list.current.scrollTop = list.current.scrollHeight;
  }, [lines.length]);

  const ask = async (path: string, body: object) => {
    setBusy(true);
    setTrouble('');
    try {
      await saveScripts();
      setLaunch(await sendJson<LaunchView>('POST', `${base}${path}`, body));
    } catch (error) {
      setTrouble(message(error));
    }
    setBusy(false);
  };
  if (!profile.launch) return <p className="faint p-2 mb-0">The profile of {profile.title} does not say how the game is started.</p>;
  const { commands } = profile.launch;
  const running = launch?.running ?? false;
  return (
    <div className="game-panel">
      <div className="p-2 border-bottom d-flex flex-wrap gap-2 align-items-center">
        {running ? (
          <>
            <button className="btn btn-primary btn-sm" disabled={busy} onClick={() => void ask('/quit', {})}>
              <Icon name="stop-fill" /> End the game
            </button>
            {commands.reload && (
              <button className="btn btn-quiet btn-sm" disabled={busy} onClick={() => void ask('/say', { command: 'reload' })}>
                <Icon name="arrow-repeat" /> Reload scripts
              </button>
            )}
            {commands.map && maps.length > 1 && (
              <select
                className="form-select form-select-sm w-auto"
                aria-label="Load another map"
                value=""
                onChange={(event) => void ask('/say', { command: 'map', map: event.target.value })}
              >
                <option value="" disabled>
                  Load a map …
                </option>
                {maps.map((one) => (
                  <option key={one}>{one}</option>
                ))}
              </select>
            )}
          </>
        ) : (
          <button className="btn btn-primary btn-sm" disabled={busy} onClick={() => void ask('', { map })}>
            <Icon name="rocket-takeoff" /> Launch in {profile.title}
          </button>
        )}
        <span className={`stamp ${running ? 'running' : ''}`} role="status" data-testid="game-state">
          {busy ? 'Asking …' : running ? `Running ${launch!.map}` : launch ? 'Ended' : 'Not started'}
        </span>
      </div>
      {trouble && (
        <p className="severity blocker small text-wrap p-2 mb-0" role="alert">
          {trouble}
        </p>
      )}
      {launch ? (
        <>
          {launch.findings.length > 0 && (
            <div className="p-2 border-bottom">
              <FindingList findings={launch.findings} empty="" />
            </div>
          )}
          <div ref={list} className="console" role="log" aria-label="Log of the game" tabIndex={0}>
            {lines.length > SHOWN && <div className="faint">{launch.from + lines.length - SHOWN} earlier lines are left out.</div>}
            {lines.slice(-SHOWN).map((line, i) => (
              <div key={launch.from + Math.max(0, lines.length - SHOWN) + i}>{line}</div>
            ))}
          </div>
        </>
      ) : (
        <p className="faint p-2 mb-0">
          The built crate is put into the mods folder of {profile.title} as a copy of your own, and the game is started with it. Nothing is packaged
          or published; a mod of the same name stays as it is.
        </p>
      )}
    </div>
  );
}
