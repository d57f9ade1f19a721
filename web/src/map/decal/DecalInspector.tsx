import { byHand } from '@violet-crate/core/decal/place';
import { frameOf } from '@violet-crate/core/decal/frame';
import { nameProblem } from '@violet-crate/core/crate/naming';
import type { Decal } from '@violet-crate/core/document/schema';
import { plural } from '../../common/format.ts';
import { Icon } from '../../common/Icon.tsx';
import { ChoiceField, Field, NumberField, RangeField, TextField, VectorField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';
import { useDecalMaterials } from './DecalOptions.tsx';

/** One decal, or several at once: what is set is set for all. */
export function DecalInspector({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const materials = useDecalMaterials();
  const member = map.decals[ids[0]];
  const unit = profile.unit.plural;
  const change = (part: Partial<Decal>, name: string) =>
    dispatch(edited({ name, changes: ids.map((id) => ({ of: 'decals' as const, id, to: { ...byHand(map.decals[id]), ...part } })) }));
  const choices = (materials.includes(member.material) ? materials : [member.material, ...materials]).map((name) => [name, name] as const);
  const { up } = frameOf(member);
  const { name: _name, on: _on, rule: _rule, layer: _layer, position: _position, normal: _normal, ...style } = member;
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="stickies" />
        <h2 className="m-0 flex-grow-1">{ids.length > 1 ? plural(ids.length, 'decal', 'decals') : 'Decal'}</h2>
        <SelectionButtons />
      </div>
      <p className="faint small mb-2">
        {member.on && map.solids[member.on]
          ? `Lies on ${map.solids[member.on].label ?? member.on}, and goes where that goes.`
          : 'Goes with no solid. Drag it in the perspective to put it onto one.'}
      </p>
      {ids.length === 1 && (
        <TextField
          label="Name"
          mono
          value={member.name}
          problem={(text) => nameProblem(profile, 'object', text)}
          onCommit={(name) => change({ name }, `rename ${member.name}`)}
        />
      )}
      <ChoiceField label="Material" value={member.material} choices={choices} onCommit={(material) => change({ material }, 'decal material')} />
      <NumberField
        label="Width"
        unit={unit}
        min={0.01}
        value={member.size[0]}
        onCommit={(w) => change({ size: [w, member.size[1]] }, 'decal size')}
      />
      <NumberField
        label="Height"
        unit={unit}
        min={0.01}
        value={member.size[1]}
        onCommit={(h) => change({ size: [member.size[0], h] }, 'decal size')}
      />
      <NumberField label="Turn" unit="°" value={member.turn} onCommit={(turn) => change({ turn }, 'turn decal')} />
      <NumberField label="Depth" unit={unit} min={0.01} value={member.depth} onCommit={(depth) => change({ depth }, 'decal depth')} />
      <RangeField
        label="Soft edges"
        hint="Share of its half size over which it fades"
        min={0}
        max={1}
        step={0.05}
        value={member.soft}
        onChange={(soft) => change({ soft }, 'decal edges')}
      />
      <NumberField label="Up to an angle of" unit="°" min={0} max={90} value={member.limit} onCommit={(limit) => change({ limit }, 'decal angle')} />
      <NumberField label="Fading before it over" unit="°" min={0} max={90} value={member.fade} onCommit={(fade) => change({ fade }, 'decal angle')} />
      <NumberField
        label="Order"
        min={-1000}
        max={1000}
        value={member.order}
        onCommit={(order) => change({ order: Math.round(order) }, 'order of decal')}
      />
      <Field label="Tint" id="decal-tint">
        <input
          id="decal-tint"
          type="color"
          className="form-control form-control-color"
          value={member.tint}
          onChange={(e) => change({ tint: e.target.value }, 'tint decal')}
        />
      </Field>
      {ids.length === 1 && <VectorField isLength label="At" value={member.position} onCommit={(position) => change({ position }, 'move decal')} />}
      <p className="faint small mb-2">
        Looks towards {member.normal.map((v) => Math.round(v * 100) / 100).join(', ')}; its top towards{' '}
        {up.map((v) => Math.round(v * 100) / 100).join(', ')}.
      </p>
      <button className="btn btn-quiet btn-sm" onClick={() => dispatch(viewChanged({ tool: 'decal', decal: style }))}>
        Place more like it
      </button>
    </>
  );
}
