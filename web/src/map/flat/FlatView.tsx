/**
 * One drawing sheet: canvas, panning, zooming and pointer handling. Where it is looked at is its owner's to keep, since
 * plan and section share an axis.
 */

import { useCallback, useEffect, useRef, useState, type PointerEvent as ReactPointerEvent, type ReactNode } from 'react';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { prepareCanvas, toSheet, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { ASSET_DRAG, draggedAsset } from '../../common/assetDrag.ts';
import type { SheetPointer } from './projection/pointer.ts';

export interface Size {
  width: number;
  height: number;
}

/** Where a sheet is looked at, kept by its owner. */
export interface SheetProps {
  sheet: Sheet | null;
  onSheet(update: (old: Sheet) => Sheet): void;
  onSize(size: Size): void;
  onFit(): void;
}

export interface FlatViewProps extends SheetProps {
  label: string;
  testId: string;
  /** What stays while the pointer moves: drawn anew only when one of `baseOf`, the sheet or the size changes. */
  drawBase(canvas: Canvas2d, sheet: Sheet): void;
  baseOf: readonly unknown[];
  /** What lies over it: selection, gestures, labels. */
  draw(canvas: Canvas2d, sheet: Sheet): void;
  onPress(pointer: SheetPointer): void;
  onDrag(pointer: SheetPointer): void;
  onRelease(pointer: SheetPointer): void;
  onHover(pointer: SheetPointer): void;
  onCancel(): void;
  /** A library entry is dropped here. */
  onDropAsset?(id: string, pointer: SheetPointer): void;
  onEnter?(): void;
  cursor?: string;
  readout: string;
  children?: ReactNode;
}

const TREMBLE = 4;
const NEAREST = 40;
const FARTHEST = 0.02;

export function FlatView(props: FlatViewProps) {
  const { sheet, onSheet, onSize } = props;
  const element = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  const press = useRef<{ from: Point2; screen: Point2; moved: boolean; pan: Sheet | null } | null>(null);
  const base = useRef<{ canvas: HTMLCanvasElement; of: readonly unknown[] } | null>(null);
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });

  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      const next = { width: entry.contentRect.width, height: entry.contentRect.height };
      setSize(next);
      latest.current.onSize(next);
    });
    observer.observe(element.current!);
    return () => observer.disconnect();
  }, [onSize]);

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
      onSheet((old) => {
        const { at } = pointer(event, old);
        const scale = Math.min(NEAREST, Math.max(FARTHEST, old.scale * Math.exp(-event.deltaY * 0.0015)));
        const k = old.scale / scale;
        return { scale, centre: [at[0] + (old.centre[0] - at[0]) * k, at[1] + (old.centre[1] - at[1]) * k] };
      });
    };
    canvas.addEventListener('wheel', onWheel, { passive: false });
    return () => canvas.removeEventListener('wheel', onWheel);
  }, [pointer, onSheet]);

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
    const { pan } = active;
    if (pan) onSheet(() => ({ ...pan, centre: [pan.centre[0] - dx / pan.scale, pan.centre[1] + dy / pan.scale] }));
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
        onPointerCancel={() => {
          press.current = null;
          props.onCancel();
        }}
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
      <div className="caption">
        {props.label}
        <button className="btn btn-quiet" onClick={props.onFit} title="Show everything">
          Fit
        </button>
      </div>
      <div className="readout" aria-live="off">
        {props.readout}
      </div>
      {props.children}
    </div>
  );
}
