import { useMemo } from 'react';
import { toScreen, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { groundsOf } from '@violet-crate/core/terrain/ground';
import { useGhost } from '../editing/ghost.ts';
import { drawGroundSection, gradientAt } from '../ground/groundSection.ts';
import { slopeWords } from '../ground/slopeWords.ts';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { drawFlight, flightsNear } from '../route/routeDraw.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { FlatView, type SheetProps } from './FlatView.tsx';
import type { BandDrag } from './gesture/band.ts';
import type { Move } from './gesture/move.ts';
import { drawOverlays } from './overlays.ts';
import { selectionKey } from '../../state/viewSlice.ts';
import { drawLinesInSection } from './projectionLines.ts';
import { drawBand, drawCut, drawSectionBase, type SectionScene } from './sectionDraw.ts';
import { cutThrough, sectionProjection } from './projection/sectionProjection.ts';
import { useGestures } from './useGestures.ts';
import { useLengthWords } from '../../common/useShownUnit.ts';

/** The upright cut along the plan's section line, with the active band as a pair of handles. */
export function SectionView({ aligned, ...looked }: SheetProps & { aligned: boolean }) {
  const doc = useDocument();
  const { map, whole, profile, view, band, snap } = doc;
  const lengths = useLengthWords();
  const length = (value: number) => lengths(snap(value));
  const colours = useSheetColours();
  const ghost = useGhost();
  const cut = useMemo(
    () => cutThrough(doc),
    // `useDocument` makes its answer anew at every render; what of it matters here is listed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [map, whole, profile, view.section, view.selection, view.hidden, view.hiddenLayers],
  );
  const projection = useMemo(
    () => sectionProjection(doc, cut),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [cut, view.mode, view.tool, view.snapCorners, view.snap, view.grid],
  );
  const gestures = useGestures(doc, projection);
  const { hover, doing, state } = gestures;
  const scene: SectionScene = { doc, cut, projection, colours };

  const draw = (canvas: Canvas2d, at: Sheet) => {
    for (const flight of flightsNear(map, profile, cut.line, view.jumpSpeed))
      drawFlight(
        { context: canvas.context, place: (p) => toScreen(at, canvas, projection.project(p as Vec3)), scale: at.scale, colours },
        flight.path,
        flight.landing,
      );
    if (ghost?.ground) drawGroundSection(canvas, at, ghost.ground.ground, cut.line, colours, true);
    const moved = doing === 'move' ? (state as Move) : null;
    if (moved?.copies) drawCut(canvas, at, scene, true, [0, 0]);
    drawCut(canvas, at, scene, true, moved?.by ?? [0, 0]);
    if (aligned) drawLinesInSection(canvas, at, map, view, colours.warm);
    const dragged = doing === 'band' ? (state as BandDrag) : null;
    drawBand(canvas, at, dragged ? { ...band, [dragged.edge]: dragged.value } : band, colours);
    drawOverlays(canvas, at, gestures, ghost, colours);
    if (view.figure && hover) {
      const { radius, height } = profile.player;
      const [x0, y0] = toScreen(at, canvas, [hover.at[0] - radius, hover.at[1] + height]);
      const [x1, y1] = toScreen(at, canvas, [hover.at[0] + radius, hover.at[1]]);
      canvas.context.strokeStyle = colours.clear;
      canvas.context.strokeRect(x0, y0, x1 - x0, y1 - y0);
    }
  };

  const grounds = groundsOf(map);
  const gradient = hover && grounds.map((ground) => gradientAt(ground, cut.line, hover.at[0], slopeWords(profile))).find(Boolean);
  const axis = cut.axis === null ? 'along' : 'xy'[cut.axis];
  return (
    <FlatView
      label="Section S–S'"
      testId="section"
      {...looked}
      drawBase={(canvas, at) =>
        drawSectionBase(canvas, at, scene, () => grounds.forEach((ground) => drawGroundSection(canvas, at, ground, cut.line, colours, false)))
      }
      baseOf={[map.terrains, map.tiles, cut, colours, band, view.grid, selectionKey(view.selection)]}
      draw={draw}
      onPress={gestures.onPress}
      onDrag={gestures.onDrag}
      onRelease={gestures.onRelease}
      onCancel={gestures.onCancel}
      onHover={gestures.onHover}
      cursor={view.tool === 'select' ? 'default' : 'crosshair'}
      readout={hover ? `${axis} ${length(hover.at[0])}  z ${length(hover.at[1])}${gradient ? `  ${gradient}` : ''}` : ''}
    />
  );
}
