import type { MapEdit } from '@violet-crate/core/document/edit';
import { getJson } from '../api/http.ts';
import type { Download, Job, JobPicture } from '../api/types.ts';
import { downloadsChanged } from '../state/downloadsSlice.ts';
import {
  refreshFiles,
  refreshFolder,
  refreshFreshness,
  refreshOpened,
  refreshPackages,
  refreshSetup,
  refreshUpdates,
  refreshWatch,
} from '../state/crateSlice.ts';
import { connection, isActive, jobChanged, jobsLoaded, pictured, pictureGone } from '../state/jobsSlice.ts';
import { followed } from '../state/mapSlice.ts';
import { store } from '../state/store.ts';
import { TAB } from './tab.ts';

/** Hears of the server what jobs do, and what other pages do to the open crate. */
export function followServer(): void {
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
    if (crateId === store.getState().crate.view?.id) {
      void store.dispatch(refreshWatch(crateId));
      void store.dispatch(refreshOpened(crateId));
    }
  });
  source.addEventListener('files', (event) => {
    const { crateId } = JSON.parse((event as MessageEvent<string>).data) as { crateId: string };
    if (crateId === store.getState().crate.view?.id) void store.dispatch(refreshFiles(crateId)).then(() => store.dispatch(refreshFreshness(crateId)));
  });
  source.addEventListener('folder', (event) => {
    const { crateId } = JSON.parse((event as MessageEvent<string>).data) as { crateId: string };
    if (crateId === store.getState().crate.view?.id) void store.dispatch(refreshFolder(crateId));
  });
  source.addEventListener('games', () => {
    const view = store.getState().crate.view;
    if (!view) return;
    void store.dispatch(refreshSetup(view.id));
    void store.dispatch(refreshUpdates(view));
  });
  source.addEventListener('downloads', (event) => store.dispatch(downloadsChanged(JSON.parse((event as MessageEvent<string>).data) as Download[])));
  source.addEventListener('map', (event) => {
    const notice = JSON.parse((event as MessageEvent<string>).data) as { crateId: string; map: string; revision: number; tab: string };
    const { crate, map } = store.getState();
    if (notice.tab === TAB || notice.crateId !== crate.view?.id || notice.map !== map.name || map.unsaved.length > 0) return;
    void getJson<{ revision: number; edit: MapEdit }[]>(`/api/crates/${notice.crateId}/maps/${notice.map}/edits?since=${map.revision}`)
      .then((rows) => {
        if (rows.length > 0)
          store.dispatch(
            followed({ revision: rows[rows.length - 1].revision, edits: rows.map(({ edit }) => edit), undoable: notice.tab === 'folder' }),
          );
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

/** @param notes in hertz, one after the other */
function ring(notes: number[], volume: number): void {
  const context = new AudioContext();
  const gain = new GainNode(context, { gain: 0.15 * volume });
  gain.connect(context.destination);
  notes.forEach((frequency, i) => {
    const note = new OscillatorNode(context, { frequency });
    note.connect(gain);
    note.start(i * 0.18);
    note.stop(i * 0.18 + 0.16);
    if (i === notes.length - 1) note.onended = () => void context.close();
  });
}

/** Builds shorter than this end before anybody has looked away. Milliseconds. */
const LONG = 15_000;

/** Tells the end of a long build to somebody who is looking at something else. */
function tellEnd({ label, state, createdAt, finishedAt }: Job): void {
  const { notices, chime, volume } = store.getState().preferences.values;
  if (!finishedAt || Date.parse(finishedAt) - Date.parse(createdAt) <= LONG) return;
  if (chime) ring(state === 'done' ? [660, 880] : [330], Number(volume) / 100);
  if (notices && document.hidden && 'Notification' in window && Notification.permission === 'granted')
    new Notification('Violet Crate', { body: `${label}: ${state}`, tag: 'build' });
}
