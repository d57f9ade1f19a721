import { undoDepthSet } from '../state/mapSlice.ts';
import { gridAtFirst, viewChanged, type GridChoice } from '../state/viewSlice.ts';
import { loadPreferences, preferredHere } from '../state/preferencesSlice.ts';
import { store } from '../state/store.ts';
import { applyTheme } from '../theme/theme.ts';

/** Sees that what the user prefers holds: in the look of all pages, and in what they begin with. */
export function keepPreferred(): void {
  let before = preferredHere(store.getState());
  const apply = () => {
    const values = preferredHere(store.getState());
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
    if (values.fieldOfView !== was.fieldOfView || values.snapping !== was.snapping || values.grid !== was.grid) {
      const begins = { fieldOfView: Number(values.fieldOfView), snap: values.snapping === true, grid: values.grid as GridChoice };
      const { profile } = store.getState().crate;
      store.dispatch(
        viewChanged({ fieldOfView: begins.fieldOfView, snap: begins.snap, ...(profile && { grid: gridAtFirst(profile, begins.grid) }), begins }),
      );
    }
  };
  store.subscribe(apply);
  void store.dispatch(loadPreferences());
}
