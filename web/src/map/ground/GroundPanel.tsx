import './ground.css';
import { useState } from 'react';
import { freshId } from '@violet-crate/core/document/edit';
import { freeName } from '@violet-crate/core/crate/naming';
import type { Terrain } from '@violet-crate/core/document/schema';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { newTerrain } from '@violet-crate/core/terrain/newTerrain';
import { Icon } from '../../common/Icon.tsx';
import { CheckField, ChoiceField, NumberField, TextField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { TOOLS } from '../editing/toolList.ts';
import { useDocument } from '../editing/useDocument.ts';
import { brushGround } from './brushing.ts';
import { GroundSurfaces, GroundThings } from './GroundLayers.tsx';
import { GroundRules } from './GroundRules.tsx';
import { GroundTools } from './GroundTools.tsx';
import { slopeWords } from './slopeWords.ts';

/** The ground of the map: its frame, what covers it, what grows on it, and what is done to all of it. */
export function GroundPanel() {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const id = brushGround(map, view.terrain);
  const [making, setMaking] = useState(false);
  const ids = Object.keys(map.terrains);
  if (id === null || making) return <NewGround first={id === null} onDone={() => setMaking(false)} />;
  const terrain = map.terrains[id];
  const change = (name: string, part: Partial<Terrain>) => dispatch(edited({ name, changes: [{ of: 'terrains', id, to: { ...terrain, ...part } }] }));
  const ground = groundOf(map, id)!;
  const [low, high] = ground.reach;
  const metres = (v: number) => Math.round(v * profile.unit.metres);
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <h2 className="m-0 flex-grow-1">Ground</h2>
        <button className="btn btn-quiet btn-sm" onClick={() => dispatch(viewChanged({ tool: 'ground' }))}>
          <Icon name="brush" /> Brush <kbd>{TOOLS.find(({ id }) => id === 'ground')?.key.toUpperCase()}</kbd>
        </button>
      </div>
      {ids.length > 1 && (
        <ChoiceField
          label="Terrain"
          value={id}
          choices={ids.map((one) => [one, map.terrains[one].name])}
          onCommit={(terrain) => dispatch(viewChanged({ terrain }))}
        />
      )}
      <TextField label="Name" value={terrain.name} onCommit={(name) => change('rename ground', { name: name.slice(0, 60) })} />
      <p className="faint small mb-1">
        {terrain.samples.join(' × ')} samples every {terrain.spacing} {profile.unit.plural}: {metres((terrain.samples[0] - 1) * terrain.spacing)} ×{' '}
        {metres((terrain.samples[1] - 1) * terrain.spacing)} m, heights from {low.toFixed(1)} to {high.toFixed(1)}.
      </p>
      <div className="d-flex gap-2 align-items-center mb-1">
        <select
          className="form-select"
          aria-label="What the plan shows of the ground"
          value={view.groundLook}
          onChange={(e) => dispatch(viewChanged({ groundLook: e.target.value as typeof view.groundLook }))}
        >
          <option value="surfaces">Surfaces in relief</option>
          <option value="slope">How steep it is</option>
          <option value="none">Not in the plan</option>
        </select>
        <label className="d-inline-flex align-items-center gap-1">
          <input
            type="checkbox"
            className="form-check-input m-0"
            checked={view.contours}
            onChange={(e) => dispatch(viewChanged({ contours: e.target.checked }))}
          />{' '}
          Contours
        </label>
      </div>
      {view.groundLook === 'slope' && (
        <ul className="slope-words list-unstyled small mb-2">
          {slopeWords(profile).map(({ word, from, colour }) => (
            <li key={word}>
              <span aria-hidden="true" style={{ background: `rgb(${colour.join()})` }} /> from {Math.round(from)}°: {word}
            </li>
          ))}
        </ul>
      )}
      <GroundSurfaces terrain={terrain} onChange={change} />
      <GroundThings terrain={terrain} onChange={change} />
      <GroundRules id={id} terrain={terrain} onChange={change} />
      <GroundTools id={id} terrain={terrain} />
      <div className="d-flex gap-1 mt-2">
        <button className="btn btn-quiet btn-sm" onClick={() => setMaking(true)}>
          <Icon name="plus-lg" /> Another terrain
        </button>
        <button
          className="btn btn-quiet btn-sm"
          onClick={() =>
            dispatch(
              edited({
                name: `remove ground ${terrain.name}`.slice(0, 120),
                changes: [
                  { of: 'terrains', id, to: null },
                  ...Object.keys(map.tiles)
                    .filter((tile) => map.tiles[tile].terrain === id)
                    .map((tile) => ({ of: 'tiles' as const, id: tile, to: null })),
                ],
              }),
            )
          }
        >
          <Icon name="trash" /> Remove
        </button>
      </div>
    </>
  );
}

const SIZES = [129, 257, 513, 1025, 2049, 4097];

function NewGround({ first, onDone }: { first: boolean; onDone(): void }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const [side, setSide] = useState(513);
  const [spacing, setSpacing] = useState(() => profile.ground?.spacing ?? Math.max(profile.grid.min, 2 / profile.unit.metres));
  const [height, setHeight] = useState(0);
  const [square, setSquare] = useState(true);
  const [deep, setDeep] = useState(257);
  const make = () => {
    const name = freeName(
      'ground',
      Object.values(map.terrains).map((one) => one.name),
    );
    const to = newTerrain(profile, { name, samples: [side, square ? side : deep], spacing, base: height });
    const id = freshId(map.terrains, 'e');
    dispatch(edited({ name: 'make ground', changes: [{ of: 'terrains', id, to }] }));
    dispatch(viewChanged({ terrain: id, tool: 'ground' }));
    onDone();
  };
  const metres = (count: number) => Math.round((count - 1) * spacing * profile.unit.metres);
  return (
    <>
      <h2 className="m-0">{first ? 'No ground yet' : 'Another terrain'}</h2>
      <p className="faint small">
        Ground is a field of heights that brushes, rules and files shape: hills to ride, a yard before a door, the bed of a lake.
      </p>
      <ChoiceField
        label="Samples"
        value={String(side)}
        choices={SIZES.map((n) => [String(n), `${n} along a side`])}
        onCommit={(v) => setSide(Number(v))}
      />
      <CheckField label="Square" value={square} onCommit={setSquare} />
      {!square && <NumberField label="Samples in y" value={deep} min={2} max={4097} onCommit={(v) => setDeep(Math.round(v))} />}
      <NumberField label="Spacing" unit={profile.unit.plural} value={spacing} min={0.01} max={1024} onCommit={setSpacing} />
      <NumberField label="Height" unit={profile.unit.plural} value={height} onCommit={setHeight} />
      <p className="faint small">
        {metres(side)} × {metres(square ? side : deep)} m.
      </p>
      <button className="btn btn-primary btn-sm" onClick={make}>
        Make ground
      </button>
      {!first && (
        <button className="btn btn-quiet btn-sm ms-1" onClick={onDone}>
          Leave it
        </button>
      )}
    </>
  );
}
