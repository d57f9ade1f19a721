import { Dropdown } from 'react-bootstrap';
import { Icon } from '../common/Icon.tsx';
import { TOOL_KEYS } from '../shell/commands.ts';
import { useAppDispatch, useAppSelector } from '../store.ts';
import { redone, undone } from './mapSlice.ts';
import { useDocument } from './useDocument.ts';
import { viewChanged, type Tool } from './viewSlice.ts';

const TOOLS: [Tool, string, string, string][] = [
  ['select', 'cursor', 'Select', 'Click to select, again for what lies behind; drag to move; Shift-drag for a marquee'],
  ['room', 'bounding-box-circles', 'Room', 'Drag the inside of a room: a sealed shell is drawn around it'],
  ['solid', 'square-fill', 'Solid', 'Drag a block; its height comes from the band'],
  ['place', 'pin-map', 'Object', 'Choose a class, then click in the plan'],
  ['section', 'slash-lg', 'Section', 'Drag the line along which the section is cut'],
];

export function Toolbar() {
  const dispatch = useAppDispatch();
  const { map, profile, view, band } = useDocument();
  const undo = useAppSelector((s) => s.map.undo);
  const redo = useAppSelector((s) => s.map.redo);
  const files = useAppSelector((s) => s.crate.view?.files ?? []);
  const groups = [...new Set(profile.classes.map((c) => c.group))];
  const ownModels = files.filter((f) => f.path.startsWith('models/'));
  const propClass = profile.classes.find((c) => c.parts.length === 1 && (c.parts as string[])[0] === 'model');
  const chosen = profile.classes.find((c) => c.id === view.placeClass);
  const choose = (placeClass: string, placeAsset: string | null) => dispatch(viewChanged({ tool: 'place', placeClass, placeAsset }));
  return (
    <div className="tools" role="toolbar" aria-label="Map tools">
      {TOOLS.slice(0, 3).map(([tool, icon, label, hint]) => (
        <button
          key={tool}
          className="btn btn-quiet"
          aria-pressed={view.tool === tool}
          title={`${hint} (${TOOL_KEYS[tool][0]})`}
          onClick={() => dispatch(viewChanged({ tool }))}
        >
          <Icon name={icon} /> {label} <kbd>{TOOL_KEYS[tool][0]}</kbd>
        </button>
      ))}
      <Dropdown>
        <Dropdown.Toggle className="btn-quiet" variant="quiet" aria-pressed={view.tool === 'place'} id="place-object" title={`${TOOLS[3][3]} (4)`}>
          <Icon name={chosen && view.tool === 'place' ? chosen.icon : 'pin-map'} />{' '}
          {chosen && view.tool === 'place' ? (view.placeAsset?.split('/').pop() ?? chosen.label) : 'Object'} <kbd>4</kbd>
        </Dropdown.Toggle>
        <Dropdown.Menu style={{ maxHeight: '60vh', overflow: 'auto' }}>
          {groups.map((group) => (
            <div key={group}>
              <Dropdown.Header>{group}</Dropdown.Header>
              {profile.classes
                .filter((c) => c.group === group)
                .map((c) => (
                  <Dropdown.Item as="button" key={c.id} onClick={() => choose(c.id, null)} title={c.description}>
                    <Icon name={c.icon} className="me-2" />
                    {c.label}
                  </Dropdown.Item>
                ))}
            </div>
          ))}
          {propClass && ownModels.length > 0 && <Dropdown.Header>Your models</Dropdown.Header>}
          {propClass &&
            ownModels.map((file) => (
              <Dropdown.Item as="button" key={file.path} onClick={() => choose(propClass.id, file.path)}>
                <Icon name="box" className="me-2" />
                {file.path.slice(7)}
              </Dropdown.Item>
            ))}
        </Dropdown.Menu>
      </Dropdown>
      <button
        className="btn btn-quiet"
        aria-pressed={view.tool === 'section'}
        title={`${TOOLS[4][3]} (5)`}
        onClick={() => dispatch(viewChanged({ tool: 'section' }))}
      >
        <Icon name="slash-lg" /> Section <kbd>5</kbd>
      </button>
      <button
        className="btn btn-quiet"
        aria-pressed={view.shelf}
        title="Models, materials and sounds to drag into the map (6)"
        onClick={() => dispatch(viewChanged({ shelf: !view.shelf }))}
      >
        <Icon name="collection" /> Library <kbd>6</kbd>
      </button>
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
      <span className="border-start mx-1 align-self-stretch" />
      <label className="d-inline-flex align-items-center gap-1">
        <span className="faint">Grid</span>
        <select
          className="form-select"
          style={{ width: '4rem' }}
          value={view.grid}
          onChange={(e) => dispatch(viewChanged({ grid: Number(e.target.value) }))}
        >
          {gridSizes(profile.grid.min, profile.grid.max).map((g) => (
            <option key={g}>{g}</option>
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

export function gridSizes(min: number, max: number): number[] {
  const sizes: number[] = [];
  for (let g = min; g <= max; g *= 2) sizes.push(g);
  return sizes;
}
