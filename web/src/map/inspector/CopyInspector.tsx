import { nameProblem } from '@violet-crate/core/crate/naming';
import { findPrefab } from '@violet-crate/core/map/prefab';
import type { Copy } from '@violet-crate/core/document/schema';
import { classOf, type PropertyDefinition } from '@violet-crate/core/profile/schema';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch } from '../../state/store.ts';
import { Field, TextField, VectorField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { ContactField, withContact } from './ContactField.tsx';
import { PropertyField } from './PropertyField.tsx';
import { startMapCommand } from '../commands/startMapCommand.ts';
import { useDocument } from '../editing/useDocument.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { TurnField } from './TurnField.tsx';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';

export function CopyInspector({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const copy = map.copies[id];
  const prefab = findPrefab(map, profile, copy.prefab);
  const own = Object.hasOwn(map.prefabs, copy.prefab);
  const change = (part: Partial<Copy>, name: string) => dispatch(edited({ name, changes: [{ of: 'copies', id, to: { ...copy, ...part } }] }));
  const others = Object.entries(map.copies)
    .filter(([other]) => other !== id)
    .map(([, c]) => c.name);
  /** Properties of the prefab's objects that are not parameters yet. */
  const candidates = Object.entries(prefab?.objects ?? {}).flatMap(([object, value]) =>
    (classOf(profile, value.class)?.properties ?? [])
      .filter((p) => !prefab!.parameters.some((known) => known.object === object && known.property === p.id))
      .map((p) => ({ object, property: p.id, label: `${value.name} · ${p.label}` })),
  );
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="boxes" />
        <h2 className="m-0 flex-grow-1">Copy of {prefab?.name ?? 'a missing prefab'}</h2>
        <SelectionButtons />
      </div>
      <TextField
        label="Name"
        mono
        value={copy.name}
        problem={(text) => nameProblem(profile, 'object', text, others)}
        onCommit={(name) => change({ name }, `rename ${copy.name}`)}
      />
      <VectorField isLength label="Position" value={copy.position} onCommit={(position) => change({ position }, `move ${copy.name}`)} />
      <TurnField value={copy.turn} mixed={false} onCommit={(turn) => change({ turn: ((turn % 360) + 360) % 360 }, `turn ${copy.name}`)} />
      <ContactField
        value={copy.contact}
        onCommit={(contact) =>
          dispatch(edited({ name: `contact of ${copy.name} with the ground`, changes: [{ of: 'copies', id, to: withContact(copy, contact) }] }))
        }
      />
      {prefab?.parameters.map((parameter) => {
        const object = prefab.objects[parameter.object];
        const definition = object && classOf(profile, object.class)?.properties.find((p) => p.id === parameter.property);
        if (!definition) return null;
        return (
          <PropertyField
            key={parameter.id}
            definition={{ ...definition, label: parameter.label } as PropertyDefinition}
            value={copy.values[parameter.id] ?? object.properties[parameter.property] ?? definition.default}
            onCommit={(value) => change({ values: { ...copy.values, [parameter.id]: value } }, `change ${parameter.label} of ${copy.name}`)}
          />
        );
      })}
      {own && candidates.length > 0 && (
        <Field label="Parameter" id="prefab-parameter">
          <select
            id="prefab-parameter"
            className="form-select"
            value=""
            onChange={(e) => {
              const picked = candidates[Number(e.target.value)];
              if (!picked) return;
              const parameterId = `${picked.object}_${picked.property}`;
              const parameters = [...prefab!.parameters, { id: parameterId, label: picked.label, object: picked.object, property: picked.property }];
              dispatch(
                edited({ name: 'add parameter', changes: [{ of: 'prefabs', id: copy.prefab, to: { ...map.prefabs[copy.prefab], parameters } }] }),
              );
            }}
          >
            <option value="">let copies differ in …</option>
            {candidates.map((c, i) => (
              <option key={`${c.object}/${c.property}`} value={i}>
                {c.label}
              </option>
            ))}
          </select>
        </Field>
      )}
      <div className="d-flex gap-1 mt-2 flex-wrap">
        <button
          className="btn btn-quiet btn-sm"
          disabled={!own}
          title={own ? undefined : 'The game’s own prefabs cannot be changed'}
          onClick={() => startMapCommand('open-prefab')}
        >
          <Icon name="pencil" /> Edit in place <kbd>Enter</kbd>
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => startMapCommand('independent')}>
          Make independent
        </button>
        <button
          className="btn btn-quiet btn-sm"
          onClick={() => dispatch(viewChanged({ tool: 'place', placeClass: null, placeAsset: null, placePrefab: copy.prefab }))}
        >
          Place another
        </button>
      </div>
      <p className="faint small mt-2">
        {own
          ? `${Object.values(map.copies).filter((c) => c.prefab === copy.prefab).length} copies are linked: a change of the prefab changes all of them. Names inside begin with ${copy.name}_.`
          : 'It comes with the game.'}
      </p>
    </>
  );
}
