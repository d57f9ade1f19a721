/** What goes on behind the screens: saving edits, checking, following jobs. Started once with the store. */

import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Finding } from '@violet-crate/core/finding';
import type { LinkReport } from '@violet-crate/core/link/graph';
import { diffByIdentity, type MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { isScript } from '@violet-crate/core/crate/contents';
import { getJson, RequestProblem, sendJson } from '../api/http.ts';
import { connection, isActive, jobChanged, jobsLoaded, pictured, pictureGone } from '../api/jobsSlice.ts';
import type { Job, JobPicture } from '../api/types.ts';
import { refreshFiles, refreshFreshness, refreshPackages, refreshWatch } from '../crate/crateSlice.ts';
import { followed, saved, saveFailed, saving } from '../map/mapSlice.ts';
import { store, type RootState } from '../store.ts';
import { storeTrialRun } from '../trial/trialRunSlice.ts';
import { checked, checking } from './checksSlice.ts';

/** Names this page to the server, so that it is not told of its own edits. */
export const TAB = Math.random().toString(36).slice(2);

const SAVE_DELAY = 150;
const RETRY_DELAY = 2000;
const CHECK_DELAY = 30;

export function startBackground(): void {
  keepSaved();
  keepChecked();
  followJobs();
  let run = store.getState().trialRun;
  store.subscribe(() => {
    if (store.getState().trialRun !== run) storeTrialRun((run = store.getState().trialRun));
  });
  window.addEventListener('beforeunload', (event) => {
    if (store.getState().map.unsaved.length > 0) event.preventDefault();
  });
}

/** Sends unsaved edits in order, a batch at a time; goes on trying while the server is away. */
function keepSaved(): void {
  let busy = false;
  const send = async () => {
    const { map } = store.getState();
    // The crate whose map it is, which need not be the one that is being opened.
    const { crateId } = map;
    if (busy || map.unsaved.length === 0 || !crateId || map.saveState === 'conflict') return;
    busy = true;
    const edits = map.unsaved.slice(0, 200);
    store.dispatch(saving());
    try {
      const { revision, others } = await sendJson<{ revision: number; others: { edit: MapEdit }[] }>(
        'POST',
        `/api/crates/${crateId}/maps/${map.name}/edits`,
        { base: map.revision, edits, tab: TAB },
      );
      store.dispatch(saved({ count: edits.length, revision, others: others.map(({ edit }) => edit) }));
      busy = false;
      if (store.getState().map.unsaved.length > 0) void send();
      else if (store.getState().crate.view?.id === crateId) void store.dispatch(refreshFreshness(crateId));
    } catch (error) {
      busy = false;
      const conflict = error instanceof RequestProblem && (error.status === 409 || error.status === 422);
      const conflicts = error instanceof RequestProblem ? (error.extra.conflicts as string[] | undefined) : undefined;
      store.dispatch(saveFailed({ state: conflict ? 'conflict' : 'retrying', conflicts }));
      if (!conflict) setTimeout(() => void send(), RETRY_DELAY);
    }
  };
  let last = store.getState().map.unsaved;
  store.subscribe(() => {
    const { unsaved } = store.getState().map;
    if (unsaved === last) return;
    last = unsaved;
    if (unsaved.length > 0) setTimeout(() => void send(), SAVE_DELAY);
  });
}

/** The open crate as checks see it, or null while it is not loaded. */
export function crateWorld(state: RootState): CrateWorld | null {
  const { crate, map } = state;
  if (!crate.view || !crate.profile || !crate.base || !map.map) return null;
  return {
    profile: crate.profile,
    base: crate.base,
    crate: {
      manifest: crate.view.manifest,
      maps: { [map.name]: map.map },
      scripts: crate.scripts,
      files: crate.view.files.filter((file) => !isScript(file.path)).map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 })),
    },
  };
}

/**
 * Checks in a worker, one at a time; while one runs, what changes meanwhile waits and is checked as it is then.
 * The worker keeps the crate: after the first time it is sent only what changed.
 */
function keepChecked(): void {
  const worker = new Worker(new URL('./checkWorker.ts', import.meta.url), { type: 'module' });
  let busy = false;
  let dirty = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let last: unknown[] = [];
  let sent: { rest: unknown[]; map: GameMap; name: string } | null = null;
  const send = () => {
    const state = store.getState();
    const world = crateWorld(state);
    if (!world) return;
    busy = true;
    dirty = false;
    store.dispatch(checking());
    const { map, name } = state.map;
    const rest = [state.crate.view, state.crate.scripts, state.crate.base];
    const known = sent?.name === name && sent.rest.every((value, i) => value === rest[i]) ? sent.map : null;
    sent = { rest, map: map!, name };
    if (known) worker.postMessage({ mapName: name, edit: diffByIdentity(known, map!) });
    else worker.postMessage({ mapName: name, world });
  };
  worker.onmessage = (event: MessageEvent<{ findings: Finding[]; links: LinkReport[]; milliseconds: number }>) => {
    busy = false;
    if (!dirty) store.dispatch(checked(event.data));
    else send();
  };
  store.subscribe(() => {
    const state = store.getState();
    const inputs = [state.map.map, state.crate.view, state.crate.scripts, state.crate.base];
    if (inputs.every((value, i) => value === last[i])) return;
    last = inputs;
    dirty = true;
    clearTimeout(timer);
    timer = setTimeout(() => !busy && send(), CHECK_DELAY);
  });
}

function followJobs(): void {
  const load = () =>
    getJson<Job[]>('/api/jobs')
      .then((jobs) => store.dispatch(jobsLoaded(jobs)))
      .catch(() => {});
  const source = new EventSource('/api/jobs/events');
  source.onopen = () => {
    store.dispatch(connection(true));
    void load();
  };
  source.onerror = () => store.dispatch(connection(false));
  source.addEventListener('crate', (event) => {
    const { crateId } = JSON.parse((event as MessageEvent<string>).data) as { crateId: string };
    if (crateId === store.getState().crate.view?.id) void store.dispatch(refreshWatch(crateId));
  });
  source.addEventListener('map', (event) => {
    const notice = JSON.parse((event as MessageEvent<string>).data) as { crateId: string; map: string; revision: number; tab: string };
    const { crate, map } = store.getState();
    if (notice.tab === TAB || notice.crateId !== crate.view?.id || notice.map !== map.name || map.unsaved.length > 0) return;
    void getJson<{ revision: number; edit: MapEdit }[]>(`/api/crates/${notice.crateId}/maps/${notice.map}/edits?since=${map.revision}`)
      .then((rows) => {
        if (rows.length > 0) store.dispatch(followed({ revision: rows[rows.length - 1].revision, edits: rows.map(({ edit }) => edit) }));
      })
      .catch(() => {});
  });
  source.addEventListener('picture', (event) => store.dispatch(pictured(JSON.parse((event as MessageEvent<string>).data) as JobPicture)));
  source.addEventListener('job', (event) => {
    const job = JSON.parse((event as MessageEvent<string>).data) as Job;
    store.dispatch(jobChanged(job));
    const open = store.getState().crate.view?.id;
    if (isActive(job) || job.crateId !== open) return;
    if (job.kind === 'convert') void store.dispatch(refreshFiles(open)).then(() => store.dispatch(refreshFreshness(open)));
    if (job.kind === 'build') {
      // Its picture stays until its result can take the place.
      void store.dispatch(refreshFreshness(open)).finally(() => store.dispatch(pictureGone(job.id)));
      tellEnd(job);
    }
    if (job.kind === 'pack') void store.dispatch(refreshPackages(open));
  });
}

/** Builds shorter than this end before anybody has looked away. Milliseconds. */
const LONG = 15_000;

/** Tells the end of a long build to somebody who is looking at something else. */
function tellEnd({ label, state, createdAt, finishedAt }: Job): void {
  if (!document.hidden || !('Notification' in window) || Notification.permission !== 'granted' || !finishedAt) return;
  if (Date.parse(finishedAt) - Date.parse(createdAt) > LONG) new Notification('Violet Crate', { body: `${label}: ${state}`, tag: 'build' });
}
