import { useEffect } from 'react';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { isTyping } from '../shell/CrateFrame.tsx';
import { store, useAppDispatch, useAppSelector } from '../store.ts';
import { classFor, deleteSelection, duplicate, moveSelection, paint } from './edits.ts';
import { Inspector } from './Inspector.tsx';
import { edited } from './mapSlice.ts';
import { PerspectiveView } from './PerspectiveView.tsx';
import { PlanView } from './PlanView.tsx';
import { Shelf } from './Shelf.tsx';
import { SectionView } from './SectionView.tsx';
import { Toolbar, gridSizes } from './Toolbar.tsx';
import { selected, viewChanged, type Tool } from './viewSlice.ts';

const TOOLS: Record<string, Tool> = { 1: 'select', 2: 'room', 3: 'solid', 5: 'section' };

/** Stage 4, laid out like a drafting table: plan, section below it, perspective and inspector beside. */
export function MapPage() {
  const dispatch = useAppDispatch();
  const shelf = useAppSelector((s) => s.view.shelf);
  const profile = useAppSelector((s) => s.crate.profile);
  const leak = useAppSelector((s) => s.checks.findings.find((f) => f.code === 'leak'));
  const loaded = useAppSelector((s) => s.map.map !== null && s.crate.profile !== null);

  // A leak is drawn the moment it opens, and goes when it is closed.
  const trail = leak?.place?.trail;
  const trailKey = trail ? JSON.stringify(trail) : '';
  useEffect(() => {
    dispatch(viewChanged({ trail: trailKey ? (JSON.parse(trailKey) as [number, number, number][]) : null }));
  }, [dispatch, trailKey]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event.target) || document.querySelector('.modal')) return;
      const { view, map, crate } = store.getState();
      if (!map.map || !crate.profile) return;
      const { selection, grid } = view;
      const plain = !event.ctrlKey && !event.metaKey && !event.altKey;
      const nudge: Record<string, Vec3> = {
        ArrowLeft: [-grid, 0, 0],
        ArrowRight: [grid, 0, 0],
        ArrowUp: [0, grid, 0],
        ArrowDown: [0, -grid, 0],
        PageUp: [0, 0, grid],
        PageDown: [0, 0, -grid],
      };
      if (plain && TOOLS[event.key]) dispatch(viewChanged({ tool: TOOLS[event.key] }));
      else if (plain && event.key === '6') dispatch(viewChanged({ shelf: !view.shelf }));
      else if (plain && event.key === '4') document.getElementById('place-object')?.click();
      else if (plain && (event.key === '[' || event.key === ']')) {
        const sizes = gridSizes(crate.profile.grid.min, crate.profile.grid.max);
        const at = sizes.indexOf(grid) + (event.key === '[' ? -1 : 1);
        if (sizes[at]) dispatch(viewChanged({ grid: sizes[at] }));
      } else if (event.key === 'Escape') {
        if (view.tool !== 'select') dispatch(viewChanged({ tool: 'select', placeClass: null, placeAsset: null }));
        else dispatch(selected(null));
      } else if (!selection) return;
      else if (event.key === 'Delete' || event.key === 'Backspace') {
        dispatch(edited(deleteSelection(map.map, selection)));
        dispatch(selected(null));
      } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'd') {
        const made = duplicate(map.map, selection, [grid, grid, 0]);
        if (made) {
          dispatch(edited(made.edit));
          dispatch(selected(made.selection));
        }
      } else if (plain && nudge[event.key]) {
        const edit = moveSelection(map.map, selection, nudge[event.key]);
        if (edit) dispatch(edited(edit));
      } else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [dispatch]);

  if (!loaded) return null;
  return (
    <div className="table-top">
      <Toolbar />
      <div style={{ gridArea: 'plan', minHeight: 0, minWidth: 0, display: 'flex' }}>
        {shelf && (
          <Shelf
            onClose={() => dispatch(viewChanged({ shelf: false }))}
            onUse={(entry) => {
              if (entry.kind === 'material') {
                dispatch(viewChanged({ material: entry.name }));
                const { map, view } = store.getState();
                if (view.selection?.kind === 'solids') dispatch(edited(paint(map.map!, view.selection.ids, view.selection.face, entry.name)));
                return;
              }
              const target = profile && classFor(profile, entry.kind === 'sound' ? 'sound' : 'model');
              if (!target) return;
              dispatch(viewChanged({ tool: 'place', placeClass: target.id, placeAsset: entry.id }));
            }}
          />
        )}
        <div className="flex-grow-1" style={{ minWidth: 0 }}>
          <PlanView />
        </div>
      </div>
      <div style={{ gridArea: 'section', minHeight: 0, minWidth: 0 }}>
        <SectionView />
      </div>
      <div style={{ gridArea: 'view', minHeight: 0, minWidth: 0 }}>
        <PerspectiveView />
      </div>
      <div style={{ gridArea: 'inspector', minHeight: 0, minWidth: 0, display: 'flex' }}>
        <Inspector />
      </div>
    </div>
  );
}
