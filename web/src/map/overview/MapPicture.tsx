import './overview.css';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { Modal, Spinner } from 'react-bootstrap';
import fontAddress from 'dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf?url';
import { expandWorld } from '@violet-crate/core/map/prefab';
import type { Drawing, DrawnPlace } from '@violet-crate/core/overview/drawing';
import { overviewInputs } from '@violet-crate/core/overview/inputs';
import { isSymbol } from '@violet-crate/core/overview/symbols';
import { own } from '@violet-crate/core/own';
import { previewUrl } from '../../api/assetUrl.ts';
import { saveFile } from '../../common/saveFile.ts';
import { Icon } from '../../common/Icon.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { selectWorld } from '../../state/world.ts';
import type { OverviewAnswer, OverviewOrder } from './overviewWorker.ts';

/** Side at which it is drawn here; the build draws the sizes that the game wants. */
const SIDE = 1024;

/** The picture of the map as the game shows it to its players; labels are dragged, or moved with the arrow keys. */
export function MapPicture({ close }: { close(): void }) {
  const dispatch = useAppDispatch();
  const world = useAppSelector(selectWorld);
  const view = useAppSelector((s) => s.crate.view);
  const name = useAppSelector((s) => s.map.name);
  const map = useAppSelector((s) => s.map.map);
  const sides = world?.profile.mapPicture?.sides;
  const { drawing, trouble } = useDrawing();
  const moved = map ? Object.keys(map.objects).filter((id) => map.objects[id].labelAt) : [];
  /** Puts the middle of a label at a place of the picture, in pixels of the drawing. */
  const put = (place: DrawnPlace, middle: readonly [number, number]) => {
    if (!map || !drawing) return;
    const object = map.objects[place.id];
    const perUnit = drawing.width / (drawing.max[0] - drawing.min[0]);
    const labelAt: [number, number] = [0, 1].map((k) => Math.round(((middle[k] - place.at[k]) / perUnit) * (k === 0 ? 100 : -100)) / 100) as [
      number,
      number,
    ];
    dispatch(edited({ name: `move the label of ${object.name}`, changes: [{ of: 'objects', id: place.id, to: { ...object, labelAt } }] }));
  };
  const reset = () =>
    map &&
    dispatch(
      edited({
        name: 'put labels back',
        changes: moved.map((id) => {
          const { labelAt: _, ...object } = map.objects[id];
          return { of: 'objects', id, to: object };
        }),
      }),
    );
  return (
    <Modal show onHide={close} size="xl" aria-labelledby="map-picture">
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="map-picture">
          Picture of {name}
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="d-flex gap-2 align-items-center mb-2">
          <p className="faint small m-0 flex-grow-1">
            {sides
              ? `Drawn from the map at every build, ${sides.join(' and ')} pixels wide or high. Drag labels, or move them with the arrow keys.`
              : `${world?.profile.title ?? 'The game'} shows its players no map: builds leave it out.`}
          </p>
          {moved.length > 0 && (
            <button className="btn btn-quiet btn-sm" onClick={reset}>
              <Icon name="arrow-counterclockwise" /> Labels where they were
            </button>
          )}
          {drawing && (
            <button className="btn btn-quiet btn-sm" onClick={() => takeOut(drawing, `${view?.manifest.name ?? 'map'}_${name}.svg`)}>
              <Icon name="download" /> SVG
            </button>
          )}
        </div>
        {trouble && (
          <p role="alert" className="text-warm">
            <Icon name="exclamation-triangle" /> {trouble}
          </p>
        )}
        {drawing === undefined && !trouble && (
          <p role="status" className="faint">
            <Spinner size="sm" /> Drawing …
          </p>
        )}
        {drawing === null && (
          <div className="empty">
            <h3>Nothing to draw yet</h3>
            Make ground or draw a solid first.
          </div>
        )}
        {/* Places of prefabs are moved with them: only the map's own have labels of their own. */}
        {drawing && map && <Sheet drawing={drawing} nameOf={(id) => own(map.objects, id)?.name ?? null} put={put} />}
      </Modal.Body>
    </Modal>
  );
}

/** Without the pictures of places: they are files of this server, which a file elsewhere does not find. */
function takeOut({ svg }: Drawing, file: string): void {
  saveFile(file, new Blob([svg.replace(/<image [^>]*href="\/[^>]*>/g, '')], { type: 'image/svg+xml' }));
}

/** Drawn in a worker whenever what it is drawn from has changed; undefined at first, null where there is nothing to draw. */
function useDrawing(): { drawing: Drawing | null | undefined; trouble: string } {
  const world = useAppSelector(selectWorld);
  const view = useAppSelector((s) => s.crate.view);
  const name = useAppSelector((s) => s.map.name);
  const [drawing, setDrawing] = useState<Drawing | null | undefined>(undefined);
  const [trouble, setTrouble] = useState('');
  const inputs = useMemo(() => (world ? overviewInputs(expandWorld(world), name) : null), [world, name]);
  const worker = useRef<Worker | null>(null);
  useEffect(() => {
    const own = new Worker(new URL('./overviewWorker.ts', import.meta.url), { type: 'module' });
    worker.current = own;
    own.onerror = (event) => {
      event.preventDefault();
      setTrouble('The picture could not be drawn. Close it and try again.');
    };
    own.onmessage = ({ data }: MessageEvent<OverviewAnswer>) => {
      if ('trouble' in data) setTrouble(data.trouble);
      else setDrawing(data.drawing);
    };
    return () => own.terminate();
  }, []);
  useEffect(() => {
    if (!inputs || !view || !world) return;
    const source = { view, profileId: world.profile.id };
    const icons = Object.values(inputs.places).flatMap(({ icon }) => (icon === '' || isSymbol(icon) ? [] : [icon]));
    const pictures = Object.fromEntries(icons.map((icon) => [icon, previewUrl(source, icon)]));
    worker.current?.postMessage({ inputs, side: SIDE, pictures, font: fontAddress } satisfies OverviewOrder);
  }, [inputs, view, world]);
  return { drawing, trouble };
}

interface SheetProps {
  drawing: Drawing;
  /** Null of what is not the map's own. */
  nameOf(id: string): string | null;
  put(place: DrawnPlace, middle: readonly [number, number]): void;
}

/** Pixels of the drawing by which an arrow key moves a label; with Shift a tenth of it. */
const STEP = 10;

function Sheet({ drawing, nameOf, put }: SheetProps) {
  const sheet = useRef<HTMLDivElement>(null);
  /** Where the label that is dragged is now, off where it was. */
  const [drag, setDrag] = useState<{ id: string; from: [number, number]; by: [number, number] } | null>(null);
  const percent = (v: number, of: number) => `${(v / of) * 100}%`;
  /** Pixels of the drawing in one of the screen. */
  const factor = () => drawing.width / (sheet.current?.clientWidth || drawing.width);
  return (
    <div className="overview-sheet" ref={sheet} style={{ maxWidth: `calc((100vh - 15rem) * ${drawing.width / drawing.height})` }}>
      {/* The drawing is made of numbers and outlines; names in it are outlines too, and addresses are escaped. */}
      <div dangerouslySetInnerHTML={{ __html: drawing.svg }} />
      {drawing.places.map((place) => {
        const name = nameOf(place.id);
        if (!place.label || name === null) return null;
        const [l, t, r, b] = place.label;
        const by = drag?.id === place.id ? drag.by : [0, 0];
        const middle = (dx: number, dy: number): [number, number] => [(l + r) / 2 + dx, (t + b) / 2 + dy];
        const onKeyDown = (event: KeyboardEvent) => {
          const step = event.shiftKey ? STEP / 10 : STEP;
          const ways: Record<string, [number, number]> = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] };
          const way = ways[event.key];
          if (!way) return;
          event.preventDefault();
          put(place, middle(...way));
        };
        const onPointerDown = (event: PointerEvent) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ id: place.id, from: [event.clientX, event.clientY], by: [0, 0] });
        };
        const onPointerMove = (event: PointerEvent) =>
          drag?.id === place.id && setDrag({ ...drag, by: [event.clientX - drag.from[0], event.clientY - drag.from[1]] });
        const onPointerUp = () => {
          if (drag?.id !== place.id) return;
          setDrag(null);
          if (Math.hypot(...drag.by) > 2) put(place, middle(drag.by[0] * factor(), drag.by[1] * factor()));
        };
        return (
          <button
            key={place.id}
            className="map-label"
            aria-label={`Label of ${name}: arrow keys move it`}
            style={{
              left: percent(l - 3, drawing.width),
              top: percent(t - 2, drawing.height),
              width: percent(r - l + 6, drawing.width),
              height: percent(b - t + 4, drawing.height),
              transform: `translate(${by[0]}px, ${by[1]}px)`,
            }}
            onKeyDown={onKeyDown}
            onPointerDown={onPointerDown}
            onPointerMove={onPointerMove}
            onPointerUp={onPointerUp}
            onPointerCancel={() => setDrag(null)}
          />
        );
      })}
    </div>
  );
}
