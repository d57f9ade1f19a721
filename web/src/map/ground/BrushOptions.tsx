import './ground.css';
import { BRUSH_KINDS, BRUSHES, type BrushAsk, type BrushSettings } from '@violet-crate/core/terrain/brush/brush';
import { Icon } from '../../common/Icon.tsx';
import { useShownUnit } from '../../common/useShownUnit.ts';
import { NumberInput } from '../../common/fields.tsx';
import { useAppDispatch } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { brushGround, chooseStamp, useStampPicture } from './brushing.ts';
import { pictureHeights } from './pictureHeights.ts';

type Settings = Omit<BrushSettings, 'picture'>;

/** The brush and what it is told, in the strip over the sheet. */
export function BrushOptions() {
  const dispatch = useAppDispatch();
  const { map, view, profile } = useDocument();
  const stamp = useStampPicture();
  const { brush, brushSettings: set } = view;
  const id = brushGround(map, view.terrain);
  const terrain = id === null ? null : map.terrains[id];
  const facts = BRUSHES[brush];
  const asks = (what: BrushAsk) => (facts.asks as readonly BrushAsk[]).includes(what);
  const change = (part: Partial<Settings>) => dispatch(viewChanged({ brushSettings: { ...set, ...part } }));
  const { factor } = useShownUnit(profile.unit.plural);
  const number = (label: string, key: keyof Settings, min: number, max: number, scale = factor) => (
    <label key={key} className="d-inline-flex align-items-center gap-1">
      {label}
      <span style={{ width: '4.2rem' }}>
        <NumberInput
          name={label}
          value={(set[key] as number) * scale}
          min={min * scale}
          max={max * scale}
          onCommit={(v) => change({ [key]: v / scale })}
        />
      </span>
    </label>
  );
  const range = (label: string, key: 'strength' | 'fade') => (
    <label className="d-inline-flex align-items-center gap-1">
      {label}
      <input
        type="range"
        min={0.05}
        max={1}
        step={0.05}
        value={set[key]}
        style={{ width: '4.5rem' }}
        onChange={(e) => change({ [key]: Number(e.target.value) })}
      />
    </label>
  );
  if (!terrain)
    return (
      <div className="tool-options over-readout" role="group" aria-label="Brush options">
        <span className="faint">This map has no ground yet.</span>
        <button className="btn btn-quiet" onClick={() => dispatch(viewChanged({ panel: 'ground' }))}>
          <Icon name="plus-lg" /> Make ground
        </button>
      </div>
    );
  const choices = asks('thing') ? terrain.things : asks('surface') ? terrain.surfaces : [];
  return (
    <div className="tool-options over-readout" role="group" aria-label="Brush options">
      <label className="d-inline-flex align-items-center gap-1">
        Brush
        <select
          className="form-select"
          aria-label="Brush"
          value={brush}
          onChange={(e) => dispatch(viewChanged({ brush: e.target.value as typeof brush }))}
        >
          {BRUSH_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {BRUSHES[kind].label}
            </option>
          ))}
        </select>
      </label>
      {number('Radius', 'radius', profile.grid.min, 4096)}
      {range('Strength', 'strength')}
      {range('Fade', 'fade')}
      {choices.length > 0 && (
        <select
          className="form-select"
          aria-label={asks('thing') ? 'Thing' : 'Surface'}
          value={set.what}
          onChange={(e) => change({ what: e.target.value })}
        >
          {!choices.some((one) => one.id === set.what) && <option value="">choose …</option>}
          {choices.map((one) => (
            <option key={one.id} value={one.id}>
              {one.label}
            </option>
          ))}
        </select>
      )}
      {asks('thing') && terrain.things.length === 0 && <span className="text-warm">Add a thing in the panel Ground first.</span>}
      {asks('height') && number('Height', 'height', -1e5, 1e5)}
      {asks('step') && number('Step', 'step', profile.grid.min, 1e4)}
      {asks('rest') && number('Angle of rest', 'rest', 1, 89, 1)}
      {asks('size') && number('Width', 'size', profile.grid.min, 1e5)}
      {asks('apart') && number('Apart', 'apart', profile.grid.min, 1e4)}
      {asks('seed') && number('Seed', 'seed', 0, 1e9, 1)}
      {asks('limits') && (
        <span className="d-inline-flex align-items-center gap-1">
          Slope
          {[0, 1].map((end) => (
            <span key={end} style={{ width: '3rem' }}>
              <NumberInput
                name={end === 0 ? 'Slope from' : 'Slope to'}
                value={set.slope[end]}
                min={0}
                max={90}
                onCommit={(v) => change({ slope: set.slope.map((old, i) => (i === end ? v : old)) as [number, number] })}
              />
            </span>
          ))}
        </span>
      )}
      {asks('picture') && (
        <label className="btn btn-quiet">
          <Icon name="image" /> {stamp?.name ?? 'Picture …'}
          <input
            type="file"
            accept=".png,.jpg,.jpeg,.webp"
            className="visually-hidden"
            aria-label="Picture of the stamp"
            onChange={(e) => {
              const [file] = e.target.files ?? [];
              if (file)
                pictureHeights(file).then(chooseStamp, () =>
                  dispatch(viewChanged({ refusal: `${file.name} is no picture that this browser can read.` })),
                );
            }}
          />
        </label>
      )}
      <label className="d-inline-flex align-items-center gap-1" title="The same on the other side of the middle of the ground">
        Mirror
        <select
          className="form-select"
          aria-label="Mirror"
          value={set.mirror}
          onChange={(e) => change({ mirror: e.target.value as Settings['mirror'] })}
        >
          {['none', 'x', 'y', 'both'].map((way) => (
            <option key={way}>{way}</option>
          ))}
        </select>
      </label>
      <label className="d-inline-flex align-items-center gap-1" title="The middle of the brush goes from sample to sample">
        <input type="checkbox" className="form-check-input m-0" checked={set.snap} onChange={(e) => change({ snap: e.target.checked })} /> Snap
      </label>
      <span className="faint">{facts.does}</span>
      {view.refusal && (
        <span role="alert" className="text-warm">
          {view.refusal}
        </span>
      )}
    </div>
  );
}
