import { useCallback } from 'react';
import { TITLE_PICTURE } from '@violet-crate/core/release/takenPictures';
import { sendJson } from '../api/http.ts';
import { refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch } from '../state/store.ts';

/** Keeps a picture with the crate, for its release; answers in words what it became. */
export function useTakenPicture(crateId: string): (png: string) => Promise<string> {
  const dispatch = useAppDispatch();
  return useCallback(
    async (png) => {
      const { path } = await sendJson<{ path: string }>('POST', `/api/crates/${crateId}/pictures`, { png });
      await dispatch(refreshFiles(crateId));
      return path === TITLE_PICTURE ? 'Picture taken: it is the title of the release.' : 'Picture taken: see Publish, Package.';
    },
    [crateId, dispatch],
  );
}
