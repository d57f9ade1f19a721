/** What goes on behind the screens. Started once with the store. */

import { store } from '../state/store.ts';
import { storeTrialRun } from '../state/trialRunSlice.ts';
import { keepChecked } from './checking.ts';
import { followServer } from './following.ts';
import { keepPreferred } from './preferring.ts';
import { flushEdits, keepSaved } from './saving.ts';
import { flushScripts, keepScriptsSaved } from './savingScripts.ts';

export function startBackground(): void {
  keepSaved();
  keepScriptsSaved();
  keepChecked();
  followServer();
  keepPreferred();
  let run = store.getState().trialRun;
  store.subscribe(() => {
    if (store.getState().trialRun !== run) storeTrialRun((run = store.getState().trialRun));
  });
  // What was typed a moment ago is not sent yet when a tab closes; a page that is only hidden may be ended without another word.
  window.addEventListener('pagehide', () => {
    flushEdits();
    flushScripts();
  });
  window.addEventListener('beforeunload', (event) => {
    const { map, scripts } = store.getState();
    if (map.unsaved.length > 0 || scripts.unsaved.length > 0) event.preventDefault();
  });
}
