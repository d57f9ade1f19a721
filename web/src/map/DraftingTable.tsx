/**
 * The drafting table: the plan is the sheet; below it, aligned with it, lies the section; the perspective is an inset
 * that can be moved, resized and swapped with the plan.
 */

import { useCallback, useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import { boxOfPoints } from '@violet-crate/core/math/box3';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { groundsOf } from '@violet-crate/core/terrain/ground';
import { fitSheet, type Sheet } from '../common/sheet.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import type { Size } from './flat/FlatView.tsx';
import { PlanView } from './flat/PlanView.tsx';
import { cutLine, heightsOf } from './flat/projection/sectionProjection.ts';
import { SectionView } from './flat/SectionView.tsx';
import { NO_SHEETS, sectionSheet, withSection, type Sheets } from './flat/sheets.ts';
import { useDocument } from './editing/useDocument.ts';
import { DEFAULT_LAYOUT, layoutChanged, SECTION_LIMITS, type TableLayout } from '../state/layoutSlice.ts';

interface Props {
  perspective: ReactNode;
  /** What the active tool can be told, over the sheet. */
  options: ReactNode;
}

/** Pixels of one key press on a handle. */
const KEY_STEP = 16;

/** Height of the tools' options along the lower edge, in pixels: a fitted plan stays clear of them. */
const STRIP = 52;

export function DraftingTable({ perspective, options }: Props) {
  const dispatch = useAppDispatch();
  const layout = useAppSelector((s) => s.layout);
  const onLayout = (change: Partial<TableLayout>) => dispatch(layoutChanged(change));
  const { whole, profile, view, band } = useDocument();
  const crateId = useAppSelector((s) => s.crate.view?.id ?? '');
  const [sheets, setSheets] = useState<Sheets>(NO_SHEETS);
  /** Where the plan is looked at while it is the inset; null fits it. */
  const [insetPlan, setInsetPlan] = useState<Sheet | null>(null);
  const [planSize, setPlanSize] = useState<Size>({ width: 0, height: 0 });
  const [sectionSize, setSectionSize] = useState<Size>({ width: 0, height: 0 });
  const table = useRef<HTMLDivElement>(null);
  const { axis } = cutLine(view.section);
  const { swapped, inset } = layout;

  // Beside the inset, where that leaves most of the sheet; and clear of the tools' options.
  const covered = swapped || view.maximised || inset.width > planSize.width / 2 ? 0 : inset.width + inset.right;
  const strip = swapped ? 0 : STRIP;
  const seen = { width: planSize.width - covered, height: planSize.height - strip };
  /** The sheet with a point in the middle of what is seen of it. */
  const centred = (scale: number, [u, v]: readonly [number, number]): Sheet => ({ scale, centre: [u + covered / 2 / scale, v - strip / 2 / scale] });
  const fitPlan = (): Sheet => {
    const boxes = [
      ...groundsOf(whole).map(({ box }) => box),
      ...Object.values(whole.solids).map((s) => shapeOf(s).box),
      ...Object.values(whole.objects).map((o) => boxOfPoints([o.position])),
    ];
    const g = profile.grid.default * 16;
    const all = boxes.length > 0 ? boxOfPoints(boxes.flatMap((b) => [b.min, b.max])) : { min: [-g, -g, 0], max: [g, g, 0] };
    const { scale, centre } = fitSheet(seen, [all.min[0], all.min[1]], [all.max[0], all.max[1]]);
    return centred(scale, centre);
  };
  const fitOblique = (): Sheet => {
    const { from, to } = view.section;
    const [low, high] = heightsOf(whole.solids, band);
    return fitSheet(sectionSize, [0, low], [Math.hypot(to[0] - from[0], to[1] - from[1]), high]);
  };
  const middle = () => (band.bottom + band.top) / 2;

  // The plan is fitted once it has a size, and for every crate anew.
  const ready = planSize.width > 0;
  useEffect(() => {
    if (ready) setSheets({ plan: fitPlan(), height: middle(), oblique: null });
    // Only a first size and another crate fit it; afterwards it stays where the user has it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [crateId, ready]);
  const sectionReady = sectionSize.width > 0;
  const lineKey = `${view.section.from.join()},${view.section.to.join()}`;
  useEffect(() => {
    if (sectionReady && axis === null) setSheets((old) => ({ ...old, oblique: fitOblique() }));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [lineKey, axis, sectionReady]);

  // What is to be shown comes into the middle of both sheets; with a size to frame no nearer than shows it whole.
  const focusCount = view.focus?.count;
  useEffect(() => {
    const { focus } = view;
    if (!focus) return;
    setSheets((old) => {
      if (!old.plan) return old;
      const room = Math.min(seen.width, seen.height);
      const scale = focus.frame ? Math.min(old.plan.scale, (room / focus.frame) * 0.8) : old.plan.scale;
      return { ...old, plan: centred(scale, [focus.point[0], focus.point[1]]), height: focus.point[2] };
    });
    if (swapped) setInsetPlan({ scale: (insetPlan ?? fitPlan()).scale, centre: [focus.point[0], focus.point[1]] });
    // Only a new request moves the sheets.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focusCount]);

  const onPlan = useCallback((update: (old: Sheet) => Sheet) => setSheets((old) => (old.plan ? { ...old, plan: update(old.plan) } : old)), []);
  const onSection = useCallback(
    (update: (old: Sheet) => Sheet) =>
      setSheets((old) => {
        const now = sectionSheet(old, axis);
        return now ? withSection(old, axis, update(now)) : old;
      }),
    [axis],
  );

  /** Follows a drag from a press on, in pixels. */
  const follow = (event: PointerEvent, onMove: (dx: number, dy: number) => void) => {
    const [x, y] = [event.clientX, event.clientY];
    const element = event.currentTarget as HTMLElement;
    element.setPointerCapture(event.pointerId);
    const move = (e: globalThis.PointerEvent) => onMove(e.clientX - x, e.clientY - y);
    const stop = () => {
      element.removeEventListener('pointermove', move);
      element.removeEventListener('pointerup', stop);
      element.removeEventListener('pointercancel', stop);
    };
    element.addEventListener('pointermove', move);
    element.addEventListener('pointerup', stop);
    element.addEventListener('pointercancel', stop);
  };

  const height = () => table.current?.clientHeight || 1;
  const moveInset = (dx: number, dy: number, from = inset) => {
    const { clientWidth, clientHeight } = table.current!;
    const most = { right: Math.max(0, clientWidth - from.width), top: Math.max(0, clientHeight - 60) };
    const at = (value: number, limit: number) => Math.min(limit, Math.max(0, value));
    onLayout({ inset: { ...from, right: at(from.right - dx, most.right), top: at(from.top + dy, most.top) } });
  };
  const sizeInset = (by: number, from = inset) => onLayout({ inset: { ...from, width: from.width + by } });
  const onInsetKey = (event: KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === 'Enter') onLayout({ swapped: !swapped });
    else if (!way) return;
    else if (event.shiftKey) sizeInset((way[0] - way[1]) * KEY_STEP);
    else moveInset(way[0] * KEY_STEP, way[1] * KEY_STEP);
    event.preventDefault();
    event.stopPropagation();
  };
  const onSplitKey = (event: KeyboardEvent) => {
    const by = { ArrowUp: 0.02, ArrowDown: -0.02 }[event.key];
    if (by === undefined) return;
    onLayout({ section: layout.section + by });
    event.preventDefault();
    event.stopPropagation();
  };

  const plan = (
    <PlanView
      sheet={swapped && ready ? (insetPlan ?? fitPlan()) : sheets.plan}
      onSheet={swapped ? (update) => setInsetPlan((old) => update(old ?? fitPlan())) : onPlan}
      onSize={setPlanSize}
      onFit={() => (swapped ? setInsetPlan(null) : setSheets((old) => ({ ...old, plan: fitPlan() })))}
      aligned={!swapped && view.maximised === null}
    />
  );
  const insetStyle = { right: inset.right, top: inset.top, width: inset.width };
  const title = (what: string) => (
    <div
      className="inset-title"
      tabIndex={0}
      role="button"
      aria-label={`${what}, an inset: arrow keys move it, with Shift they resize it, Enter swaps it with the sheet`}
      title="Drag to move it; double-click to swap it with the sheet"
      onPointerDown={(event) => follow(event, (dx, dy) => moveInset(dx, dy, inset))}
      onDoubleClick={() => onLayout({ swapped: !swapped })}
      onKeyDown={onInsetKey}
    >
      {what}
    </div>
  );
  const grip = (
    <div
      className="inset-grip"
      aria-hidden="true"
      title="Drag to resize it"
      onPointerDown={(event) => follow(event, (dx) => sizeInset(-dx, inset))}
    />
  );
  return (
    <div className="drafting" ref={table}>
      <div className="upper">
        <div className={`pane-plan ${swapped ? 'inset' : 'main'}`} style={swapped ? insetStyle : undefined}>
          {swapped && title('Plan')}
          <div className="inset-body">{plan}</div>
          {swapped && grip}
        </div>
        <div className={`pane-view ${swapped ? 'main' : 'inset'}`} style={swapped ? undefined : insetStyle}>
          {!swapped && title('Perspective')}
          <div className="inset-body">{perspective}</div>
          {!swapped && grip}
        </div>
        {options}
      </div>
      <div
        className="splitter"
        role="separator"
        tabIndex={0}
        aria-orientation="horizontal"
        aria-label="Height of the section"
        aria-valuemin={Math.round(SECTION_LIMITS[0] * 100)}
        aria-valuemax={Math.round(SECTION_LIMITS[1] * 100)}
        aria-valuenow={Math.round(layout.section * 100)}
        onPointerDown={(event) => follow(event, (_dx, dy) => onLayout({ section: layout.section - dy / height() }))}
        onDoubleClick={() => onLayout({ section: DEFAULT_LAYOUT.section })}
        onKeyDown={onSplitKey}
      />
      <div className="pane-section" style={{ flexBasis: `${layout.section * 100}%` }}>
        <SectionView
          sheet={sectionSheet(sheets, axis)}
          onSheet={onSection}
          onSize={setSectionSize}
          onFit={() => setSheets((old) => (axis === null ? { ...old, oblique: fitOblique() } : { ...old, height: middle() }))}
          aligned={!swapped && view.maximised === null}
        />
      </div>
    </div>
  );
}
