import { useCallback } from 'react';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { sendJson } from '../api/http.ts';
import type { CrateEditEntry } from '../api/types.ts';
import { refreshFiles, refreshFreshness } from '../state/crateSlice.ts';
import { crateChanged } from '../state/crateEditsSlice.ts';
import { store, useAppDispatch } from '../state/store.ts';

/** Milliseconds, and how many times, that the map's last edits are waited for. */
const POLL = 50;
const POLLS = 100;

/** Carries orders about links out on the server; the crate is loaded anew, and what was done can be undone. */
export function useCrateChange(): (crateId: string, changes: readonly LinkChange[]) => Promise<void> {
  const dispatch = useAppDispatch();
  return useCallback(
    async (crateId, changes) => {
      // The server edits the map as it has it: what was drawn last has to be there.
      for (let n = 0; n < POLLS && store.getState().map.unsaved.length > 0; n++) await new Promise((done) => setTimeout(done, POLL));
      const { edit, leftOut } = await sendJson<{ edit: CrateEditEntry | null; leftOut: string[] }>('POST', `/api/crates/${crateId}/links/change`, {
        changes,
      });
      dispatch(crateChanged({ edit, leftOut }));
      await dispatch(refreshFiles(crateId));
      void dispatch(refreshFreshness(crateId));
    },
    [dispatch],
  );
}
