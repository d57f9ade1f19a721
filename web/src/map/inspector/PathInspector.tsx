import { nameProblem } from '@violet-crate/core/crate/naming';
import { pathLength } from '@violet-crate/core/document/path';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { classOf } from '@violet-crate/core/profile/schema';
import { round } from '../../common/format.ts';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch } from '../../state/store.ts';
import { CheckField, TextField, VectorField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { ContactField, withContact } from './ContactField.tsx';
import { selected } from '../../state/viewSlice.ts';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';

export function PathInspector({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const path = map.paths[id];
  const change = (part: Partial<typeof path>, name: string) => dispatch(edited({ name, changes: [{ of: 'paths', id, to: { ...path, ...part } }] }));
  const users = Object.entries(map.objects).filter(([, o]) =>
    classOf(profile, o.class)?.properties.some((p) => p.type === 'path' && o.properties[p.id] === id),
  );
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="bezier2" />
        <h2 className="m-0 flex-grow-1">Path</h2>
        <SelectionButtons />
      </div>
      <TextField
        label="Name"
        mono
        value={path.name}
        problem={(text) => nameProblem(profile, 'object', text)}
        onCommit={(name) => change({ name }, `rename ${path.name}`)}
      />
      <CheckField label="Loop" title="The last point leads back to the first" value={path.loop} onCommit={(loop) => change({ loop }, 'loop path')} />
      <ContactField
        value={path.contact}
        onCommit={(contact) =>
          dispatch(edited({ name: `contact of ${path.name} with the ground`, changes: [{ of: 'paths', id, to: withContact(path, contact) }] }))
        }
      />
      <div className="faint small mb-1">
        {path.points.length} points, {round(pathLength(path))} {profile.unit.plural} ({round(pathLength(path) * profile.unit.metres)} m). Drag its
        points in the plan.
      </div>
      {path.points.map((point, i) => (
        <div key={i} className="d-flex gap-1 align-items-center">
          <div className="flex-grow-1">
            <VectorField
              isLength
              label={`Point ${i}`}
              value={point}
              onCommit={(next) => change({ points: path.points.map((p, k) => (k === i ? next : p)) }, 'move path point')}
            />
          </div>
          <button
            className="btn btn-quiet btn-sm py-0"
            aria-label={`Add a point after ${i}`}
            title="Add a point after this one"
            onClick={() => {
              const next = path.points[(i + 1) % path.points.length];
              const middle = point.map((v, k) => (v + next[k]) / 2) as Vec3;
              change({ points: [...path.points.slice(0, i + 1), middle, ...path.points.slice(i + 1)] }, 'add path point');
            }}
          >
            <Icon name="plus-lg" />
          </button>
          <button
            className="btn btn-quiet btn-sm py-0"
            aria-label={`Remove point ${i}`}
            disabled={path.points.length <= 2}
            onClick={() => change({ points: path.points.filter((_, k) => k !== i) }, 'remove path point')}
          >
            <Icon name="x" />
          </button>
        </div>
      ))}
      <h3>Who follows it?</h3>
      {users.length === 0 && <div className="faint small">Nobody yet. Objects pick it in their properties.</div>}
      {users.map(([object, o]) => (
        <button key={object} className="btn btn-link btn-sm p-0 me-2" onClick={() => dispatch(selected({ kind: 'objects', ids: [object] }))}>
          {o.name}
        </button>
      ))}
    </>
  );
}
