import { useEffect, useState } from 'react';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { Contained } from '../common/Contained.tsx';
import { Icon } from '../common/Icon.tsx';
import { isTyping } from '../common/isTyping.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { layoutChanged } from '../state/layoutSlice.ts';
import { AskDialog } from './commands/AskDialog.tsx';
import { asked } from '../state/askingSlice.ts';
import { DraftingTable } from './DraftingTable.tsx';
import { BudgetPanel } from './panels/BudgetPanel.tsx';
import { classFor, moveSelection, paint } from './editing/edits.ts';
import { cornersEdit, movedCorners } from './editing/handleGroups.ts';
import { HistoryPanel } from './panels/HistoryPanel.tsx';
import { GroundPanel } from './ground/GroundPanel.tsx';
import { Inspector } from './Inspector.tsx';
import { RoutePanel } from './route/RoutePanel.tsx';
import { PeoplePanel } from './people/PeoplePanel.tsx';
import { MapPicture } from './overview/MapPicture.tsx';
import { ZoneSheet } from './route/ZoneSheet.tsx';
import { keyName, commandKeys, MAP_COMMANDS, mapContext, runMapCommand } from './commands/mapCommands.ts';
import { edited, prefabOpened } from '../state/mapSlice.ts';
import { OutlinePanel } from './panels/OutlinePanel.tsx';
import { PerspectiveView } from './perspective/PerspectiveView.tsx';
import { Shelf } from './panels/Shelf.tsx';
import { startMapCommand } from './commands/startMapCommand.ts';
import { Toolbar } from './Toolbar.tsx';
import { ToolOptions } from './ToolOptions.tsx';
import { isEmpty, selected, viewChanged, type Panel } from '../state/viewSlice.ts';

const NUDGES: Record<string, Vec3> = {
  ArrowLeft: [-1, 0, 0],
  ArrowRight: [1, 0, 0],
  ArrowUp: [0, 1, 0],
  ArrowDown: [0, -1, 0],
  PageUp: [0, 0, 1],
  PageDown: [0, 0, -1],
};

const PANELS: [Panel, string][] = [
  ['properties', 'Properties'],
  ['ground', 'Ground'],
  ['route', 'Route'],
  ['people', 'People'],
  ['outline', 'Outline'],
  ['history', 'History'],
  ['budget', 'Budget'],
];

/** Stage 4: the drafting table, and the inspector as a column of full height beside it. */
export function MapPage() {
  const dispatch = useAppDispatch();
  const shelf = useAppSelector((s) => s.view.shelf);
  const profile = useAppSelector((s) => s.crate.profile);
  const leak = useAppSelector((s) => s.checks.findings.find((f) => f.code === 'leak'));
  const { maximised, panel, sheet } = useAppSelector((s) => s.view);
  const folded = useAppSelector((s) => s.layout.folded);
  const askingFor = useAppSelector((s) => s.asking.id);
  const command = MAP_COMMANDS.find((c) => c.id === askingFor);
  const context = command && mapContext(store.getState(), dispatch);
  const asks = (context && command?.asks?.(context)) ?? [];
  const loaded = useAppSelector((s) => s.map.map !== null && s.crate.profile !== null);

  const chosenKeys = useAppSelector((s) => s.preferences.keys);

  // Plan and section stand before the perspective is set up, which takes longest.
  const [drawn, setDrawn] = useState(false);
  useEffect(() => {
    const frame = requestAnimationFrame(() => setTimeout(() => setDrawn(true)));
    return () => cancelAnimationFrame(frame);
  }, []);

  // A leak is drawn the moment it opens, and goes when it is closed.
  const trail = leak?.place?.trail;
  const trailKey = trail ? JSON.stringify(trail) : '';
  useEffect(() => {
    dispatch(viewChanged({ trail: trailKey ? (JSON.parse(trailKey) as [number, number, number][]) : null }));
  }, [dispatch, trailKey]);

  useEffect(() => {
    const byKey = new Map(
      MAP_COMMANDS.flatMap((c) => {
        const keys = commandKeys(c, chosenKeys);
        return keys ? [[keys, c.id] as const] : [];
      }),
    );
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event.target) || document.querySelector('.modal')) return;
      const { view, crate } = store.getState();
      const context = mapContext(store.getState(), dispatch);
      if (!context || !crate.profile) return;
      const { selection } = view;
      const key = keyName(event);
      const nudge = NUDGES[key]?.map((v) => v * view.grid) as Vec3 | undefined;
      if (event.key === 'Escape') {
        if (view.picking) dispatch(viewChanged({ picking: null }));
        else if (view.tool !== 'select')
          dispatch(
            viewChanged({ tool: 'select', placeClass: null, placeAsset: null, placePrefab: null, pathDraft: [], overlayDraft: [], measure: [] }),
          );
        else if (selection.faces.length + selection.corners.length > 0) dispatch(selected({ ...selection, faces: [], corners: [] }));
        else if (!isEmpty(selection)) dispatch(selected(null));
        else if (store.getState().map.opened) dispatch(prefabOpened(null));
        dispatch(viewChanged({ refusal: '' }));
      } else if (key === '4') document.getElementById('place-object')?.click();
      else if (nudge && !isEmpty(selection)) {
        if (selection.corners.length > 0) {
          const edit = cornersEdit(context.map, movedCorners(context.map, selection, nudge, false));
          if (typeof edit === 'string') dispatch(viewChanged({ refusal: edit }));
          else dispatch(edited(edit));
        } else {
          const edit = moveSelection(context.map, selection, nudge);
          if (edit) dispatch(edited(edit));
        }
      } else if (key === 'Backspace') startMapCommand('delete');
      else if (key === 'Enter' && (selection.copies.length !== 1 || view.tool !== 'select' || event.target instanceof HTMLButtonElement)) return;
      else if (byKey.has(key) && key !== 'Ctrl+Z' && key !== 'Ctrl+Shift+Z') startMapCommand(byKey.get(key)!);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [dispatch, chosenKeys]);

  if (!loaded) return null;
  return (
    <div className={`table-top ${maximised ? `only-${maximised}` : ''} ${folded ? 'folded' : ''}`}>
      <h1 className="visually-hidden">Map</h1>
      <Toolbar />
      {sheet === 'zones' && <ZoneSheet close={() => dispatch(viewChanged({ sheet: null }))} />}
      {sheet === 'picture' && <MapPicture close={() => dispatch(viewChanged({ sheet: null }))} />}
      {command && (
        <AskDialog
          key={command.id}
          command={command}
          asks={asks}
          run={(answers) => runMapCommand(command.id, mapContext(store.getState(), dispatch), answers)}
          close={() => dispatch(asked(null))}
        />
      )}
      <div className="bench">
        {shelf && (
          <Shelf
            onClose={() => dispatch(viewChanged({ shelf: false }))}
            onUse={(entry) => {
              if (entry.kind === 'material') {
                dispatch(viewChanged({ material: entry.name }));
                const context = mapContext(store.getState(), dispatch);
                const edit = context && context.selection.solids.length > 0 && paint(context.map, context.selection, entry.name);
                if (edit) dispatch(edited(edit));
                return;
              }
              const target = profile && classFor(profile, entry.kind === 'sound' ? 'sound' : 'model');
              if (!target) return;
              dispatch(viewChanged({ tool: 'place', placeClass: target.id, placeAsset: entry.id, placePrefab: null }));
            }}
          />
        )}
        <DraftingTable
          perspective={
            drawn ? (
              <Contained what="The perspective">
                <PerspectiveView />
              </Contained>
            ) : (
              <div className="sheet w-100 h-100" />
            )
          }
          options={<ToolOptions />}
        />
      </div>
      <section className="inspector" aria-label="Inspector">
        <div className="panel-tabs">
          <button
            className="fold"
            title={`${folded ? 'Show' : 'Fold away'} the inspector (B)`}
            aria-label={folded ? 'Unfold this column' : 'Fold this column away'}
            aria-expanded={!folded}
            onClick={() => dispatch(layoutChanged({ folded: !folded }))}
          >
            <Icon name={folded ? 'chevron-bar-left' : 'chevron-bar-right'} />
          </button>
          {!folded && (
            <div role="tablist" aria-label="Panels">
              {PANELS.map(([id, label]) => (
                <button key={id} role="tab" aria-selected={panel === id} onClick={() => dispatch(viewChanged({ panel: id }))}>
                  {label}
                </button>
              ))}
            </div>
          )}
        </div>
        {!folded && (
          <div className="panel-body" role="tabpanel" aria-label={PANELS.find(([id]) => id === panel)![1]}>
            {panel === 'properties' ? (
              <Inspector />
            ) : panel === 'ground' ? (
              <GroundPanel />
            ) : panel === 'route' ? (
              <RoutePanel />
            ) : panel === 'people' ? (
              <PeoplePanel />
            ) : panel === 'outline' ? (
              <OutlinePanel />
            ) : panel === 'history' ? (
              <HistoryPanel />
            ) : (
              <BudgetPanel />
            )}
          </div>
        )}
      </section>
    </div>
  );
}
