import { nameProblem } from '@violet-crate/core/crate/naming';
import type { MapObject, PropertyValue } from '@violet-crate/core/document/schema';
import { seriesOf, seriesProblems } from '@violet-crate/core/map/series';
import { classOf, type PropertyDefinition } from '@violet-crate/core/profile/schema';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { changeObject } from '../editing/edits.ts';
import { TextField, VectorField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { ContactField, withContact } from './ContactField.tsx';
import { PropertyField } from './PropertyField.tsx';
import { looksOf } from '../../part/looks.ts';
import { SignalEditor } from './SignalEditor.tsx';
import { startMapCommand } from '../commands/startMapCommand.ts';
import { useDocument } from '../editing/useDocument.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { TurnField } from './TurnField.tsx';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';

export function ObjectInspector({ ids }: { ids: string[] }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const objects = ids.map((id) => map.objects[id]);
  const [object] = objects;
  const [id] = ids;
  const same = objects.every((o) => o.class === object.class);
  const objectClass = same ? classOf(profile, object.class) : undefined;
  const others = Object.entries(map.objects)
    .filter(([other]) => other !== id)
    .map(([, o]) => o.name);
  const each = (change: (o: MapObject) => Partial<MapObject>, name: string) =>
    dispatch(edited({ name, changes: ids.map((one) => ({ of: 'objects', id: one, to: { ...map.objects[one], ...change(map.objects[one]) } })) }));
  const setProperty = (key: string, value: PropertyValue) =>
    each(
      (o) => ({ properties: { ...o.properties, [key]: value } }),
      ids.length === 1 ? `change ${key} of ${object.name}` : `change ${key} of ${ids.length} objects`,
    );
  const mixed = (read: (o: MapObject) => unknown) => objects.some((o) => JSON.stringify(read(o)) !== JSON.stringify(read(object)));
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name={objectClass?.icon ?? 'boxes'} />
        <h2 className="m-0 flex-grow-1">
          {ids.length === 1 ? (objectClass?.label ?? object.class) : `${ids.length} ${same ? (objectClass?.label ?? 'objects') : 'objects'}`}
        </h2>
        <SelectionButtons />
      </div>
      {objectClass && (
        <p className="faint small mb-2">
          {objectClass.description}
          {objectClass.usedIn && objectClass.usedIn.length > 0 && ` In use in ${objectClass.usedIn.join(', ')}.`}
        </p>
      )}
      {ids.length === 1 ? (
        <>
          <TextField
            label="Name"
            mono
            value={object.name}
            problem={(text) => nameProblem(profile, 'object', text, others)}
            onCommit={(name) => dispatch(edited(changeObject(map, id, { name }, `rename ${object.name}`)))}
          />
          <VectorField isLength label="Position" value={object.position} onCommit={(position) => each(() => ({ position }), `move ${object.name}`)} />
        </>
      ) : (
        <div className="d-flex flex-wrap gap-1 mb-1">
          {ids.map((one) => (
            <button key={one} className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'objects', ids: [one] }))}>
              {map.objects[one].name}
            </button>
          ))}
        </div>
      )}
      <TurnField value={object.turn} mixed={mixed((o) => o.turn)} onCommit={(turn) => each(() => ({ turn: ((turn % 360) + 360) % 360 }), 'turn')} />
      <div className="d-flex gap-1 flex-wrap mb-1">
        <button className="btn btn-quiet btn-sm py-0" onClick={() => startMapCommand('drop')}>
          Drop to surface <kbd>J</kbd>
        </button>
        {objectClass?.series && <SeriesButtons classId={object.class} />}
      </div>
      <ContactField
        value={object.contact}
        mixed={mixed((o) => o.contact ?? null)}
        onCommit={(contact) =>
          dispatch(
            edited({
              name: `contact of ${ids.length === 1 ? object.name : `${ids.length} objects`} with the ground`,
              changes: ids.map((one) => ({ of: 'objects', id: one, to: withContact(map.objects[one], contact) })),
            }),
          )
        }
      />
      {objectClass && objectClass.properties.length > 0 && <h3>Properties</h3>}
      {objectClass?.properties.map((definition) => (
        <PropertyField
          key={definition.id}
          definition={definition as PropertyDefinition}
          value={object.properties[definition.id] ?? definition.default}
          mixed={mixed((o) => o.properties[definition.id] ?? definition.default)}
          onCommit={(value) => setProperty(definition.id, value)}
          onPick={
            definition.type === 'object' && ids.length === 1
              ? () => dispatch(viewChanged({ picking: { property: definition.id, of: definition.of }, tool: 'select' }))
              : undefined
          }
        />
      ))}
      {ids.length === 1 &&
        looksOf(profile, object.class).map(
          ({ Fields }, i) =>
            Fields && (
              <Fields key={i} object={object} profile={profile} onChange={(change, name) => dispatch(edited(changeObject(map, id, change, name)))} />
            ),
        )}
      {ids.length === 1 && (
        <ScriptField
          value={object.script}
          onCommit={(script) => {
            const { script: _before, ...rest } = object;
            dispatch(edited({ name: `script of ${object.name}`, changes: [{ of: 'objects', id, to: script === '' ? rest : { ...rest, script } }] }));
          }}
        />
      )}
      {ids.length === 1 && <SignalEditor id={id} map={map} profile={profile} />}
    </>
  );
}

/** A script that runs for this object alone. */
function ScriptField({ value = '', onCommit }: { value?: string; onCommit(script: string): void }) {
  const scripts = useAppSelector((s) => s.crate.scripts);
  const paths = Object.keys(scripts).sort();
  return (
    <div className="mb-2">
      <label className="form-label" htmlFor="object-script">
        Script of its own
      </label>
      <select id="object-script" className="form-select form-select-sm mono" value={value} onChange={(event) => onCommit(event.target.value)}>
        <option value="">none</option>
        {[...new Set([...paths, ...(value ? [value] : [])])].map((path) => (
          <option key={path} value={path}>
            {path.replace(/^scripts\//, '')}
          </option>
        ))}
      </select>
      {value !== '' && (
        <p className="faint small mb-0">
          Its functions see this object as <code>self</code>; <code>on_EVENT</code> is called at its events.
        </p>
      )}
    </div>
  );
}

function SeriesButtons({ classId }: { classId: string }) {
  const { map, profile } = useDocument();
  const members = seriesOf(map, profile, classId);
  const { gaps, duplicates } = seriesProblems(members);
  return (
    <>
      <button className="btn btn-quiet btn-sm py-0" onClick={() => startMapCommand('series-next')}>
        Add the next <kbd>N</kbd>
      </button>
      <button className="btn btn-quiet btn-sm py-0" onClick={() => startMapCommand('series-renumber')}>
        Renumber
      </button>
      <span className="faint small align-self-center">
        {members.length} in the series
        {gaps.length > 0 && `, missing ${gaps.join(', ')}`}
        {duplicates.length > 0 && `, twice ${duplicates.map((d) => d.ordinal).join(', ')}`}
      </span>
    </>
  );
}
