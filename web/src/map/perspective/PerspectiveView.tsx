import { useEffect, useMemo, useRef, useState } from 'react';
import { expandMap } from '@violet-crate/core/map/prefab';
import { Icon } from '../../common/Icon.tsx';
import { useAssetSource } from '../../common/useLibrary.ts';
import { ASSET_DRAG, draggedAsset } from '../../common/assetDrag.ts';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { selectWorld } from '../../state/world.ts';
import { Stage3d } from '../../three/stage3d.ts';
import { provideCamera } from '../editing/camera.ts';
import { paint } from '../editing/edits.ts';
import { message } from '../../api/http.ts';
import { useTakenPicture } from '../../common/useTakenPicture.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { chosenByClick, HitCycle, pickedProperty } from './perspectiveClick.ts';
import { PerspectiveScene } from './perspectiveScene.ts';
import { useBuiltLight } from './useBuiltLight.ts';
import { useListening } from './useListening.ts';
import { usePerspectiveDecal } from './usePerspectiveDecal.ts';
import { usePerspectiveBrush } from './usePerspectiveBrush.ts';
import { usePerspectiveDrag } from './usePerspectiveDrag.ts';

/** Pixels that the pointer may move between press and release of a click. */
const STILL = 4;

/** The solids to draw: around an opened prefab stands the rest of its map, to be seen but not touched. */
function useShownSolids() {
  const { whole, profile } = useDocument();
  const real = useAppSelector((s) => s.map.map)!;
  const opened = useAppSelector((s) => s.map.opened);
  return useMemo(() => {
    if (!opened) return whole.solids;
    const { [opened]: _own, ...copies } = real.copies;
    const around = Object.entries(expandMap({ ...real, copies }, profile).solids).map(([id, solid]) => [`around_${id}`, solid]);
    return { ...Object.fromEntries(around), ...whole.solids } as typeof whole.solids;
  }, [opened, real, whole, profile]);
}

/**
 * The map in perspective: drag to turn, right-drag to move, wheel to come nearer, click to select a face; what is
 * selected can be dragged (`usePerspectiveDrag`). What stands in it is `PerspectiveScene`'s.
 */
export function PerspectiveView() {
  const dispatch = useAppDispatch();
  const { map, whole, profile, view, band } = useDocument();
  const mapName = useAppSelector((s) => s.map.name);
  const solids = useShownSolids();
  const world = useAppSelector(selectWorld);
  const source = useAssetSource();
  const colours = useSheetColours();
  const host = useRef<HTMLDivElement>(null);
  const [scene, setScene] = useState<PerspectiveScene | null>(null);
  const [exposure, setExposure] = useState(1.5);
  const [taken, setTaken] = useState('');
  const [speed, setSpeed] = useState<number | null>(null);
  const game = view.look === 'game';

  useEffect(() => {
    const stage = new Stage3d(host.current!, '#17101d');
    const made = new PerspectiveScene(stage, host.current!, setSpeed);
    provideCamera({ get: () => made.place(), set: (place) => made.goTo(place) });
    setScene(made);
    return () => {
      provideCamera(null);
      made.dispose();
      stage.dispose();
    };
  }, []);

  const { stands, probes, ...built } = useBuiltLight(scene, view.builtLight, exposure, source);
  useEffect(() => {
    if (scene && world && source) scene.update({ world, source, mapName, map, whole, solids, view, band, colours, stands, probes });
  });
  useListening(scene, source);
  const drag = usePerspectiveDrag(scene, host);
  const brush = usePerspectiveBrush(scene);
  const decal = usePerspectiveDecal(scene);

  const press = useRef<[number, number]>([0, 0]);
  const [cycle] = useState(() => new HitCycle());
  const isClick = (event: React.PointerEvent) => Math.hypot(event.clientX - press.current[0], event.clientY - press.current[1]) <= STILL;
  const click = (event: React.PointerEvent) => {
    if (!scene || event.button !== 0 || !isClick(event)) return;
    if (decal.onClick(event)) return;
    const hits = scene.pick(event);
    const add = event.shiftKey;
    if (hits.length === 0) return add ? undefined : void dispatch(selected(null));
    if (!view.picking) return void dispatch(selected(chosenByClick(map, view, cycle.next(hits, add), add)));
    const edit = pickedProperty(map, view, hits);
    if (!edit) return;
    dispatch(edited(edit));
    dispatch(viewChanged({ picking: null }));
  };

  /** A material dropped here covers the face under the pointer. */
  const drop = (event: React.DragEvent) => {
    const id = draggedAsset(event);
    if (!id?.startsWith('material:') || !scene) return;
    event.preventDefault();
    const hit = scene.pick(event).find((h) => h.solid && map.solids[h.solid]);
    const edit = hit && paint(map, { solids: [], faces: [{ solid: hit.solid!, face: hit.face! }] }, id.slice('material:'.length));
    if (edit) dispatch(edited(edit));
  };

  const keep = useTakenPicture(source?.view.id ?? '');
  const takePicture = () => {
    if (!scene) return;
    keep(scene.takePicture(profile.package.thumbnailWidth, profile.package.thumbnailHeight))
      .catch(message)
      .then((word) => {
        setTaken(word);
        setTimeout(() => setTaken(''), 4000);
      });
  };

  const said = [game && 'as the game shows it', speed !== null && `flying at ${speed} m/s`, built.caption].filter(Boolean).join(', ');
  const trouble = [built.problem, drag.refusal].filter(Boolean).join(' ');
  return (
    <div className="sheet w-100 h-100">
      <div
        ref={host}
        className="w-100 h-100"
        data-testid="perspective"
        role="application"
        aria-label="Perspective view"
        tabIndex={0}
        onPointerDown={(e) => {
          press.current = [e.clientX, e.clientY];
          host.current!.focus();
        }}
        onPointerDownCapture={(event) =>
          void (brush.onPointerDownCapture(event) || decal.onPointerDownCapture(event) || drag.onPointerDownCapture(event))
        }
        onPointerUp={(event) => brush.onPointerUp() || decal.onPointerUp(!isClick(event)) || drag.onPointerUp(event) || click(event)}
        onPointerCancel={() => {
          brush.onPointerCancel();
          decal.onPointerCancel();
          drag.onPointerCancel();
        }}
        onPointerMove={(event) => {
          if (brush.onPointerMove(event) || decal.onPointerMove(event)) return;
          drag.onPointerMove(event);
          if (view.figure && event.buttons === 0) scene?.standAt(event);
        }}
        onDragOver={(event) => event.dataTransfer.types.includes(ASSET_DRAG) && event.preventDefault()}
        onDrop={drop}
      />
      {view.frame169 && <div className="frame-169" aria-hidden="true" />}
      <div className={`caption ${said || trouble ? '' : 'name-only'}`}>
        <span className="view-name">Perspective{said ? ', ' : ''}</span>
        {said}
        {trouble && <span className="text-warm">: {trouble}</span>}
      </div>
      {stands && (
        <label className="exposure small">
          Exposure
          <input type="range" min={0.2} max={6} step={0.1} value={exposure} onChange={(e) => setExposure(Number(e.target.value))} />
        </label>
      )}
      <div className="controls">
        <button
          className={`btn btn-quiet ${view.builtLight && built.offered ? 'active' : ''}`}
          aria-pressed={view.builtLight}
          disabled={!built.offered}
          onClick={() => dispatch(viewChanged({ builtLight: !view.builtLight }))}
          title={
            built.offered ? 'Show the last build, or the running one, with its light instead of the solids' : 'Build the map to see its light here'
          }
        >
          Built light
        </button>
        <button
          className={`btn btn-quiet ${view.playEffects ? 'active' : ''}`}
          aria-pressed={view.playEffects}
          onClick={() => dispatch(viewChanged({ playEffects: !view.playEffects }))}
          aria-label="Play effects"
          title="Effects of the map move"
        >
          <Icon name="stars" />
        </button>
        <button
          className={`btn btn-quiet ${view.listen ? 'active' : ''}`}
          aria-pressed={view.listen}
          onClick={() => dispatch(viewChanged({ listen: !view.listen }))}
          aria-label="Listen"
          title="Hear the sound beds where the camera is"
        >
          <Icon name={view.listen ? 'volume-up' : 'volume-mute'} />
        </button>
        <button
          className={`btn btn-quiet ${view.cutAway ? 'active' : ''}`}
          aria-pressed={view.cutAway}
          onClick={() => dispatch(viewChanged({ cutAway: !view.cutAway }))}
          title="Leave out what lies above the active band"
        >
          Cut at {band.top}
        </button>
        <button className="btn btn-quiet" onClick={takePicture} title="Keep this view as the package’s picture">
          {taken === '' ? 'Take picture' : taken}
        </button>
      </div>
    </div>
  );
}
