import { useEffect, useState } from 'react';
import type { SoundCells } from '@violet-crate/core/bed/space';
import { soundCells, type SoundFile } from '@violet-crate/core/stages/pack/soundFile';
import { request } from '../api/http.ts';
import { useAppSelector } from '../state/store.ts';

/** How sound goes through the open map as it was built last; null while that is not known. */
export function useSoundCells(wanted: boolean): SoundCells | null {
  const crateId = useAppSelector((s) => s.crate.view?.id ?? '');
  const mapName = useAppSelector((s) => s.map.name);
  const build = useAppSelector((s) =>
    s.crate.builds?.find((one) => one.ok && one.map === mapName && one.artefacts.some(({ path }) => path.endsWith('/sound.json'))),
  );
  const [cells, setCells] = useState<SoundCells | null>(null);
  const id = build?.id;
  useEffect(() => {
    if (!wanted || id === undefined) return setCells(null);
    let gone = false;
    request(`/api/crates/${crateId}/builds/${id}/files/maps/${mapName}/sound.json`)
      .then((answer) => answer.json() as Promise<SoundFile>)
      .then((file) => !gone && setCells(soundCells(file)))
      // Without it sound goes straight and through walls, which is said where it is shown.
      .catch(() => !gone && setCells(null));
    return () => {
      gone = true;
    };
  }, [wanted, id, crateId, mapName]);
  return cells;
}
