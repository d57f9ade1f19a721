import { message, request } from '../../api/http.ts';
import { refreshFiles } from '../../state/crateSlice.ts';
import { useAppDispatch } from '../../state/store.ts';

/** Removes a file of game data; answers a sentence where that failed. */
export function useRemoveData(crateId: string): (path: string) => Promise<string | null> {
  const dispatch = useAppDispatch();
  return async (path) => {
    try {
      await request(`/api/crates/${crateId}/files/${path}`, { method: 'DELETE' });
      await dispatch(refreshFiles(crateId));
      return null;
    } catch (error) {
      return message(error);
    }
  };
}
