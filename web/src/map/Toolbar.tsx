import { useState } from 'react';
import { Dropdown } from 'react-bootstrap';
import { SHAPES } from '@violet-crate/core/solid/shapes';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { gridSizes } from './editing/gridSizes.ts';
import { CommandMenu } from './commands/CommandMenu.tsx';
import { prefabOpened, redone, undone } from '../state/mapSlice.ts';
import { SHAPE_ICONS } from './shapeIcons.ts';
import { TOOLS, type SheetTool } from './editing/toolList.ts';
import { useLengthWords } from '../common/useShownUnit.ts';
import { useDocument } from './editing/useDocument.ts';
import { selected, viewChanged, type Mode, type Tool } from '../state/viewSlice.ts';

const MODES: [Mode, string, string, string][] = [
  ['solids', 'Whole', 'S', 'Select and move whole members of the map'],
  ['faces', 'Faces', 'F', 'Select faces; drag one that is seen from its edge to push or pull it'],
  ['edges', 'Edges', 'E', 'Drag the edges of selected solids'],
  ['corners', 'Corners', 'C', 'Drag the corners of selected solids'],
];

export function Toolbar() {
  const dispatch = useAppDispatch();
  const { map, profile, view, band } = useDocument();
  const lengths = useLengthWords();
  const { undo, redo, opened, map: real } = useAppSelector((s) => s.map);
  const files = useAppSelector((s) => s.crate.view?.files ?? []);
  const groups = [...new Set(profile.classes.map((c) => c.group))];
  const ownModels = files.filter((f) => f.path.startsWith('models/'));
  const propClass = profile.classes.find((c) => c.parts.length === 1 && (c.parts as string[])[0] === 'model');
  const [wanted, setWanted] = useState('');
  const words = wanted.toLowerCase().split(/\s+/);
  const matches = (c: (typeof profile.classes)[number]) =>
    words.every((word) => `${c.label} ${c.id} ${c.group} ${classHint(c)}`.toLowerCase().includes(word));
  const placing = profile.classes.find((c) => c.id === view.placeClass);
  const prefabs = [...Object.entries(map.prefabs), ...Object.entries(profile.prefabs ?? {})];
  const place = (part: Partial<typeof view>) =>
    dispatch(viewChanged({ tool: 'place', placeClass: null, placeAsset: null, placePrefab: null, ...part }));
  const placeLabel = view.placePrefab
    ? prefabs.find(([id]) => id === view.placePrefab)?.[1].name
    : (view.placeAsset?.split('/').pop() ?? placing?.label);
  const shape = SHAPES.find((s) => s.id === view.shape) ?? SHAPES[0];
  const toolButton = (id: Tool, shown: Partial<SheetTool> = {}) => {
    const { icon, label, hint, key } = { ...TOOLS.find((tool) => tool.id === id)!, ...shown };
    return (
      <button
        key={id}
        className="btn btn-quiet"
        aria-pressed={view.tool === id}
        title={`${hint} (${key.toUpperCase()})`}
        onClick={() => dispatch(viewChanged({ tool: id, measure: [], pathDraft: [], overlayDraft: [], picking: null }))}
      >
        <Icon name={icon} /> {label} <kbd>{key.toUpperCase()}</kbd>
      </button>
    );
  };
  return (
    <div className="tools" role="toolbar" aria-label="Map tools">
      {toolButton('select')}
      {toolButton('room')}
      <span className="btn-group">
        {toolButton('solid', { icon: SHAPE_ICONS[shape.id], label: shape.id === 'block' ? 'Solid' : shape.label, hint: shape.description })}
        <Dropdown as="span" className="btn-group">
          <Dropdown.Toggle className="btn-quiet" variant="quiet" id="solid-shape" aria-label="Shape of the solid" title="Which shape is drawn" />
          <Dropdown.Menu>
            {SHAPES.filter((s) => s.id !== 'room').map((s) => (
              <Dropdown.Item
                as="button"
                key={s.id}
                title={s.description}
                active={s.id === view.shape}
                onClick={() => dispatch(viewChanged({ shape: s.id, tool: 'solid' }))}
              >
                <Icon name={SHAPE_ICONS[s.id]} className="me-2" />
                {s.label}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      </span>
      <Dropdown>
        <Dropdown.Toggle
          className="btn-quiet"
          variant="quiet"
          aria-pressed={view.tool === 'place'}
          id="place-object"
          title="Choose a class, then click in the plan (4)"
        >
          <Icon name={view.tool === 'place' && placing ? placing.icon : 'pin-map'} /> {(view.tool === 'place' && placeLabel) || 'Object'} <kbd>4</kbd>
        </Dropdown.Toggle>
        <Dropdown.Menu style={{ maxHeight: '60vh', overflow: 'auto' }}>
          <div className="px-2 pb-1">
            <input
              type="search"
              className="form-control form-control-sm"
              placeholder="Search the catalogue"
              aria-label="Search the catalogue"
              value={wanted}
              onChange={(e) => setWanted(e.target.value)}
            />
          </div>
          {groups.map((group) => (
            <div key={group}>
              {profile.classes.some((c) => c.group === group && matches(c)) && <Dropdown.Header>{group}</Dropdown.Header>}
              {profile.classes
                .filter((c) => c.group === group && matches(c))
                .map((c) => (
                  <Dropdown.Item as="button" key={c.id} onClick={() => place({ placeClass: c.id })} title={classHint(c)}>
                    <Icon name={c.icon} className="me-2" />
                    {c.label}
                  </Dropdown.Item>
                ))}
            </div>
          ))}
          {prefabs.length > 0 && <Dropdown.Header>Prefabs</Dropdown.Header>}
          {prefabs.map(([id, prefab]) => (
            <Dropdown.Item as="button" key={id} onClick={() => place({ placePrefab: id })}>
              <Icon name="boxes" className="me-2" />
              {prefab.name}
              {profile.prefabs?.[id] && <span className="faint"> (game)</span>}
            </Dropdown.Item>
          ))}
          {propClass && ownModels.length > 0 && <Dropdown.Header>Your models</Dropdown.Header>}
          {propClass &&
            ownModels.map((file) => (
              <Dropdown.Item as="button" key={file.path} onClick={() => place({ placeClass: propClass.id, placeAsset: file.path })}>
                <Icon name="box" className="me-2" />
                {file.path.slice(7)}
              </Dropdown.Item>
            ))}
        </Dropdown.Menu>
      </Dropdown>
      {toolButton('section')}
      <button
        className="btn btn-quiet"
        aria-pressed={view.shelf}
        title="Models, materials and sounds to drag into the map (6)"
        onClick={() => dispatch(viewChanged({ shelf: !view.shelf }))}
      >
        <Icon name="collection" /> Library <kbd>6</kbd>
      </button>
      {['cut', 'path', 'ground', 'measure', 'note', 'decal'].map((id) => toolButton(id))}
      <span className="border-start mx-1 align-self-stretch" />
      <button
        className="btn btn-quiet"
        disabled={undo.length === 0}
        onClick={() => dispatch(undone())}
        title={`${undo.length > 0 ? `Undo ${undo[undo.length - 1].edit.name}` : 'Nothing to undo'} (Ctrl+Z)`}
        aria-label="Undo"
      >
        <Icon name="arrow-counterclockwise" />
      </button>
      <button className="btn btn-quiet" disabled={redo.length === 0} onClick={() => dispatch(redone())} title="Redo (Ctrl+Shift+Z)" aria-label="Redo">
        <Icon name="arrow-clockwise" />
      </button>
      <span className="w-100" />
      <span className="btn-group" role="group" aria-label="What is selected">
        {MODES.map(([mode, label, key, hint]) => (
          <button
            key={mode}
            className="btn btn-quiet"
            aria-pressed={view.mode === mode}
            title={`${hint} (${key})`}
            onClick={() => dispatch(viewChanged({ mode, tool: 'select' }))}
          >
            {label}
          </button>
        ))}
      </span>
      <CommandMenu label="Arrange" icon="arrows-move" groups={['Move', 'Select']} />
      <CommandMenu label="Shape" icon="boxes" groups={['Solids', 'Faces']} />
      <CommandMenu label="Objects" icon="diagram-3" groups={['Objects', 'Prefabs']} />
      <CommandMenu label="View" icon="eye" groups={['View']} />
      {opened && real && (
        <button
          className="btn btn-warm"
          onClick={() => {
            dispatch(prefabOpened(null));
            dispatch(selected({ kind: 'copies', ids: [opened] }));
          }}
        >
          <Icon name="check2" /> Done with {real.prefabs[real.copies[opened]?.prefab]?.name}
        </button>
      )}
      <span className="border-start mx-1 align-self-stretch" />
      <label className="d-inline-flex align-items-center gap-1">
        <span className="faint">Grid</span>
        <select
          className="form-select"
          style={{ width: '5rem' }}
          value={view.grid}
          title="Finer and coarser with Alt+, and Alt+."
          onChange={(e) => dispatch(viewChanged({ grid: Number(e.target.value) }))}
        >
          {gridSizes(profile.grid.min, profile.grid.max).map((g) => (
            <option key={g} value={g}>
              {lengths(g)}
            </option>
          ))}
        </select>
      </label>
      <label className="d-inline-flex align-items-center gap-1">
        <input
          type="checkbox"
          className="form-check-input m-0"
          checked={view.snap}
          onChange={(e) => dispatch(viewChanged({ snap: e.target.checked }))}
        />{' '}
        Snap
      </label>
      <label className="d-inline-flex align-items-center gap-1" title="Snap to corners and edges of solids, too (Shift+K)">
        <input
          type="checkbox"
          className="form-check-input m-0"
          checked={view.snapCorners}
          onChange={(e) => dispatch(viewChanged({ snapCorners: e.target.checked }))}
        />{' '}
        Corners
      </label>
      <label className="d-inline-flex align-items-center gap-1">
        <span className="faint">Band</span>
        <select
          className="form-select"
          style={{ width: '6.4rem' }}
          value={view.band}
          onChange={(e) => dispatch(viewChanged({ band: e.target.value }))}
        >
          {Object.entries(map.bands).map(([id, b]) => (
            <option key={id} value={id}>
              {b.name}
            </option>
          ))}
        </select>
      </label>
      <label className="d-inline-flex align-items-center gap-1">
        <input
          type="checkbox"
          className="form-check-input m-0"
          checked={view.showSignals}
          onChange={(e) => dispatch(viewChanged({ showSignals: e.target.checked }))}
        />{' '}
        Signals
      </label>
      <span className="visually-hidden" role="status">
        New solids reach from {band.bottom} to {band.top}.
      </span>
    </div>
  );
}

const classHint = (c: { description: string; events: { label: string }[]; actions: { label: string }[]; usedIn?: string[] }): string =>
  [
    c.description,
    c.events.length > 0 ? `Events: ${c.events.map((e) => e.label).join(', ')}.` : '',
    c.actions.length > 0 ? `Actions: ${c.actions.map((a) => a.label).join(', ')}.` : '',
    c.usedIn && c.usedIn.length > 0 ? `Used in ${c.usedIn.join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join('\n');
