import { useMemo } from 'react';
import { isScript } from '@violet-crate/core/crate/contents';
import { libraryOf, type LibraryEntry } from '@violet-crate/core/library/library';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { useAppSelector } from '../store.ts';
import type { AssetSource } from '../three/assets3d.ts';

/** The open crate with its game; null while it is loading. */
export function useWorld(): CrateWorld | null {
  const { view, profile, base, scripts } = useAppSelector((s) => s.crate);
  const { map, name } = useAppSelector((s) => s.map);
  return useMemo(() => {
    if (!view || !profile || !base || !map) return null;
    const files = view.files.filter((file) => !isScript(file.path)).map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }));
    return { profile, base, crate: { manifest: view.manifest, maps: { [name]: map }, scripts, files } };
  }, [view, profile, base, scripts, map, name]);
}

export function useAssetSource(): AssetSource | null {
  const { view, profile } = useAppSelector((s) => s.crate);
  return useMemo(() => (view && profile ? { view, profileId: profile.id } : null), [view, profile]);
}

/** All assets and materials of crate and game. */
export function useLibrary(): LibraryEntry[] {
  const world = useWorld();
  const view = useAppSelector((s) => s.crate.view);
  const watch = useAppSelector((s) => s.crate.watch);
  return useMemo(() => {
    if (!world || !view) return [];
    const findings = new Map(view.files.filter((file) => file.findings.length > 0).map((file) => [file.path, file.findings]));
    return libraryOf({ world, findings, stale: new Set(watch?.stale.map((s) => s.asset)) });
  }, [world, view, watch]);
}
