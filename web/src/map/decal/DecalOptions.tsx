import { useMemo } from 'react';
import { plainStyle, type DecalStyle } from '@violet-crate/core/decal/place';
import { allMaterials } from '@violet-crate/core/crate/world';
import { materialType } from '@violet-crate/core/profile/schema';
import { NumberInput } from '../../common/fields.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { selectWorld } from '../../state/world.ts';
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

/** What the next decal is like. */
export function DecalOptions() {
  const dispatch = useAppDispatch();
  const { view, profile } = useDocument();
  const materials = useDecalMaterials();
  const size = profile.grid.default * 4;
  const style = view.decal ?? plainStyle(materials[0] ?? '', [size, size]);
  const set = (part: Partial<DecalStyle>) => dispatch(viewChanged({ decal: { ...style, ...part }, refusal: '' }));
  if (materials.length === 0) return <div className="tool-options faint">There is no material to make a decal of: import a picture as one.</div>;
  return (
    <div className="tool-options" role="group" aria-label="Decal options">
      <span className="faint">Click a surface.</span>
      <label className="d-inline-flex align-items-center gap-1">
        Material
        <select className="form-select" value={view.decal ? style.material : ''} onChange={(e) => set({ material: e.target.value })}>
          {!view.decal && <option value="">choose one</option>}
          {materials.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </label>
      {(
        [
          ['Width', style.size[0], (w: number) => set({ size: [w, style.size[1]] }), 0.01],
          ['Height', style.size[1], (h: number) => set({ size: [style.size[0], h] }), 0.01],
          ['Turn', style.turn, (turn: number) => set({ turn }), undefined],
        ] as const
      ).map(([name, value, onCommit, min]) => (
        <label key={name} className="d-inline-flex align-items-center gap-1">
          {name}
          <span style={{ width: '4.6rem' }}>
            <NumberInput name={name} value={value} min={min} onCommit={onCommit} />
          </span>
        </label>
      ))}
      {view.refusal && (
        <span role="alert" className="text-warm">
          {view.refusal}
        </span>
      )}
    </div>
  );
}
