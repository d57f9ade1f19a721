/**
 * One drawing sheet: canvas, panning, zooming and pointer handling. Plan and section differ in what they
 * draw and in what a drag means, which they hand in.
 */

import { useCallback, useEffect, useRef, useState, type PointerEvent as ReactPointerEvent, type ReactNode } from 'react';
import { ASSET_DRAG, draggedAsset } from '../panels/Shelf.tsx';
import { prepareCanvas, toSheet, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import type { Point2 } from '@violet-crate/core/solid/shape';

export interface SheetPointer {
  /** Sheet coordinates of the pointer now, and where the press began. */
  at: Point2;
  from: Point2;
  /** The pointer left the spot by more than a tremble. */
  moved: boolean;
  shift: boolean;
  alt: boolean;
  control: boolean;
  sheet: Sheet;
  canvas: { width: number; height: number };
}

export interface FlatViewProps {
  label: string;
  testId: string;
  fit(canvas: { width: number; height: number }): Sheet;
  /** Changes when the view should be fitted anew. */
  fitKey: string | number;
  focus: { point: Point2; count: number; frame?: number } | null;
  /** What stays while the pointer moves: drawn anew only when one of `baseOf`, the sheet or the size changes. */
  drawBase(canvas: Canvas2d, sheet: Sheet): void;
  baseOf: readonly unknown[];
  /** What lies over it: selection, gestures, labels. */
  draw(canvas: Canvas2d, sheet: Sheet): void;
  onPress(pointer: SheetPointer): void;
  onDrag(pointer: SheetPointer): void;
  onRelease(pointer: SheetPointer): void;
  onHover(pointer: SheetPointer): void;
  /** A library entry is dropped here. */
  onDropAsset?(id: string, pointer: SheetPointer): void;
  onEnter?(): void;
  cursor?: string;
  readout: string;
  children?: ReactNode;
}

const TREMBLE = 4;

export function FlatView(props: FlatViewProps) {
  const element = useRef<HTMLCanvasElement>(null);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const [size, setSize] = useState<{ width: number; height: number }>({ width: 0, height: 0 });
  const press = useRef<{ from: Point2; screen: Point2; moved: boolean; pan: Sheet | null } | null>(null);
  const base = useRef<{ canvas: HTMLCanvasElement; of: readonly unknown[] } | null>(null);
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });

  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setSize({ width: entry.contentRect.width, height: entry.contentRect.height }));
    observer.observe(element.current!);
    return () => observer.disconnect();
  }, []);

  const ready = size.width > 0;
  useEffect(() => {
    if (ready) setSheet(latest.current.fit({ width: element.current!.clientWidth, height: element.current!.clientHeight }));
  }, [props.fitKey, ready]);

  const focusCount = props.focus?.count;
  useEffect(() => {
    const { focus } = latest.current;
    if (!focus || !focusCount) return;
    const width = element.current!.clientWidth;
    const height = element.current!.clientHeight;
    // With a size to frame the sheet comes as near as shows it whole, but no nearer than before.
    setSheet(
      (old) => old && { scale: focus.frame ? Math.min(old.scale, (Math.min(width, height) / focus.frame) * 0.8) : old.scale, centre: focus.point },
    );
  }, [focusCount]);

  useEffect(() => {
    const redraw = () => {
      // The size is known from the observer: asking the element again would lay out the page at every move.
      const canvas = element.current && prepareCanvas(element.current, size);
      if (!canvas || !sheet) return;
      const { baseOf } = latest.current;
      const now = [sheet, canvas.width, canvas.height, window.devicePixelRatio, ...baseOf];
      if (!base.current) base.current = { canvas: document.createElement('canvas'), of: [] };
      if (now.length !== base.current.of.length || now.some((value, i) => value !== base.current!.of[i])) {
        base.current.of = now;
        const under = prepareCanvas(base.current.canvas, canvas);
        latest.current.drawBase(under!, sheet);
      }
      canvas.context.setTransform(1, 0, 0, 1, 0, 0);
      canvas.context.drawImage(base.current.canvas, 0, 0);
      canvas.context.setTransform(window.devicePixelRatio, 0, 0, window.devicePixelRatio, 0, 0);
      latest.current.draw(canvas, sheet);
    };
    redraw();
    window.addEventListener('themechange', redraw);
    return () => window.removeEventListener('themechange', redraw);
  });

  const pointer = useCallback(
    (
      event: { clientX: number; clientY: number; shiftKey: boolean; altKey: boolean; ctrlKey: boolean; metaKey: boolean },
      current: Sheet,
    ): SheetPointer => {
      const box = element.current!.getBoundingClientRect();
      const canvas = { width: box.width, height: box.height };
      const at = toSheet(current, canvas, [event.clientX - box.left, event.clientY - box.top]);
      return {
        at,
        from: press.current?.from ?? at,
        moved: press.current?.moved ?? false,
        shift: event.shiftKey,
        alt: event.altKey,
        control: event.ctrlKey || event.metaKey,
        sheet: current,
        canvas,
      };
    },
    [],
  );

  useEffect(() => {
    const canvas = element.current!;
    // React listens passively to wheels; zooming has to keep the page still.
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      setSheet((old) => {
        if (!old) return old;
        const { at } = pointer(event, old);
        const scale = Math.min(40, Math.max(0.02, old.scale * Math.exp(-event.deltaY * 0.0015)));
        const k = old.scale / scale;
        return { scale, centre: [at[0] + (old.centre[0] - at[0]) * k, at[1] + (old.centre[1] - at[1]) * k] };
      });
    };
    canvas.addEventListener('wheel', onWheel, { passive: false });
    return () => canvas.removeEventListener('wheel', onWheel);
  }, [pointer]);

  const onPointerDown = (event: ReactPointerEvent) => {
    if (!sheet) return;
    element.current!.setPointerCapture(event.pointerId);
    element.current!.focus();
    const { at } = pointer(event, sheet);
    press.current = { from: at, screen: [event.clientX, event.clientY], moved: false, pan: event.button === 0 ? null : sheet };
    if (event.button === 0) props.onPress(pointer(event, sheet));
  };
  const onPointerMove = (event: ReactPointerEvent) => {
    if (!sheet) return;
    const active = press.current;
    if (!active) return props.onHover(pointer(event, sheet));
    const [dx, dy] = [event.clientX - active.screen[0], event.clientY - active.screen[1]];
    if (Math.hypot(dx, dy) > TREMBLE) active.moved = true;
    if (active.pan) setSheet({ ...active.pan, centre: [active.pan.centre[0] - dx / active.pan.scale, active.pan.centre[1] + dy / active.pan.scale] });
    else props.onDrag(pointer(event, sheet));
  };
  const onPointerUp = (event: ReactPointerEvent) => {
    const active = press.current;
    if (active && !active.pan && sheet) props.onRelease(pointer(event, sheet));
    press.current = null;
  };

  return (
    <div className="sheet w-100 h-100">
      <canvas
        ref={element}
        tabIndex={0}
        role="application"
        aria-label={props.label}
        data-testid={props.testId}
        // Where a test or an assistive tool finds a point: centre and pixels per unit.
        data-sheet={sheet ? `${sheet.centre[0]},${sheet.centre[1]},${sheet.scale}` : ''}
        style={{ cursor: props.cursor }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') props.onEnter?.();
        }}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={() => (press.current = null)}
        onContextMenu={(event) => event.preventDefault()}
        onDragOver={(event) => {
          if (!props.onDropAsset || !event.dataTransfer.types.includes(ASSET_DRAG)) return;
          event.preventDefault();
          event.dataTransfer.dropEffect = 'copy';
          if (sheet) props.onHover(pointer(event, sheet));
        }}
        onDrop={(event) => {
          const id = draggedAsset(event);
          if (!id || !sheet) return;
          event.preventDefault();
          props.onDropAsset?.(id, pointer(event, sheet));
        }}
      />
      <div className="caption">{props.label}</div>
      <div className="readout" aria-live="off">
        {props.readout}
      </div>
      <div className="controls">
        <button
          className="btn btn-quiet"
          onClick={() => setSheet(props.fit({ width: element.current!.clientWidth, height: element.current!.clientHeight }))}
          title="Show everything"
        >
          Fit
        </button>
      </div>
      {props.children}
    </div>
  );
}
