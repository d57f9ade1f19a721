import { freeName } from '@violet-crate/core/crate/naming';
import type { Terrain } from '@violet-crate/core/document/schema';
import { AddHeading } from '../../common/AddHeading.tsx';
import { ChoiceField, NumberField, TextField } from '../../common/fields.tsx';
import { Icon } from '../../common/Icon.tsx';
import { useAppSelector } from '../../state/store.ts';

interface Props {
  terrain: Terrain;
  onChange(name: string, part: Partial<Terrain>): void;
}

const MOST_SURFACES = 8;

const freeId = (prefix: string, taken: readonly { id: string }[]) =>
  freeName(
    prefix,
    taken.map((one) => one.id),
  );

/** What covers the ground: the first surface lies everywhere, the others are painted over it. */
export function GroundSurfaces({ terrain, onChange }: Props) {
  const { surfaces } = terrain;
  const base = useAppSelector((s) => s.crate.base);
  const own = useAppSelector((s) => s.crate.view?.manifest.materials) ?? [];
  const materials = [...own, ...(base?.materials ?? [])].map(({ name }): [string, string] => [name, name]);
  const full = surfaces.length >= MOST_SURFACES;
  const put = (name: string, of: (typeof surfaces)[number], part: Partial<(typeof surfaces)[number]>) =>
    onChange(name, { surfaces: surfaces.map((one) => (one === of ? { ...one, ...part } : one)) });
  const add = () => {
    const surface = { id: freeId('surface', surfaces), label: `Surface ${surfaces.length + 1}`, material: materials[0][0] };
    onChange('add surface', { surfaces: [...surfaces, surface] });
  };
  return (
    <>
      <AddHeading
        title="Surfaces"
        disabled={full || materials.length === 0}
        hint={full ? 'A ground has eight at most' : 'Another surface to paint with'}
        onAdd={add}
      />
      {surfaces.map((surface, n) => (
        <div key={surface.id} className="ground-row">
          <TextField label={n === 0 ? 'Everywhere' : 'Label'} value={surface.label} onCommit={(label) => put('rename surface', surface, { label })} />
          <ChoiceField
            label="Material"
            value={surface.material}
            choices={materials}
            onCommit={(material) => put('change material of the ground', surface, { material })}
          />
          {n > 0 && (
            <button
              className="btn btn-quiet btn-sm py-0"
              aria-label={`Remove the surface ${surface.label}`}
              onClick={() => onChange('remove surface', { surfaces: surfaces.filter((one) => one !== surface) })}
            >
              <Icon name="x" /> Remove
            </button>
          )}
        </div>
      ))}
    </>
  );
}

/** What is scattered on the ground. */
export function GroundThings({ terrain, onChange }: Props) {
  const { things } = terrain;
  const files = useAppSelector((s) => s.crate.view?.files) ?? [];
  const base = useAppSelector((s) => s.crate.base);
  const models = [...files, ...(base?.files ?? [])]
    .filter(({ path }) => path.startsWith('models/'))
    .map(({ path }): [string, string] => [path, path.slice(7)]);
  const add = () => {
    const [model, file] = models[0];
    const thing = { id: freeId('thing', things), label: file.replace(/\.glb$/, ''), model, sink: 0, lean: 0, radius: 0, tall: 0 };
    onChange('add thing', { things: [...things, { ...thing, size: [0.8, 1.2] }] });
  };
  return (
    <>
      <AddHeading
        title="Things"
        disabled={models.length === 0}
        hint={models.length === 0 ? 'Import a model first' : 'Something to scatter'}
        onAdd={add}
      />
      {things.length === 0 && <p className="faint small mb-1">Models that are scattered by the brush or by rule.</p>}
      {things.map((thing, n) => {
        const put = (part: Partial<typeof thing>) =>
          onChange('change thing', { things: things.map((one) => (one === thing ? { ...one, ...part } : one)) });
        return (
          <details key={thing.id} className="ground-row">
            <summary>{thing.label}</summary>
            <TextField label="Label" value={thing.label} onCommit={(label) => put({ label })} />
            <ChoiceField label="Model" value={thing.model} choices={models} onCommit={(model) => put({ model })} />
            <NumberField label="Smallest" value={thing.size[0]} min={0.01} max={thing.size[1]} onCommit={(v) => put({ size: [v, thing.size[1]] })} />
            <NumberField label="Largest" value={thing.size[1]} min={thing.size[0]} max={100} onCommit={(v) => put({ size: [thing.size[0], v] })} />
            <NumberField label="Sinks in" value={thing.sink} onCommit={(sink) => put({ sink })} />
            <NumberField label="Leans" value={thing.lean} min={0} max={1} onCommit={(lean) => put({ lean })} />
            <NumberField label="Stops within" value={thing.radius} min={0} onCommit={(radius) => put({ radius })} />
            <NumberField label="Up to" value={thing.tall} min={0} onCommit={(tall) => put({ tall })} />
            {n === things.length - 1 && (
              <button
                className="btn btn-quiet btn-sm py-0"
                title="Only the last one can go: scattered things know theirs by its number"
                onClick={() => onChange('remove thing', { things: things.slice(0, -1) })}
              >
                <Icon name="x" /> Remove
              </button>
            )}
          </details>
        );
      })}
    </>
  );
}
