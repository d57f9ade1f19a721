import { nameProblem } from '@violet-crate/core/crate/naming';
import type { Overlay } from '@violet-crate/core/document/schema';
import { plural } from '../../common/format.ts';
import { Icon } from '../../common/Icon.tsx';
import { ChoiceField, Field, NumberField, TextField, VectorField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { useDocument } from '../editing/useDocument.ts';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';
import { useDecalMaterials } from './DecalOptions.tsx';

const FORMS: readonly (readonly [Overlay['form'], string])[] = [
  ['strip', 'a strip'],
  ['area', 'an area'],
];

/** One overlay, or several at once: what is set is set for all. */
export function OverlayInspector({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const materials = useDecalMaterials();
  const member = map.overlays[ids[0]];
  const unit = profile.unit.plural;
  const change = (part: Partial<Overlay>, name: string) =>
    dispatch(edited({ name, changes: ids.map((id) => ({ of: 'overlays' as const, id, to: { ...map.overlays[id], ...part } })) }));
  const choices = (materials.includes(member.material) ? materials : [member.material, ...materials]).map((name) => [name, name] as const);
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="pentagon" />
        <h2 className="m-0 flex-grow-1">{ids.length > 1 ? plural(ids.length, 'overlay', 'overlays') : 'Overlay'}</h2>
        <SelectionButtons />
      </div>
      <p className="faint small mb-2">
        {member.on && map.solids[member.on]
          ? `Lies on ${map.solids[member.on].label ?? member.on}, and goes where that goes.`
          : 'Lies on several surfaces; its points can be dragged in plan and section.'}
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
      <ChoiceField label="Is" value={member.form} choices={FORMS} onCommit={(form) => change({ form: form as Overlay['form'] }, 'form of overlay')} />
      <ChoiceField label="Material" value={member.material} choices={choices} onCommit={(material) => change({ material }, 'overlay material')} />
      {member.form === 'strip' && (
        <>
          <NumberField label="Width" unit={unit} min={0.01} value={member.width} onCommit={(width) => change({ width }, 'width of overlay')} />
          <NumberField label="Fading ends" unit={unit} min={0} value={member.ends} onCommit={(ends) => change({ ends }, 'ends of overlay')} />
        </>
      )}
      <NumberField label="Repeat" unit={unit} min={0} value={member.repeat} onCommit={(repeat) => change({ repeat }, 'repeat of overlay')} />
      <p className="faint small mb-2">A repeat of 0 lays the picture once over all of it.</p>
      <NumberField label="Depth" unit={unit} min={0.01} value={member.depth} onCommit={(depth) => change({ depth }, 'overlay depth')} />
      <NumberField
        label="Up to an angle of"
        unit="°"
        min={0}
        max={90}
        value={member.limit}
        onCommit={(limit) => change({ limit }, 'overlay angle')}
      />
      <NumberField
        label="Order"
        min={-1000}
        max={1000}
        value={member.order}
        onCommit={(order) => change({ order: Math.round(order) }, 'order of overlay')}
      />
      <Field label="Tint" id="overlay-tint">
        <input
          id="overlay-tint"
          type="color"
          className="form-control form-control-color"
          value={member.tint}
          onChange={(e) => change({ tint: e.target.value }, 'tint overlay')}
        />
      </Field>
      {ids.length === 1 &&
        member.points.map((point, i) => (
          <VectorField
            isLength
            key={i}
            label={`Point ${i + 1}`}
            value={point}
            onCommit={(to) => change({ points: member.points.map((p, k) => (k === i ? to : p)) }, 'move point of overlay')}
          />
        ))}
    </>
  );
}
