import type { MapEdit } from '@violet-crate/core/document/edit';
import { RequestProblem, sendJson, sendLast } from '../api/http.ts';
import { refreshFreshness } from '../state/crateSlice.ts';
import { saved, saveFailed, saving } from '../state/mapSlice.ts';
import { store } from '../state/store.ts';
import { TAB } from './tab.ts';

const RETRY_DELAY = 2000;

/** Edits that are being sent now. */
let underWay = 0;

/** Sends what is unsaved and not under way, from a page that closes. */
export function flushEdits(): void {
  const { crateId, name, unsaved, revision, saveState } = store.getState().map;
  const edits = unsaved.slice(underWay);
  if (!crateId || edits.length === 0 || saveState === 'conflict') return;
  sendLast('POST', `/api/crates/${crateId}/maps/${name}/edits`, { base: revision + underWay, edits, tab: TAB });
}

/** Sends unsaved edits in order, a batch at a time; goes on trying while the server is away. */
export function keepSaved(): void {
  let busy = false;
  const send = async () => {
    const { map } = store.getState();
    // The crate whose map it is, which need not be the one that is being opened.
    const { crateId } = map;
    if (busy || map.unsaved.length === 0 || !crateId || map.saveState === 'conflict') return;
    busy = true;
    const edits = map.unsaved.slice(0, 200);
    underWay = edits.length;
    store.dispatch(saving());
    try {
      const { revision, others } = await sendJson<{ revision: number; others: { edit: MapEdit }[] }>(
        'POST',
        `/api/crates/${crateId}/maps/${map.name}/edits`,
        { base: map.revision, edits, tab: TAB },
      );
      store.dispatch(saved({ count: edits.length, revision, others: others.map(({ edit }) => edit) }));
      busy = false;
      underWay = 0;
      if (store.getState().map.unsaved.length > 0) void send();
      else if (store.getState().crate.view?.id === crateId) void store.dispatch(refreshFreshness(crateId));
    } catch (error) {
      busy = false;
      underWay = 0;
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
    if (unsaved.length > 0) setTimeout(() => void send(), Number(store.getState().preferences.values.saveAfter) * 1000);
  });
}
