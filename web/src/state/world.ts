import { createSelector } from '@reduxjs/toolkit';
import { isText } from '@violet-crate/core/crate/contents';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { RootState } from './store.ts';

/** The open crate with its game and the map as it is edited; null while it is loading. The same value while nothing of it changes. */
export const selectWorld = createSelector(
  [
    (s: RootState) => s.crate.view,
    (s: RootState) => s.crate.profile,
    (s: RootState) => s.crate.base,
    (s: RootState) => s.crate.required,
    (s: RootState) => s.crate.scripts,
    (s: RootState) => s.crate.data,
    (s: RootState) => s.crate.otherMaps,
    (s: RootState) => s.map.map,
    (s: RootState) => s.map.name,
  ],
  (view, profile, base, required, scripts, data, otherMaps, map, name): CrateWorld | null => {
    if (!view || !profile || !base || !map) return null;
    const files = view.files.filter((file) => !isText(file.path)).map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }));
    return { profile, base, required, crate: { manifest: view.manifest, maps: { ...otherMaps, [name]: map }, scripts, data, files } };
  },
);
