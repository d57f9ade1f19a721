import { toScreen } from '../../../common/sheet.ts';
import { gesture } from './gesture.ts';

export interface BandDrag {
  edge: 'bottom' | 'top';
  value: number;
}

/** Pixels: how near the handle a press has to be, and how wide the handles at the right are. */
const REACH = 8;
export const BAND_HANDLE = 130;

/** Drags the bottom or the top of the active band in the section. */
export const band = gesture<BandDrag>({
  id: 'band',
  begin({ doc, projection }, { at, sheet, canvas }) {
    if (projection.id !== 'section') return null;
    const [x, y] = toScreen(sheet, canvas, at);
    if (x <= canvas.width - BAND_HANDLE) return null;
    for (const edge of ['top', 'bottom'] as const)
      if (Math.abs(toScreen(sheet, canvas, [0, doc.band[edge]])[1] - y) <= REACH) return { state: { edge, value: doc.band[edge] } };
    return null;
  },
  drag({ edge }, { doc: { band: now, profile }, projection }, { at, sheet }) {
    const [, v] = projection.snapped(at, sheet.scale);
    const least = profile.grid.min;
    return { edge, value: edge === 'top' ? Math.max(v, now.bottom + least) : Math.min(v, now.top - least) };
  },
  commit: ({ edge, value }, { doc }) => ({
    edit: { name: `change band ${doc.band.name}`, changes: [{ of: 'bands', id: doc.view.band, to: { ...doc.band, [edge]: value } }] },
  }),
});
