import { useCallback, useEffect, useState } from 'react';
import { getJson, message } from '../api/http.ts';
import type { ReleaseChanges, UploadEntry, WorkshopState } from '../api/types.ts';
import { refreshPackages } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** Milliseconds between two looks at an upload that is under way. */
const LOOK = 500;

export interface Publishing {
  changes: ReleaseChanges | null;
  uploads: UploadEntry[];
  workshop: WorkshopState | null;
  /** Why the workshop could not be asked. */
  problem: string;
  refresh(): void;
}

/** What is different since the last release, what is on its way, and what the workshop has. */
export function usePublishing(crateId: string): Publishing {
  const dispatch = useAppDispatch();
  const packages = useAppSelector((s) => s.crate.packages);
  const manifest = useAppSelector((s) => s.crate.view?.manifest);
  const [changes, setChanges] = useState<ReleaseChanges | null>(null);
  const [uploads, setUploads] = useState<UploadEntry[]>([]);
  const [workshop, setWorkshop] = useState<WorkshopState | null>(null);
  const [problem, setProblem] = useState('');
  const running = uploads.some(({ state }) => state === 'running');
  const look = useCallback(() => getJson<UploadEntry[]>(`/api/crates/${crateId}/uploads`).then(setUploads), [crateId]);
  const refresh = useCallback(() => {
    look().catch((error) => setProblem(message(error)));
    getJson<WorkshopState>(`/api/crates/${crateId}/workshop`)
      .then((state) => {
        setWorkshop(state);
        setProblem('');
      })
      .catch((error) => setProblem(message(error)));
  }, [crateId, look]);
  useEffect(refresh, [refresh]);
  useEffect(() => {
    getJson<ReleaseChanges>(`/api/crates/${crateId}/changes`)
      .then(setChanges)
      .catch(() => setChanges(null));
  }, [crateId, packages, manifest]);
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => void look().catch(() => {}), LOOK);
    return () => {
      clearInterval(timer);
      // It has ended: there is a release, or a reason why not.
      void dispatch(refreshPackages(crateId));
      refresh();
    };
  }, [running, look, refresh, dispatch, crateId]);
  return { changes, uploads, workshop, problem, refresh };
}
