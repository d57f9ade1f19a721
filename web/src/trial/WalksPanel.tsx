import { useState, type FormEvent } from 'react';
import { PLAYER } from '@violet-crate/core/document/schema';
import { freshId } from '@violet-crate/core/document/edit';
import { nameProblem } from '@violet-crate/core/crate/naming';
import type { WalkReport } from '@violet-crate/core/trial/record';
import { walkSteps, type Walk } from '@violet-crate/core/trial/walk';
import { walkFindings, walksAmong } from '@violet-crate/core/trial/walkFiles';
import { message } from '../api/http.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { Icon } from '../common/Icon.tsx';
import { trialFound } from '../state/checksSlice.ts';
import { refreshFiles } from '../state/crateSlice.ts';
import { cameBy } from '../state/lookingSlice.ts';
import { edited } from '../state/mapSlice.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';
import type { TrialRun } from './trialRun.ts';
import { loadWalk, playWalks, removeWalk, saveWalk } from './walks.ts';

interface Props {
  map: string;
  source: AssetSource;
  run: TrialRun | null;
  /** Begins anew, playing a walk back. */
  onPlay(walk: Walk): void;
}

/** Recorded runs of the map: saved under a name, watched, and played back to see whether they still work. */
export function WalksPanel({ map, source, run, onPlay }: Props) {
  const dispatch = useAppDispatch();
  const profile = useAppSelector((s) => s.crate.profile)!;
  const settings = useAppSelector((s) => s.map.map?.settings);
  const { view } = source;
  const names = walksAmong(
    view.files.map(({ path }) => path),
    map,
  );
  const [name, setName] = useState('');
  const [busy, setBusy] = useState('');
  const [said, setSaid] = useState('');
  const [reports, setReports] = useState<readonly WalkReport[]>([]);
  const problem = name === '' ? null : nameProblem(profile, 'file', name);

  const attempt = async (what: string, work: () => Promise<string | void>) => {
    setBusy(what);
    setSaid('');
    try {
      setSaid((await work()) ?? '');
    } catch (error) {
      setSaid(message(error));
    }
    setBusy('');
  };
  const save = (event: FormEvent) => {
    event.preventDefault();
    if (!run || name === '' || problem) return;
    void attempt('Saving', async () => {
      const { walk, touched } = await run.recorded();
      if (touched) return 'Map or scripts were changed during this run, so that it cannot be played back. Restart it, and walk again.';
      await saveWalk(view.id, map, name, walk);
      await dispatch(refreshFiles(view.id));
      setName('');
      return `Saved as ${name}.`;
    });
  };
  const playAll = () =>
    attempt('Playing', async () => {
      const walks = Object.fromEntries(await Promise.all(names.map(async (one) => [one, await loadWalk(source, map, one)] as const)));
      const played = await playWalks(run!.inputs!, selectWorld(store.getState())!, walks);
      setReports(played.reports);
      dispatch(trialFound(played.reports.flatMap((report) => walkFindings(map, report))));
      dispatch(cameBy({ crateId: view.id, map, data: played.coverage }));
    });
  const watch = (one: string) => attempt('Loading', async () => onPlay(await loadWalk(source, map, one)));
  const drop = (one: string) =>
    attempt('Removing', async () => {
      await removeWalk(view.id, map, one);
      await dispatch(refreshFiles(view.id));
    });
  const asSteps = (one: string) =>
    attempt('Reading', async () => {
      const trial = walkSteps(await loadWalk(source, map, one));
      dispatch(edited({ name: `trial steps from ${one}`, changes: [{ of: 'settings', to: { ...settings!, trial } }] }));
      return `The map’s trial steps are now those of ${one}: ${trial.length} of them. Undo brings the old ones back.`;
    });

  const sequences = useAppSelector((s) => s.map.map?.sequences) ?? {};
  /** Where somebody walked, as a movement sequence of the player: another one can be given its steps in the map. */
  const asSequence = (one: string) =>
    attempt('Reading', async () => {
      const ways = walkSteps(await loadWalk(source, map, one)).flatMap((step) => ('walkTo' in step ? [step.walkTo] : []));
      if (ways.length === 0) return `Nobody walks in ${one}.`;
      const [start, ...rest] = ways;
      const to = {
        name: one.slice(0, 60),
        steps: rest.map((place) => ({ who: PLAYER, do: 'walk' as const, to: place, wait: true })),
        starts: [start],
      };
      dispatch(edited({ name: `movement sequence from ${one}`, changes: [{ of: 'sequences', id: freshId(sequences, 'q'), to }] }));
      return `${one} is a movement sequence of the map now, with ${rest.length} places. Look at it under People in the map.`;
    });

  return (
    <div className="trial-list">
      <form className="p-2 border-bottom" onSubmit={save}>
        <label htmlFor="walk-name" className="small">
          Save this run so far as a walk
        </label>
        <div className="d-flex gap-2">
          <input
            id="walk-name"
            className={`form-control form-control-sm mono ${problem ? 'is-invalid' : ''}`}
            placeholder="to_the_gallery"
            spellCheck={false}
            value={name}
            aria-invalid={problem !== null}
            onChange={(event) => setName(event.target.value)}
          />
          <button className="btn btn-primary btn-sm" disabled={!run || name === '' || problem !== null || busy !== ''}>
            Save
          </button>
        </div>
        {problem && <div className="severity blocker small text-wrap mt-1">{problem}</div>}
      </form>
      {names.length > 0 && (
        <div className="p-2 border-bottom">
          <button className="btn btn-quiet btn-sm" disabled={busy !== '' || !run?.inputs} onClick={() => void playAll()}>
            <Icon name="check2-all" /> Play all
          </button>
        </div>
      )}
      <p role="status" className={`small px-2 mb-1 ${busy || said ? 'mt-2' : ''}`}>
        {busy ? `${busy} …` : said}
      </p>
      {names.length === 0 && <p className="faint p-2 mb-0">No walks yet. Every run is recorded: walk, then save it under a name.</p>}
      <ul aria-label="Walks">
        {names.map((one) => (
          <li key={one}>
            <div>
              <strong className="mono">{one}</strong>
              <Verdict report={reports.find((report) => report.name === one)} />
            </div>
            <button className="btn btn-quiet btn-sm" onClick={() => void watch(one)} aria-label={`Watch ${one}`} title="Begin anew and watch it">
              <Icon name="play" />
            </button>
            <button
              className="btn btn-quiet btn-sm"
              onClick={() => void asSteps(one)}
              aria-label={`Make ${one} the trial steps`}
              title="Make it the map’s trial steps"
            >
              <Icon name="list-ol" />
            </button>
            <button
              className="btn btn-quiet btn-sm"
              onClick={() => void asSequence(one)}
              aria-label={`Make ${one} a movement sequence`}
              title="Make it a movement sequence of the map"
            >
              <Icon name="person-walking" />
            </button>
            <button className="btn btn-quiet btn-sm" onClick={() => void drop(one)} aria-label={`Remove ${one}`} title="Remove">
              <Icon name="trash" />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

function Verdict({ report }: { report: WalkReport | undefined }) {
  if (!report) return null;
  if (report.ok)
    return (
      <div className="severity clear small text-wrap">
        <Icon name="check-circle" /> works{report.exact ? ', the same to the bit' : ''}, {report.seconds} s
      </div>
    );
  return (
    <div className="severity warning small text-wrap">
      <Icon name="exclamation-triangle" /> at {report.difference?.second} s, {report.difference?.at.map(Math.round).join(', ')}:{' '}
      {report.difference?.message}
    </div>
  );
}
