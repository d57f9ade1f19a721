import { freshId } from '@violet-crate/core/document/edit';
import type { PaintRule, ScatterRule, Terrain } from '@violet-crate/core/document/schema';
import { Icon } from '../../common/Icon.tsx';
import { ChoiceField, NumberField, NumberInput, TextField } from '../../common/fields.tsx';
import { useGroundWork } from './useGroundWork.ts';

interface Props {
  id: string;
  terrain: Terrain;
  onChange(name: string, part: Partial<Terrain>): void;
}

/** Rules by which the ground is covered and things grow; kept, and run again when the ground has changed. */
export function GroundRules({ id, terrain, onChange }: Props) {
  const { run, stop, progress, said } = useGroundWork();
  const paint = (rule: string, to: PaintRule | null) => onChange('change rule', { paint: without(terrain.paint, rule, to) });
  const scatter = (rule: string, to: ScatterRule | null) => onChange('change rule', { scatter: without(terrain.scatter, rule, to) });
  const seed = () => Object.keys(terrain.paint).length + Object.keys(terrain.scatter).length + 1;
  return (
    <>
      <h3>Rules</h3>
      {Object.entries(terrain.paint).map(([key, rule]) => (
        <details key={key} className="ground-row">
          <summary>{rule.name}</summary>
          <TextField label="Name" value={rule.name} onCommit={(name) => paint(key, { ...rule, name: name.slice(0, 60) })} />
          <ChoiceField
            label="Surface"
            value={rule.surface}
            choices={terrain.surfaces.map(({ id: one, label }) => [one, label])}
            onCommit={(surface) => paint(key, { ...rule, surface })}
          />
          <Limits rule={rule} onCommit={(next) => paint(key, next)} />
          <NumberField label="Fades over" value={rule.soft} min={0} max={1000} onCommit={(soft) => paint(key, { ...rule, soft })} />
          <Remove onClick={() => paint(key, null)} name={rule.name} />
        </details>
      ))}
      {Object.entries(terrain.scatter).map(([key, rule]) => (
        <details key={key} className="ground-row">
          <summary>{rule.name}</summary>
          <TextField label="Name" value={rule.name} onCommit={(name) => scatter(key, { ...rule, name: name.slice(0, 60) })} />
          <ChoiceField
            label="Thing"
            value={rule.thing}
            choices={terrain.things.map(({ id: one, label }) => [one, label])}
            onCommit={(thing) => scatter(key, { ...rule, thing })}
          />
          <NumberField label="Apart" value={rule.apart} min={0.1} max={10000} onCommit={(apart) => scatter(key, { ...rule, apart })} />
          <NumberField label="Kept (0 to 1)" value={rule.share} min={0} max={1} onCommit={(share) => scatter(key, { ...rule, share })} />
          <ChoiceField
            label="Only on"
            value={rule.surfaces?.[0] ?? ''}
            choices={[['', 'any surface'], ...terrain.surfaces.map(({ id: one, label }): [string, string] => [one, label])]}
            onCommit={(surface) => scatter(key, dropped({ ...rule, surfaces: surface ? [surface] : undefined }))}
          />
          <NumberField label="From paths" value={rule.clear ?? 0} min={0} max={10000} onCommit={(clear) => scatter(key, { ...rule, clear })} />
          <Limits rule={rule} onCommit={(next) => scatter(key, next)} />
          <Remove onClick={() => scatter(key, null)} name={rule.name} />
        </details>
      ))}
      <div className="d-flex flex-wrap gap-1 mb-1">
        <button
          className="btn btn-quiet btn-sm"
          onClick={() =>
            paint(freshId(terrain.paint, 'p'), {
              name: `Cover ${Object.keys(terrain.paint).length + 1}`,
              seed: seed(),
              surface: terrain.surfaces[terrain.surfaces.length - 1].id,
              soft: 6,
              slope: [30, 90],
            })
          }
        >
          <Icon name="plus-lg" /> Cover
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={terrain.things.length === 0}
          title={terrain.things.length === 0 ? 'Add a thing first' : 'Things that grow by rule'}
          onClick={() =>
            scatter(freshId(terrain.scatter, 'g'), {
              name: `Grow ${Object.keys(terrain.scatter).length + 1}`,
              seed: seed(),
              thing: terrain.things[0].id,
              apart: terrain.spacing * 4,
              share: 1,
              slope: [0, 35],
            })
          }
        >
          <Icon name="plus-lg" /> Grow
        </button>
        {progress === null ? (
          <button
            className="btn btn-primary btn-sm"
            title="Makes anew what rules have made; what was set by hand stays"
            onClick={() => run(id, { kind: 'rebuild' })}
          >
            <Icon name="arrow-repeat" /> Rebuild
          </button>
        ) : (
          <Running progress={progress} onStop={stop} />
        )}
      </div>
      <Said said={said} />
    </>
  );
}

/** The record with one of its members set, or without it. */
function without<T>(record: Readonly<Record<string, T>>, key: string, to: T | null): Record<string, T> {
  const { [key]: _gone, ...rest } = record;
  return to === null ? rest : { ...record, [key]: to };
}

/** What is not set is left out of the file. */
const dropped = <T extends object>(value: T): T => Object.fromEntries(Object.entries(value).filter(([, v]) => v !== undefined)) as T;

const LIMITS = [
  ['slope', 'Slope', [0, 90]],
  ['height', 'Height', [0, 100]],
  ['curvature', 'Bend', [0, 1]],
] as const;

function Limits<R extends PaintRule | ScatterRule>({ rule, onCommit }: { rule: R; onCommit(rule: R): void }) {
  return (
    <>
      {LIMITS.map(([key, label, plain]) => {
        const value = rule[key];
        return (
          <div key={key} className="row-field" role="group" aria-label={label}>
            <label className="d-inline-flex align-items-center gap-1">
              <input
                type="checkbox"
                className="form-check-input m-0"
                checked={value !== undefined}
                onChange={(e) => onCommit(dropped({ ...rule, [key]: e.target.checked ? [...plain] : undefined }))}
              />
              {label}
            </label>
            <div className="triple">
              {value?.map((v, i) => (
                <NumberInput
                  key={i}
                  name={`${label} ${i === 0 ? 'from' : 'to'}`}
                  value={v}
                  onCommit={(next) => onCommit({ ...rule, [key]: value.map((old, k) => (k === i ? next : old)) })}
                />
              ))}
            </div>
          </div>
        );
      })}
      <div className="row-field" role="group" aria-label="Patches">
        <label className="d-inline-flex align-items-center gap-1">
          <input
            type="checkbox"
            className="form-check-input m-0"
            checked={rule.noise !== undefined}
            onChange={(e) => onCommit(dropped({ ...rule, noise: e.target.checked ? { size: 60, share: 0.5 } : undefined }))}
          />
          Patches
        </label>
        <div className="triple">
          {rule.noise && (
            <>
              <NumberInput
                name="Width of patches"
                value={rule.noise.size}
                min={0.1}
                onCommit={(size) => onCommit({ ...rule, noise: { ...rule.noise!, size } })}
              />
              <NumberInput
                name="Share of patches"
                value={rule.noise.share}
                min={0}
                max={1}
                onCommit={(share) => onCommit({ ...rule, noise: { ...rule.noise!, share } })}
              />
            </>
          )}
        </div>
      </div>
      <NumberField label="Seed" value={rule.seed} min={0} max={0xffffffff} onCommit={(seed) => onCommit({ ...rule, seed: Math.round(seed) })} />
    </>
  );
}

const Remove = ({ name, onClick }: { name: string; onClick(): void }) => (
  <button className="btn btn-quiet btn-sm py-0" aria-label={`Remove the rule ${name}`} onClick={onClick}>
    <Icon name="x" /> Remove
  </button>
);

export const Running = ({ progress, onStop }: { progress: number; onStop(): void }) => (
  <span className="d-inline-flex align-items-center gap-2">
    <progress value={progress} max={1} aria-label="Work on the ground" /> {Math.round(progress * 100)} %
    <button className="btn btn-quiet btn-sm" onClick={onStop}>
      Cancel
    </button>
  </span>
);

export const Said = ({ said }: { said: { text: string; trouble: boolean } | null }) =>
  said && (
    <p className={`small mb-1 ${said.trouble ? 'text-warm' : 'faint'}`} role={said.trouble ? 'alert' : 'status'}>
      {said.text}
    </p>
  );
