import { measureAngle, measureArea, measureDistance, playerCan } from '@violet-crate/core/map/measure';
import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { shapeById, type ShapeParameter, type ShapeValues } from '@violet-crate/core/solid/shapes';
import { useState } from 'react';
import { useShownUnit } from '../common/useShownUnit.ts';
import { round } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch } from '../state/store.ts';
import { drawShape } from './editing/edits.ts';
import { DecalOptions } from './decal/DecalOptions.tsx';
import { BrushOptions } from './ground/BrushOptions.tsx';
import { edited } from '../state/mapSlice.ts';
import { useDocument } from './editing/useDocument.ts';
import { useShapeValues } from './editing/useShapeValues.ts';
import { selected, shapeChanged, viewChanged } from '../state/viewSlice.ts';

/** What the active tool can be told, in a strip over the sheet: choosing a tool moves nothing. */
export function ToolOptions() {
  const { view } = useDocument();
  if (view.tool === 'room' || view.tool === 'solid') return <ShapeOptions id={view.tool === 'room' ? 'room' : view.shape} />;
  if (view.tool === 'cut') return <CutOptions />;
  if (view.tool === 'measure') return <MeasureOptions />;
  if (view.tool === 'decal') return <DecalOptions />;
  if (view.tool === 'ground') return <BrushOptions />;
  if (view.refusal)
    return (
      <div className="tool-options">
        <span role="alert" className="text-warm">
          <Icon name="exclamation-triangle" /> {view.refusal}
        </span>
      </div>
    );
  return null;
}

/** The shape's numbers, remembered; and a way to draw it exactly, without dragging. */
function ShapeOptions({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile, view, band } = useDocument();
  const shape = shapeById(id);
  const values = useShapeValues(id);
  const [size, setSize] = useState<Vec3>(() => [profile.grid.default * 8, profile.grid.default * 8, band.top - band.bottom]);
  const set = (parameter: ShapeParameter, value: number | string) => {
    const own: ShapeValues = Object.fromEntries(shape.parameters.map((p) => [p.id, values[p.id]]));
    dispatch(shapeChanged({ shape: `${profile.id}/${id}`, values: { ...own, [parameter.id]: value } }));
  };
  const box: Box3 = { min: [0, 0, band.bottom], max: [size[0], size[1], band.bottom + size[2]] };
  const note = size.every((v) => v > 0) ? shape.note?.(box, values, profile) : null;
  const draw = () => {
    const at = [view.section.from, view.section.to].map((p) => p.map((v) => Math.round(v / view.grid) * view.grid));
    const corner = [Math.min(at[0][0], at[1][0]), Math.min(at[0][1], at[1][1])];
    const made = drawShape(
      map,
      id,
      values,
      { min: [corner[0], corner[1], band.bottom], max: [corner[0] + size[0], corner[1] + size[1], band.bottom + size[2]] },
      view.material || profile.defaultMaterial,
    );
    dispatch(edited(made.edit));
    dispatch(selected(made.selection));
    dispatch(viewChanged({ tool: 'select', mode: 'solids' }));
  };
  return (
    <div className="tool-options" role="group" aria-label={`${shape.label} options`}>
      <span className="faint">{shape.description}.</span>
      {shape.parameters.map((parameter) => (
        <label key={parameter.id} className="d-inline-flex align-items-center gap-1" title={parameter.hint}>
          {parameter.label}
          {isWords(parameter.kind) ? (
            <select className="form-select" value={String(values[parameter.id])} onChange={(e) => set(parameter, e.target.value)}>
              {parameter.kind.map((word) => (
                <option key={word}>{word}</option>
              ))}
            </select>
          ) : (
            <input
              type="number"
              className="form-control"
              style={{ width: '4.6rem' }}
              min={parameter.kind.min}
              max={parameter.kind.max}
              step={parameter.kind.step}
              value={values[parameter.id]}
              onChange={(e) => {
                const { min, max } = parameter.kind as { min: number; max: number };
                if (e.target.value !== '') set(parameter, Math.min(max, Math.max(min, Number(e.target.value))));
              }}
            />
          )}
        </label>
      ))}
      <span className="d-inline-flex align-items-center gap-1">
        <span className="faint">or exactly</span>
        {size.map((v, i) => (
          <input
            key={i}
            type="number"
            className="form-control"
            style={{ width: '4.6rem' }}
            aria-label={['Width', 'Depth', 'Height'][i]}
            min={profile.grid.min}
            value={v}
            onChange={(e) => setSize(size.map((old, k) => (k === i ? Number(e.target.value) : old)) as Vec3)}
          />
        ))}
        <button
          className="btn btn-quiet"
          disabled={!size.every((v) => v >= profile.grid.min)}
          onClick={draw}
          title="Draws it at the west end of the section line"
        >
          Draw it
        </button>
      </span>
      {note && (
        <span className={note.good ? 'text-clear' : 'text-warm'}>
          <Icon name={note.good ? 'check2-circle' : 'exclamation-triangle'} /> {note.says}
        </span>
      )}
    </div>
  );
}

const isWords = (kind: ShapeParameter['kind']): kind is readonly string[] => Array.isArray(kind);

function CutOptions() {
  const dispatch = useAppDispatch();
  const { view } = useDocument();
  return (
    <div className="tool-options" role="group" aria-label="Cut options">
      <span className="faint">Seen along the line, keep</span>
      <span className="btn-group">
        {(['both', 'left', 'right'] as const).map((keep) => (
          <button key={keep} className="btn btn-quiet" aria-pressed={view.keep === keep} onClick={() => dispatch(viewChanged({ keep }))}>
            {keep === 'both' ? 'Both parts' : `The ${keep} part`}
          </button>
        ))}
      </span>
      {view.refusal && (
        <span role="alert" className="text-warm">
          {view.refusal}
        </span>
      )}
    </div>
  );
}

function MeasureOptions() {
  const dispatch = useAppDispatch();
  const { view, profile } = useDocument();
  const points = view.measure;
  const [a, b] = points.slice(-2);
  const { unit, factor } = useShownUnit(profile.unit.plural);
  const shown = (v: number) => round(v * factor);
  const long = (v: number) => (unit === 'm' ? `${shown(v)} m` : `${shown(v)} (${round(v * profile.unit.metres)} m)`);
  const both = a && b ? measureDistance(a, b) : null;
  return (
    <div className="tool-options" role="status" aria-label="Measure">
      {!both && (
        <span className="faint">
          Click two points for a distance and what the player can do between them; a third for the angle; more for the area.
        </span>
      )}
      {both && (
        <>
          <span>
            Distance <b>{long(both.distance)}</b>, level {shown(both.level)}, rise {shown(both.along[2])}, slope {round(both.slope)}°
          </span>
          {points.length > 2 && (
            <span>
              Angle <b>{round(measureAngle(points[points.length - 3], points[points.length - 2], points[points.length - 1]))}°</b>, area{' '}
              <b>{round(measureArea(points) * profile.unit.metres ** 2)} m²</b>
            </span>
          )}
          {playerCan(profile.player, a, b).map((ability) => (
            <span key={ability.what} className={ability.can ? 'text-clear' : 'text-warm'} title={ability.says}>
              <Icon name={ability.can ? 'check2-circle' : 'x-circle'} /> {ability.can ? 'can' : 'cannot'} {ability.what}: {ability.says}
            </span>
          ))}
          <button className="btn btn-quiet" onClick={() => dispatch(viewChanged({ measure: [] }))}>
            Begin anew
          </button>
        </>
      )}
    </div>
  );
}
