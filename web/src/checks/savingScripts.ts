/** Sends scripts as they were typed, a moment after the last key; goes on trying while the server is away. */

import { isScript } from '@violet-crate/core/crate/contents';
import { message, RequestProblem, sendJson, sendLast } from '../api/http.ts';
import { refreshFreshness } from '../state/crateSlice.ts';
import { scriptDropped, scriptRefused, scriptSaved } from '../state/scriptsSlice.ts';
import { store } from '../state/store.ts';

/** Milliseconds that typing may rest before its end is taken for one, beside what the user prefers. */
const REST = 400;
const RETRY_DELAY = 2000;

let timer: ReturnType<typeof setTimeout> | undefined;
let sending: Promise<void> | null = null;

/** Sends all that is unsaved at once. */
export function saveScripts(): Promise<void> {
  clearTimeout(timer);
  return (sending ??= sendAll().finally(() => (sending = null)));
}

/** Sends what is unsaved from a page that closes. */
export function flushScripts(): void {
  for (const { crateId, path, source } of store.getState().scripts.unsaved) sendLast('PUT', addressOf(crateId, path), { source });
}

const addressOf = (crateId: string, path: string): string => `/api/crates/${crateId}/${isScript(path) ? path : `data/${path}`}`;

async function sendAll(): Promise<void> {
  const saved = new Set<string>();
  for (const script of store.getState().scripts.unsaved) {
    const { crateId, path, source } = script;
    try {
      await sendJson('PUT', addressOf(crateId, path), { source });
      store.dispatch(scriptSaved(script));
      saved.add(crateId);
    } catch (error) {
      const status = error instanceof RequestProblem ? error.status : 0;
      // The crate was deleted meanwhile.
      if (status === 404) store.dispatch(scriptDropped(script));
      else store.dispatch(scriptRefused(message(error)));
      if (status !== 0 && status < 500) continue;
      timer = setTimeout(() => void saveScripts(), RETRY_DELAY);
      break;
    }
  }
  const open = store.getState().crate.view?.id;
  if (open && saved.has(open)) void store.dispatch(refreshFreshness(open));
}

export function keepScriptsSaved(): void {
  let last = store.getState().scripts.unsaved;
  store.subscribe(() => {
    const { unsaved } = store.getState().scripts;
    const changed = unsaved !== last && unsaved.some((script) => !last.includes(script));
    last = unsaved;
    if (!changed) return;
    clearTimeout(timer);
    timer = setTimeout(() => void saveScripts(), REST + Number(store.getState().preferences.values.saveAfter) * 1000);
  });
}
