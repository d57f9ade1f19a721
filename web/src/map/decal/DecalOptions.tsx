import { useEffect, useMemo, useRef } from 'react';
import { plainOverlay, plainStyle, type DecalStyle, type OverlayStyle } from '@violet-crate/core/decal/place';
import { allMaterials } from '@violet-crate/core/crate/world';
import { materialType } from '@violet-crate/core/profile/schema';
import { NumberInput } from '../../common/fields.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { edited } from '../../state/mapSlice.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { selectWorld } from '../../state/world.ts';
import { showGhost } from '../editing/ghost.ts';
import { finishedOverlay } from './laying.ts';
import { useDocument } from '../editing/useDocument.ts';

/** Materials that can be thrown onto surfaces, those made for it first. */
export function useDecalMaterials(): string[] {
  const world = useAppSelector(selectWorld);
  return useMemo(() => {
    if (!world) return [];
    const made = (type: string) => Number(Boolean(materialType(world.profile, type)?.decal));
    return allMaterials(world)
      .filter(({ type }) => materialType(world.profile, type)?.drawn)
      .sort((a, b) => made(b.type) - made(a.type) || (a.name < b.name ? -1 : 1))
      .map(({ name }) => name);
  }, [world]);
}

const KINDS = [
  ['decal', 'a decal', 'Click a surface.'],
  ['strip', 'a strip', 'Click its points on surfaces; Enter ends it.'],
  ['area', 'an area', 'Click its corners on surfaces; Enter ends it.'],
] as const;

/** What the decal tool lays, and what it is like. */
export function DecalOptions() {
  const dispatch = useAppDispatch();
  const { map, view, profile } = useDocument();
  const materials = useDecalMaterials();
  const size = profile.grid.default * 4;
  const { laying, overlayDraft: draft } = view;
  const decal = view.decal ?? plainStyle(materials[0] ?? '', [size, size]);
  const overlay = view.overlay ?? plainOverlay(materials[0] ?? '', size / 2);
  const setDecal = (part: Partial<DecalStyle>) => dispatch(viewChanged({ decal: { ...decal, ...part }, refusal: '' }));
  const setOverlay = (part: Partial<OverlayStyle>) => dispatch(viewChanged({ overlay: { ...overlay, ...part }, refusal: '' }));
  const chosen = laying === 'decal' ? view.decal : view.overlay;

  // The points so far show in all views.
  useEffect(() => {
    const points = draft.map(({ point }) => point);
    showGhost(points.length > 0 ? { solids: [], lines: [laying === 'area' && points.length > 2 ? [...points, points[0]] : points] } : null);
    return () => showGhost(null);
  }, [draft, laying]);
  const finish = () => {
    const { edit, selection, view: next, refusal } = finishedOverlay(map, view);
    if (edit) dispatch(edited(edit));
    if (selection) dispatch(selected(selection));
    dispatch(viewChanged({ ...next, ...(refusal ? { refusal } : {}) }));
  };
  const finishing = useRef(finish);
  useEffect(() => void (finishing.current = finish));
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event;
      if (
        event.key === 'Enter' &&
        !(target instanceof HTMLButtonElement || target instanceof HTMLInputElement || target instanceof HTMLSelectElement)
      )
        finishing.current();
    };
    if (draft.length === 0) return;
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [draft.length]);

  if (materials.length === 0) return <div className="tool-options faint">There is no material to make a decal of: import a picture as one.</div>;
  const numbers: readonly (readonly [string, number, (value: number) => void, number | undefined])[] =
    laying === 'decal'
      ? [
          ['Width', decal.size[0], (w) => setDecal({ size: [w, decal.size[1]] }), 0.01],
          ['Height', decal.size[1], (h) => setDecal({ size: [decal.size[0], h] }), 0.01],
          ['Turn', decal.turn, (turn) => setDecal({ turn }), undefined],
        ]
      : [
          ...(laying === 'strip' ? [['Width', overlay.width, (width: number) => setOverlay({ width }), 0.01] as const] : []),
          ['Repeat', overlay.repeat, (repeat) => setOverlay({ repeat }), 0],
          ...(laying === 'strip' ? [['Ends', overlay.ends, (ends: number) => setOverlay({ ends }), 0] as const] : []),
        ];
  return (
    <div className="tool-options" role="group" aria-label="Decal options">
      <label className="d-inline-flex align-items-center gap-1">
        Lay
        <select
          className="form-select"
          value={laying}
          onChange={(e) => dispatch(viewChanged({ laying: e.target.value as typeof laying, overlayDraft: [], refusal: '' }))}
        >
          {KINDS.map(([id, label]) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </select>
      </label>
      <label className="d-inline-flex align-items-center gap-1">
        Material
        <select
          className="form-select"
          value={chosen?.material ?? ''}
          onChange={(e) => (laying === 'decal' ? setDecal({ material: e.target.value }) : setOverlay({ material: e.target.value }))}
        >
          {!chosen && <option value="">choose one</option>}
          {materials.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </label>
      {numbers.map(([name, value, onCommit, min]) => (
        <label key={name} className="d-inline-flex align-items-center gap-1">
          {name}
          <span style={{ width: '4.6rem' }}>
            <NumberInput name={name} value={value} min={min} onCommit={onCommit} />
          </span>
        </label>
      ))}
      {laying !== 'decal' && (
        <>
          <button className="btn btn-quiet" disabled={draft.length < 2} onClick={finish}>
            Lay it
          </button>
          {draft.length > 0 && (
            <button className="btn btn-quiet" onClick={() => dispatch(viewChanged({ overlayDraft: [], refusal: '' }))}>
              Begin anew
            </button>
          )}
        </>
      )}
      {view.refusal ? (
        <span role="alert" className="text-warm">
          {view.refusal}
        </span>
      ) : (
        <span className="faint">{KINDS.find(([id]) => id === laying)![2]}</span>
      )}
    </div>
  );
}
