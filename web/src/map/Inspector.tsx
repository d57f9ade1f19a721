import { nameProblem } from '@violet-crate/core/crate/naming';
import { boxSize, type Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { PropertyValue } from '@violet-crate/core/map/schema';
import { classOf, type PropertyDefinition } from '@violet-crate/core/profile/schema';
import { round } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../store.ts';
import { changeObject, deleteSelection, duplicate, paint, resize } from './edits.ts';
import { CheckField, ChoiceField, Field, NumberField, TextField, VectorField } from './fields.tsx';
import { MaterialPicker } from './MaterialPicker.tsx';
import { edited } from './mapSlice.ts';
import { SignalEditor } from './SignalEditor.tsx';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { useDocument } from './useDocument.ts';
import { selected, viewChanged } from './viewSlice.ts';

/** Properties of what is selected; of the map itself when nothing is. */
export function Inspector() {
  const { map, view } = useDocument();
  const { selection } = view;
  const ids = selection?.ids.filter((id) => (selection.kind === 'solids' ? map.solids[id] : map.objects[id])) ?? [];
  return (
    <section className="inspector" aria-label="Inspector">
      {ids.length === 0 ? (
        <MapInspector />
      ) : selection!.kind === 'solids' ? (
        <SolidInspector ids={ids} face={selection!.face} />
      ) : ids.length === 1 ? (
        <ObjectInspector id={ids[0]} />
      ) : (
        <ManyObjects ids={ids} />
      )}
    </section>
  );
}

function SelectionButtons() {
  const dispatch = useAppDispatch();
  const { map, view } = useDocument();
  const { selection } = view;
  if (!selection) return null;
  return (
    <span className="d-flex gap-1">
      <button
        className="btn btn-quiet btn-sm"
        title="Ctrl+D"
        onClick={() => {
          const made = duplicate(map, selection, [view.grid, view.grid, 0]);
          if (!made) return;
          dispatch(edited(made.edit));
          dispatch(selected(made.selection));
        }}
      >
        <Icon name="copy" /> Duplicate
      </button>
      <button
        className="btn btn-quiet btn-sm"
        title="Delete"
        onClick={() => {
          dispatch(edited(deleteSelection(map, selection)));
          dispatch(selected(null));
        }}
      >
        <Icon name="trash" /> Delete
      </button>
    </span>
  );
}

function SolidInspector({ ids, face }: { ids: string[]; face?: number }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const solid = map.solids[ids[0]];
  const { box } = shapeOf(solid);
  const used =
    face !== undefined && solid.faces[face]
      ? solid.faces[face].material
      : new Set(ids.flatMap((id) => map.solids[id].faces.map((f) => f.material))).size === 1
        ? solid.faces[0].material
        : '';
  const size = boxSize(box);
  const setBox = (to: Box3) => {
    if (to.max.every((v, i) => v - to.min[i] >= profile.grid.min)) dispatch(edited(resize(map, ids[0], to)));
  };
  return (
    <>
      <div className="d-flex align-items-center">
        <h2 className="m-0 flex-grow-1">{ids.length === 1 ? `Solid ${ids[0]}` : `${ids.length} solids`}</h2>
        <SelectionButtons />
      </div>
      {ids.length === 1 && (
        <>
          <VectorField
            label="From"
            value={box.min}
            onCommit={(min) => setBox({ min, max: box.max.map((v, i) => v + min[i] - box.min[i]) as Vec3 })}
          />
          <VectorField label="Size" value={size} onCommit={(next) => setBox({ min: box.min, max: box.min.map((v, i) => v + next[i]) as Vec3 })} />
          <div className="faint small mb-1">
            {size.map((v) => round(v * profile.unit.metres)).join(' × ')} m · {solid.faces.length} faces
          </div>
          <CheckField
            label="Detail"
            title="Drawn and solid, but does not seal"
            value={solid.detail ?? false}
            onCommit={(detail) =>
              dispatch(edited({ name: 'change detail', changes: [{ of: 'solids', id: ids[0], to: { ...solid, detail: detail || undefined } }] }))
            }
          />
        </>
      )}
      <div className="d-flex align-items-center mt-2 mb-1">
        <h3 className="m-0 flex-grow-1">Material {face !== undefined && ids.length === 1 ? 'of this face' : 'of all faces'}</h3>
        {face !== undefined && ids.length === 1 && (
          <button className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'solids', ids }))}>
            All faces
          </button>
        )}
      </div>
      {face === undefined && ids.length === 1 && <div className="faint small mb-1">To paint one face, click it in the perspective view.</div>}
      <MaterialPicker
        value={used}
        onPick={(material) => {
          dispatch(edited(paint(map, ids, ids.length === 1 ? face : undefined, material)));
          dispatch(viewChanged({ material }));
        }}
      />
    </>
  );
}

function ObjectInspector({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const object = map.objects[id];
  const objectClass = classOf(profile, object.class);
  const others = Object.entries(map.objects)
    .filter(([other]) => other !== id)
    .map(([, o]) => o.name);
  const change = (part: Parameters<typeof changeObject>[2], name: string) => dispatch(edited(changeObject(map, id, part, name)));
  const setProperty = (key: string, value: PropertyValue) =>
    change({ properties: { ...object.properties, [key]: value } }, `change ${key} of ${object.name}`);
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name={objectClass?.icon ?? 'question'} />
        <h2 className="m-0 flex-grow-1">{objectClass?.label ?? object.class}</h2>
        <SelectionButtons />
      </div>
      <p className="faint small mb-2">{objectClass?.description}</p>
      <TextField
        label="Name"
        mono
        value={object.name}
        problem={(text) => nameProblem(profile, 'object', text, others)}
        onCommit={(name) => change({ name }, `rename ${object.name}`)}
      />
      <VectorField label="Position" value={object.position} onCommit={(position) => change({ position }, `move ${object.name}`)} />
      <NumberField
        label="Turn"
        unit="°"
        value={object.turn}
        onCommit={(turn) => change({ turn: ((turn % 360) + 360) % 360 }, `turn ${object.name}`)}
      />
      {objectClass && objectClass.properties.length > 0 && <h3>Properties</h3>}
      {objectClass?.properties.map((definition) => (
        <PropertyField
          key={definition.id}
          definition={definition as PropertyDefinition}
          value={object.properties[definition.id] ?? definition.default}
          onCommit={(value) => setProperty(definition.id, value)}
        />
      ))}
      <SignalEditor id={id} map={map} profile={profile} />
    </>
  );
}

function PropertyField({
  definition,
  value,
  onCommit,
}: {
  definition: PropertyDefinition;
  value: PropertyValue;
  onCommit(value: PropertyValue): void;
}) {
  const { view, base } = useAppSelector((s) => s.crate);
  const files = [...view!.files.map((f) => [f.path, 'crate'] as const), ...base!.files.map((f) => [f.path, 'game'] as const)];
  const fileChoices = (folder: string) =>
    files
      .filter(([path]) => path.startsWith(`${folder}/`))
      .map(([path, origin]) => [path, `${path.slice(folder.length + 1)}${origin === 'crate' ? ' (crate)' : ''}`] as const);
  const { label, unit, min, max } = definition;
  switch (definition.type) {
    case 'number':
      return <NumberField label={label} unit={unit} value={Number(value)} min={min} max={max} onCommit={onCommit} />;
    case 'boolean':
      return <CheckField label={label} title={definition.description} value={value === true} onCommit={onCommit} />;
    case 'vector':
      return <VectorField label={label} value={value as number[]} onCommit={onCommit} />;
    case 'colour':
      return (
        <Field label={label} id={`colour-${definition.id}`}>
          <span className="d-flex gap-1">
            <input
              id={`colour-${definition.id}`}
              type="color"
              className="form-control form-control-color"
              value={String(value)}
              onChange={(e) => onCommit(e.target.value)}
            />
            <code className="align-self-center">{String(value)}</code>
          </span>
        </Field>
      );
    case 'choice':
      return <ChoiceField label={label} value={String(value)} choices={(definition.choices ?? []).map((c) => [c, c] as const)} onCommit={onCommit} />;
    case 'model':
      return <ChoiceField label={label} value={String(value)} choices={fileChoices('models')} onCommit={onCommit} />;
    case 'sound':
      return <ChoiceField label={label} value={String(value)} choices={fileChoices('sounds')} onCommit={onCommit} />;
    case 'material':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[...new Set([...view!.manifest.materials, ...base!.materials].map((m) => m.name))].map((n) => [n, n] as const)}
          onCommit={onCommit}
        />
      );
    default:
      return <TextField label={label} value={String(value)} rows={2} onCommit={onCommit} />;
  }
}

function ManyObjects({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map } = useDocument();
  return (
    <>
      <div className="d-flex align-items-center">
        <h2 className="m-0 flex-grow-1">{ids.length} objects</h2>
        <SelectionButtons />
      </div>
      <p className="faint small">They move, duplicate and are deleted together.</p>
      {ids.map((id) => (
        <button key={id} className="btn btn-quiet btn-sm me-1 mb-1" onClick={() => dispatch(selected({ kind: 'objects', ids: [id] }))}>
          {map.objects[id].name}
        </button>
      ))}
    </>
  );
}

function MapInspector() {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const objects = Object.entries(map.objects);
  const settings = (part: Partial<typeof map.settings>, name: string) =>
    dispatch(edited({ name, changes: [{ of: 'settings', to: { ...map.settings, ...part } }] }));
  const addBand = () => {
    const bands = Object.values(map.bands);
    const top = Math.max(profile.band.bottom, ...bands.map((b) => b.top));
    const id = `b${Math.max(0, ...Object.keys(map.bands).map((k) => Number(k.slice(1)) || 0)) + 1}`;
    dispatch(
      edited({
        name: 'add band',
        changes: [{ of: 'bands', id, to: { name: `Level ${bands.length + 1}`, bottom: top, top: top + profile.band.top - profile.band.bottom } }],
      }),
    );
    dispatch(viewChanged({ band: id }));
  };
  return (
    <>
      <h2 className="m-0">Map</h2>
      <p className="faint small mb-2">
        {Object.keys(map.solids).length} solids, {objects.length} objects, {Object.keys(map.signals).length} signals. Select something to see its
        properties.
      </p>
      <div className="d-flex align-items-center">
        <h3 className="flex-grow-1">Bands</h3>
        <button className="btn btn-quiet btn-sm py-0" onClick={addBand}>
          <Icon name="plus-lg" /> Add
        </button>
      </div>
      {Object.entries(map.bands).map(([id, band]) => (
        <div key={id} className="d-flex gap-1 mb-1 align-items-center">
          <input
            type="radio"
            className="form-check-input"
            name="band"
            aria-label={`Draw in ${band.name}`}
            checked={view.band === id}
            onChange={() => dispatch(viewChanged({ band: id }))}
          />
          <div className="flex-grow-1">
            <TextFieldInline
              name={`Name of band ${band.name}`}
              value={band.name}
              onCommit={(name) => dispatch(edited({ name: 'rename band', changes: [{ of: 'bands', id, to: { ...band, name } }] }))}
            />
          </div>
          <span className="mono small text-nowrap">
            {band.bottom} … {band.top}
          </span>
          {Object.keys(map.bands).length > 1 && (
            <button
              className="btn btn-quiet btn-sm py-0"
              aria-label={`Remove band ${band.name}`}
              onClick={() => dispatch(edited({ name: 'remove band', changes: [{ of: 'bands', id, to: null }] }))}
            >
              <Icon name="x" />
            </button>
          )}
        </div>
      ))}
      <h3>Sky</h3>
      <Field label="Colour" id="sky-colour">
        <input
          id="sky-colour"
          type="color"
          className="form-control form-control-color"
          value={map.settings.skyColour}
          onChange={(e) => settings({ skyColour: e.target.value }, 'change sky colour')}
        />
      </Field>
      <NumberField
        label="Brightness"
        value={map.settings.skyIntensity}
        min={0}
        max={50}
        onCommit={(skyIntensity) => settings({ skyIntensity }, 'change sky brightness')}
      />
      <h3>Objects</h3>
      {objects.length === 0 && <div className="faint small">None yet. Press 4 to place one.</div>}
      <div className="d-flex flex-wrap gap-1">
        {objects.map(([id, object]) => (
          <button key={id} className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'objects', ids: [id] }))}>
            <Icon name={classOf(profile, object.class)?.icon ?? 'question'} /> {object.name}
          </button>
        ))}
      </div>
    </>
  );
}

function TextFieldInline({ name, value, onCommit }: { name: string; value: string; onCommit(text: string): void }) {
  return (
    <input
      key={value}
      className="form-control"
      aria-label={name}
      defaultValue={value}
      onBlur={(e) => e.target.value.trim() !== '' && e.target.value !== value && onCommit(e.target.value.trim())}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}
