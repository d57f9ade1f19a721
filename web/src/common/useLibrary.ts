import { useMemo } from 'react';
import { libraryOf, type LibraryEntry } from '@violet-crate/core/library/library';
import { useAppSelector } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';
import type { AssetSource } from '../api/assetUrl.ts';

export function useAssetSource(): AssetSource | null {
  const { view, profile } = useAppSelector((s) => s.crate);
  return useMemo(() => (view && profile ? { view, profileId: profile.id } : null), [view, profile]);
}

/** All assets and materials of crate and game. */
export function useLibrary(): LibraryEntry[] {
  const world = useAppSelector(selectWorld);
  const view = useAppSelector((s) => s.crate.view);
  const watch = useAppSelector((s) => s.crate.watch);
  return useMemo(() => {
    if (!world || !view) return [];
    const findings = new Map(view.files.filter((file) => file.findings.length > 0).map((file) => [file.path, file.findings]));
    return libraryOf({ world, findings, stale: new Set(watch?.stale.map((s) => s.asset)) });
  }, [world, view, watch]);
}
