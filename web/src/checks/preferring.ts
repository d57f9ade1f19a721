import { undoDepthSet } from '../state/mapSlice.ts';
import { viewChanged } from '../state/viewSlice.ts';
import { loadPreferences } from '../state/preferencesSlice.ts';
import { store } from '../state/store.ts';
import { applyTheme } from '../theme/theme.ts';

/** Sees that what the user prefers holds: in the look of all pages, and in what they begin with. */
export function keepPreferred(): void {
  let before = store.getState().preferences.values;
  const apply = () => {
    const { values } = store.getState().preferences;
    if (values === before) return;
    const root = document.documentElement;
    // What this browser remembers stands until a theme is chosen: the first page must not flash.
    if (values.theme !== before.theme) applyTheme(values.theme === 'light' ? 'light' : 'dark');
    root.style.fontSize = values.textSize === 100 ? '' : `${Number(values.textSize)}%`;
    root.dataset.contrast = String(values.contrast);
    root.dataset.still = String(values.stillness);
    const was = before;
    // Kept before anything is dispatched: that brings us here again.
    before = values;
    if (values.undoDepth !== was.undoDepth) store.dispatch(undoDepthSet(Number(values.undoDepth)));
    if (values.fieldOfView !== was.fieldOfView || values.snapping !== was.snapping) {
      const begins = { fieldOfView: Number(values.fieldOfView), snap: values.snapping === true };
      store.dispatch(viewChanged({ ...begins, begins }));
    }
  };
  store.subscribe(apply);
  void store.dispatch(loadPreferences());
}
