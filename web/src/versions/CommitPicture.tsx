import { useEffect, useRef, useState } from 'react';
import type { MapDifference } from '@violet-crate/core/document/changeWords';
import type { GameMap } from '@violet-crate/core/document/schema';
import { getJson } from '../api/http.ts';
import { MapPicture } from '../common/MapPicture.tsx';

/** A map as it was at a commit, drawn once it comes into sight; what the commit touched stands out. */
export function CommitPicture({ at, hash, path, touched }: { at: string; hash: string; path: string; touched?: MapDifference['touched'] }) {
  const host = useRef<HTMLDivElement>(null);
  const [map, setMap] = useState<GameMap | null>(null);
  useEffect(() => {
    const load = () =>
      void getJson<GameMap>(`${at}/commits/${hash}/map?path=${encodeURIComponent(path)}`)
        .then(setMap)
        .catch(() => {});
    const watcher = new IntersectionObserver(([entry]) => {
      if (!entry.isIntersecting) return;
      watcher.disconnect();
      load();
    });
    watcher.observe(host.current!);
    return () => watcher.disconnect();
  }, [at, hash, path]);
  return (
    <div ref={host} className="commit-picture">
      {map && <MapPicture map={map} touched={touched} />}
    </div>
  );
}
