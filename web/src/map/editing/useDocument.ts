import { useEffect, useState } from 'react';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { expandMap } from '@violet-crate/core/map/prefab';
import { useAppSelector } from '../../state/store.ts';
import { themeColour } from '../../theme/theme.ts';
import { documentOf } from '../../state/mapSlice.ts';
import { presentSelection } from '../../state/viewSlice.ts';
import type { MarkColours } from '../../part/look.ts';

/**
 * The map that is shown and edited (an opened prefab stands for its map), its profile and the active band;
 * `whole` also has what copies of prefabs stand for. The map page renders only while they are there.
 */
export function useDocument() {
  const map = useAppSelector((s) => documentOf(s.map.map as GameMap, s.map.opened));
  const profile = useAppSelector((s) => s.crate.profile) as Profile;
  const whole = expandMap(map, profile);
  const stored = useAppSelector((s) => s.view);
  const selection = presentSelection(map, stored.selection);
  const view = selection === stored.selection ? stored : { ...stored, selection };
  const band = map.bands[view.band] ?? Object.values(map.bands)[0] ?? { name: 'Ground', ...profile.band };
  const step = view.snap ? view.grid : profile.grid.min / 4;
  const snap = (v: number) => Math.round(v / step) * step;
  return { map, whole, profile, view, band, snap, step };
}

/** What `useDocument` answers. */
export type Doc = ReturnType<typeof useDocument>;

export interface SheetColours extends MarkColours {
  sunken: string;
  line: string;
  faint: string;
  selected: string;
}

const readColours = (): SheetColours => ({
  ink: themeColour('--vc-ink'),
  ground: themeColour('--vc-surface'),
  violet: themeColour('--vc-violet'),
  warm: themeColour('--vc-warm'),
  clear: themeColour('--vc-clear'),
  sunken: themeColour('--vc-sunken'),
  line: themeColour('--vc-line'),
  faint: themeColour('--vc-faint'),
  selected: themeColour('--vc-selected'),
});

/** The theme's colours for canvases; read again when the theme changes. */
export function useSheetColours(): SheetColours {
  const [colours, setColours] = useState(readColours);
  useEffect(() => {
    const read = () => setColours(readColours());
    window.addEventListener('themechange', read);
    return () => window.removeEventListener('themechange', read);
  }, []);
  return colours;
}
