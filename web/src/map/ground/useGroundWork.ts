import { useEffect, useRef, useState } from 'react';
import type { GroundWork } from '@violet-crate/core/terrain/work/groundWork';
import { documentOf, edited } from '../../state/mapSlice.ts';
import { store, useAppDispatch } from '../../state/store.ts';
import type { GroundAnswer, GroundOrder } from './groundWorker.ts';

/** Runs long work on the ground, one at a time, and applies what comes of it as one edit. */
export function useGroundWork() {
  const dispatch = useAppDispatch();
  const worker = useRef<Worker | null>(null);
  /** 0..1 while something runs. */
  const [progress, setProgress] = useState<number | null>(null);
  const [said, setSaid] = useState<{ text: string; trouble: boolean } | null>(null);
  const stop = () => {
    worker.current?.terminate();
    worker.current = null;
    setProgress(null);
  };
  useEffect(() => stop, []);

  const run = (id: string, work: GroundWork) => {
    const { map, opened } = store.getState().map;
    if (!map || worker.current) return;
    setSaid(null);
    setProgress(0);
    const own = new Worker(new URL('./groundWorker.ts', import.meta.url), { type: 'module' });
    worker.current = own;
    own.onerror = (event) => {
      event.preventDefault();
      stop();
      setSaid({ text: 'The work on the ground has failed; nothing was changed.', trouble: true });
    };
    own.onmessage = ({ data }: MessageEvent<GroundAnswer>) => {
      if ('progress' in data) return setProgress(data.progress);
      stop();
      if ('refusal' in data) return setSaid({ text: data.refusal, trouble: true });
      const { name, changes, moved } = data.done;
      if (changes.length > 0) dispatch(edited({ name, changes }));
      const volumes = moved
        ? ` ${Math.round(moved.cut).toLocaleString('en')} cut, ${Math.round(moved.filled).toLocaleString('en')} filled (cubic units).`
        : '';
      setSaid({ text: changes.length > 0 ? `Done: ${changes.length} members changed.${volumes}` : 'Nothing would change.', trouble: false });
    };
    own.postMessage({ map: documentOf(map, opened), id, work } satisfies GroundOrder);
  };
  return { run, stop, progress, said };
}
