import { useMemo, useState } from 'react';
import { keysOf } from '@violet-crate/core/document/record';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { groundBelow, groundOf, groundsOf } from '@violet-crate/core/terrain/ground';
import { ringOnGround } from '@violet-crate/core/terrain/ray';
import { shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import { drawLabel, toScreen, tracePolygon, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { Icon } from '../../common/Icon.tsx';
import { shownOnPlan } from '../../state/lookingSlice.ts';
import { documentOf } from '../../state/mapSlice.ts';
import { store, useAppDispatch, useAppSelector } from '../../state/store.ts';
import { selectionKey, viewChanged } from '../../state/viewSlice.ts';
import { arrow } from '../editing/arrow.ts';
import { classFor, paint, placeObject } from '../editing/edits.ts';
import { showGhost, useGhost } from '../editing/ghost.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { brushGround } from '../ground/brushing.ts';
import { drawContours, drawGround, drawThings, TilePictures, type GroundLook } from '../ground/groundPlan.ts';
import { surfaceColours } from '../ground/groundColours.ts';
import { fallsTo, slopeWordAt, slopeWords } from '../ground/slopeWords.ts';
import { PLAYER } from '@violet-crate/core/document/schema';
import { hasPart } from '@violet-crate/core/profile/parts';
import { sightOf } from '@violet-crate/core/sight/sightOf';
import { selectWorld } from '../../state/world.ts';
import { drawScene, drawSight, stage } from '../people/peopleDraw.ts';
import { drawRoutes } from '../route/routeDraw.ts';
import { MEMBER_LOOKS } from '../member/members.ts';
import { FlatView, type SheetProps } from './FlatView.tsx';
import { finishedPath } from './gesture/path.ts';
import type { Move } from './gesture/move.ts';
import { drawOverlays } from './overlays.ts';
import { drawCoverage } from './planCoverage.ts';
import { drawChosen, drawPlanBase, type PlanScene } from './planDraw.ts';
import { planCut, planProjection } from './projection/planProjection.ts';
import type { SheetPointer } from './projection/pointer.ts';
import { drawLinesInPlan } from './projectionLines.ts';
import { useGestures } from './useGestures.ts';
import { useLengthWords } from '../../common/useShownUnit.ts';

/** Ground is drawn in its own colours in both themes, and so are the lines on it. */
const CONTOUR_INK = '#38264f';

const NO_MATERIALS: readonly never[] = [];

const steepness = ([, , z]: Vec3): number => (Math.acos(Math.min(1, z)) * 180) / Math.PI;

/** The map from above, cut within the active band: the sheet on which it is drawn. */
export function PlanView({ aligned, ...looked }: SheetProps & { aligned: boolean }) {
  const dispatch = useAppDispatch();
  const doc = useDocument();
  const { map, whole, profile, view, band, snap } = doc;
  const lengths = useLengthWords();
  const length = (value: number) => lengths(snap(value));
  const opened = useAppSelector((s) => s.map.opened);
  const real = useAppSelector((s) => s.map.map)!;
  const colours = useSheetColours();
  const { coverage, onPlan } = useAppSelector((s) => s.looking);
  const mapName = useAppSelector((s) => s.map.name);
  const crateId = useAppSelector((s) => s.crate.view?.id);
  const cameBy = onPlan && coverage && coverage.map === mapName && coverage.crateId === crateId ? coverage.data : null;
  const ghost = useGhost();
  const world = useAppSelector(selectWorld);
  // What the chosen people see; of all while the panel is theirs.
  const watchers = view.panel === 'people' ? Object.keys(whole.objects) : view.selection.objects;
  const watching = watchers.filter((id) => whole.objects[id] && hasPart(profile, whole.objects[id].class, 'actor')).join(' ');
  const sights = useMemo(
    () => (world ? watching.split(' ').flatMap((id) => (whole.objects[id] ? (sightOf(world, whole, whole.objects[id]) ?? []) : [])) : []),
    [world, whole, watching],
  );
  const scenePlayed = useMemo(
    () => (world && view.panel === 'people' && view.scene !== '' ? stage(world, whole, view.scene, view.sceneSide) : null),
    [world, whole, view.panel, view.scene, view.sceneSide],
  );
  const projection = useMemo(
    () => planProjection(doc),
    // `useDocument` makes its answer anew at every render; what of it matters here is listed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [map, whole, profile, view.selection, view.mode, view.hidden, view.hiddenLayers, view.snapCorners, view.snap, view.grid, view.tool, band],
  );
  const gestures = useGestures(doc, projection);
  const { hover } = gestures;
  const { tool, selection, mode } = view;
  const [pictures] = useState(() => new TilePictures());
  const own = useAppSelector((s) => s.crate.view?.manifest.materials) ?? NO_MATERIALS;
  const base = useAppSelector((s) => s.crate.base);
  const words = useMemo(() => slopeWords(profile), [profile]);
  const looks = useMemo(
    () =>
      Object.fromEntries(
        Object.entries(map.terrains).map(([id, terrain]): [string, GroundLook] => [
          id,
          {
            colours: surfaceColours(terrain, own, base),
            slopes: view.groundLook === 'slope' ? words : null,
            contours: view.contours,
            ink: CONTOUR_INK,
            ground: '#f4eefb',
          },
        ]),
      ),
    [map.terrains, own, base, view.groundLook, view.contours, words],
  );
  const drawGrounds = (canvas: Canvas2d, at: Sheet) => {
    if (view.groundLook === 'none') return;
    for (const ground of groundsOf(map)) {
      drawGround(canvas, at, ground, looks[ground.id], pictures);
      if (view.contours) drawContours(canvas, at, ground, looks[ground.id], profile.unit.metres === 1 ? 'm' : profile.unit.plural);
      drawThings(canvas, at, ground, colours.ground);
    }
  };
  const scene: PlanScene = { map, whole, profile, view, cut: planCut(band), band, colours };

  /** A model or sound is placed, a material covers the uppermost solid there. */
  const dropAsset = (id: string, pointer: SheetPointer) => {
    if (id.startsWith('material:')) {
      const target = projection.pick(pointer).find((s) => s.kind === 'solids');
      return gestures.apply(target && { edit: paint(map, { solids: [target.id] }, id.slice('material:'.length)) });
    }
    const kind = id.startsWith('sounds/') ? 'sound' : 'model';
    const target = classFor(profile, kind);
    const at = projection.snapped(pointer.at, pointer.sheet.scale);
    if (target) gestures.apply(placeObject(map, profile, target.id, at, band, { kind, path: id }));
  };

  /** The brush shows how far it reaches, on the ground and in all views. */
  const hovered = (pointer: SheetPointer) => {
    gestures.onHover(pointer);
    if (tool !== 'ground') return;
    const id = brushGround(map, view.terrain);
    const ground = id && groundOf(map, id);
    if (ground)
      showGhost({
        solids: [],
        lines: [ringOnGround(ground, pointer.at[0], pointer.at[1], view.brushSettings.radius, profile.player.stepHeight / 4)],
      });
  };

  const finishPath = () => {
    // The map as it is now: a key may finish a path after others have changed the map.
    const { map: slice, view: now } = store.getState();
    gestures.apply(finishedPath(documentOf(slice.map!, slice.opened), now.pathDraft, false));
  };

  const draw = (canvas: Canvas2d, at: Sheet) => {
    const { context } = canvas;
    const place = (p: readonly number[]): Point2 => toScreen(at, canvas, [p[0], p[1]]);
    if (ghost?.ground && view.groundLook !== 'none')
      drawGround(canvas, at, ghost.ground.ground, looks[ghost.ground.ground.id], pictures, ghost.ground.tiles);
    const moved = gestures.doing === 'move' ? (gestures.state as Move) : null;
    if (moved?.copies) drawChosen(canvas, at, scene, [0, 0]);
    drawChosen(canvas, at, scene, moved?.by ?? [0, 0]);
    for (const sight of sights) drawSight(context, place, at.scale, sight, colours);
    if (scenePlayed)
      drawScene(
        {
          context,
          place,
          scale: at.scale,
          colours,
          nameOf: (id) => (id === PLAYER ? 'player' : (whole.objects[id]?.name ?? id)),
          radius: profile.player.radius,
        },
        scenePlayed,
        view.sceneTime,
        new Set(whole.sequences[view.scene].steps.map(({ who }) => who)),
      );
    if (aligned) drawLinesInPlan(canvas, at, map, view, colours.warm);
    if (opened) drawAround(context, place);
    drawSectionLine(context, place);
    if (view.pathDraft.length > 0)
      MEMBER_LOOKS.paths.draw!({ context, place, colours, chosen: true }, { name: '', points: view.pathDraft, loop: false });
    if (tool === 'measure') drawMeasured(context, place);
    drawOverlays(canvas, at, gestures, ghost, colours, hintOf());
    if (view.figure && hover) {
      context.strokeStyle = colours.clear;
      context.beginPath();
      context.arc(...hover.screen, profile.player.radius * at.scale, 0, 2 * Math.PI);
      context.stroke();
    }
  };

  /** Around an opened prefab, its map in outline. */
  const drawAround = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    context.strokeStyle = colours.faint;
    context.globalAlpha = 0.22;
    context.lineWidth = 1;
    for (const solid of Object.values(real.solids)) {
      tracePolygon(context, shapeOf(solid).outline.map(place));
      context.stroke();
    }
    context.globalAlpha = 1;
  };

  const drawSectionLine = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    const [a, b] = [place(view.section.from), place(view.section.to)];
    context.strokeStyle = colours.warm;
    context.lineWidth = 1.2;
    context.setLineDash([10, 4, 2, 4]);
    context.beginPath();
    context.moveTo(...a);
    context.lineTo(...b);
    context.stroke();
    context.setLineDash([]);
    drawLabel(context, 'S', a[0] - 12, a[1] + 4, colours.warm, colours.ground);
    drawLabel(context, "S'", b[0] + 6, b[1] + 4, colours.warm, colours.ground);
  };

  const drawMeasured = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    const next: Vec3[] = hover && view.measure.length > 0 ? [[snap(hover.at[0]), snap(hover.at[1]), 0]] : [];
    const points = [...view.measure, ...next].map(place);
    context.strokeStyle = colours.clear;
    context.lineWidth = 2;
    for (let i = 1; i < points.length; i++) arrow(context, points[i - 1], points[i]);
    view.measure.forEach((p, i) =>
      drawLabel(context, `${i + 1}: z ${Math.round(p[2])}`, points[i][0] + 8, points[i][1] - 6, colours.clear, colours.ground),
    );
  };

  /** What the tool wants next. */
  const hintOf = (): string => {
    if (gestures.doing) return '';
    if (view.picking) return 'Click the object (Esc to leave it)';
    if (tool === 'path') return view.pathDraft.length < 2 ? 'Click the points of the path' : 'Enter ends it, the first point closes it';
    if (tool === 'cut') return `Drag a line across; ${view.keep === 'both' ? 'both parts stay' : `the ${view.keep} part stays`}`;
    if (tool === 'measure' && view.measure.length === 0) return 'Click two or more points';
    if (tool === 'place') return `Click where ${view.placePrefab ? 'the copy' : 'it'} stands`;
    if (tool === 'ground') return keysOf(map.terrains).length > 0 ? '' : 'This map has no ground: make one in the panel Ground';
    if (tool === 'note') return 'Drag from what it is about to where its text stands';
    if ((mode === 'corners' || mode === 'edges') && selection.solids.length === 0) return `Select a solid to see its ${mode}`;
    return '';
  };

  const begin = keysOf(whole.solids).length === 0 && keysOf(map.terrains).length === 0 && !opened && tool === 'select';
  const under = hover && groundBelow(groundsOf(map), hover.at[0], hover.at[1]);
  const normal = under?.ground.normalAt(...hover!.at);
  const lie = normal && [slopeWordAt(words, steepness(normal)), fallsTo(normal) && `falls ${fallsTo(normal)}`].filter(Boolean).join(', ');
  const onGround = under ? `  ground ${under.height.toFixed(1)}, ${lie}` : '';
  return (
    <FlatView
      label={opened ? `Plan, prefab ${real.prefabs[real.copies[opened]?.prefab]?.name ?? ''}` : `Plan, ${band.name}`}
      testId="plan"
      {...looked}
      drawBase={(canvas, at) => {
        drawPlanBase(canvas, at, scene, () => {
          drawGrounds(canvas, at);
          const place = (p: readonly number[]): Point2 => toScreen(at, canvas, [p[0], p[1]]);
          drawRoutes({ context: canvas.context, place, scale: at.scale, colours }, map, whole, profile, view.jumpSpeed);
        });
        if (cameBy)
          drawCoverage(canvas.context, (p) => toScreen(at, canvas, [p[0], p[1]]), at.scale, { data: cameBy, profile, map: whole, band, colours });
      }}
      baseOf={[
        cameBy,
        looks,
        view.jumpSpeed,
        view.groundLook,
        whole,
        map,
        colours,
        band,
        view.grid,
        view.showSignals,
        view.hidden,
        view.hiddenLayers,
        view.compared,
        selectionKey(selection),
      ]}
      draw={draw}
      onPress={gestures.onPress}
      onDrag={gestures.onDrag}
      onRelease={gestures.onRelease}
      onCancel={gestures.onCancel}
      onDropAsset={dropAsset}
      onHover={hovered}
      onEnter={() => tool === 'path' && finishPath()}
      cursor={tool === 'select' && !view.picking ? 'default' : 'crosshair'}
      readout={
        hover
          ? `x ${length(hover.at[0])}  y ${length(hover.at[1])}  grid ${lengths(view.grid)}${view.snap ? '' : ' (free)'}${onGround}`
          : `grid ${lengths(view.grid)}`
      }
    >
      {(view.trail || cameBy) && (
        <div className="controls below-caption">
          {view.trail && (
            <button className="btn btn-warm" onClick={() => dispatch(viewChanged({ trail: null }))} title="Hide the trail of the leak">
              <Icon name="x" /> Leak trail
            </button>
          )}
          {cameBy && (
            <button className="btn btn-warm" onClick={() => dispatch(shownOnPlan(false))} title="Hide where players were in the runs">
              <Icon name="x" /> What runs came by
            </button>
          )}
        </div>
      )}
      {begin && (
        <div className="begin">
          <div>
            <h2>An empty map</h2>
            <p className="faint mb-2">
              Begin with a room: press the button, then drag its floor here. Its height comes from the band in the section below.
            </p>
            <button className="btn btn-primary" onClick={() => dispatch(viewChanged({ tool: 'room' }))}>
              Draw a room <kbd>2</kbd>
            </button>
          </div>
        </div>
      )}
    </FlatView>
  );
}
