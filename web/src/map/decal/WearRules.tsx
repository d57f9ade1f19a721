import { useState } from 'react';
import { freshId } from '@violet-crate/core/document/edit';
import { freeName } from '@violet-crate/core/crate/naming';
import type { Wear } from '@violet-crate/core/document/schema';
import { wearEdit } from '@violet-crate/core/stages/wearEdit';
import { AddHeading } from '../../common/AddHeading.tsx';
import { plural } from '../../common/format.ts';
import { Icon } from '../../common/Icon.tsx';
import { ChoiceField, NumberField, TextField } from '../../common/fields.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { selected } from '../../state/viewSlice.ts';
import { selectWorld } from '../../state/world.ts';
import { useDocument } from '../editing/useDocument.ts';
import { useDecalMaterials } from './DecalOptions.tsx';

const PLACES: readonly (readonly [Wear['at'], string])[] = [
  ['edges', 'along outer edges'],
  ['corners', 'in inner corners'],
  ['feet', 'at the feet of walls'],
  ['below', 'below ledges and openings'],
];

/** Rules of wear: what each has made, made anew at will. */
export function WearRules() {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const world = useAppSelector(selectWorld);
  const materials = useDecalMaterials();
  const [open, setOpen] = useState<string | null>(null);
  const [said, setSaid] = useState('');
  if (!world || materials.length === 0) return null;
  const made = (id: string) => Object.keys(map.decals).filter((decal) => map.decals[decal].rule === id);
  /** The rule with what it makes. */
  const run = (id: string, rule: Wear | null) => {
    const edit = wearEdit(world, map, id, rule);
    if (edit) dispatch(edited(edit));
    const count = edit?.changes.filter((change) => change.of === 'decals' && change.to).length ?? 0;
    setSaid(rule && count === 0 ? `${rule.name} finds no place: nothing is worn.` : '');
  };
  const change = (id: string, part: Partial<Wear>) => run(id, { ...map.wears[id], ...part });
  const add = () => {
    const id = freshId(map.wears, 'u');
    const size = profile.grid.default * 2;
    const name = freeName(
      'wear',
      Object.values(map.wears).map((rule) => rule.name),
    );
    const rule: Wear = {
      name,
      at: 'feet',
      material: materials[0],
      on: '',
      spacing: size,
      chance: 0.4,
      least: size / 2,
      most: size * 1.5,
      low: 0,
      high: 100_000,
      limit: 500,
      seed: 1,
    };
    run(id, rule);
    setOpen(id);
  };
  const unit = profile.unit.plural;
  return (
    <section aria-label="Wear">
      <AddHeading title="Wear" onAdd={add} />
      {Object.keys(map.wears).length === 0 && <div className="faint small">No rule yet: stains at the feet of walls, chips along edges.</div>}
      {said && (
        <div role="status" className="text-warm small">
          {said}
        </div>
      )}
      {Object.entries(map.wears).map(([id, rule]) => (
        <div key={id} className="mb-2">
          <div className="d-flex gap-1 align-items-center">
            <button
              className="btn btn-link btn-sm p-0 flex-grow-1 text-start"
              aria-expanded={open === id}
              onClick={() => setOpen(open === id ? null : id)}
            >
              {rule.name}
            </button>
            <button className="btn btn-quiet btn-sm py-0" onClick={() => dispatch(selected({ kind: 'decals', ids: made(id) }))}>
              {plural(made(id).length, 'decal', 'decals')}
            </button>
            <button
              className="btn btn-quiet btn-sm py-0"
              title="Take what it made away and make it anew on the map as it is now"
              onClick={() => run(id, rule)}
            >
              <Icon name="arrow-repeat" /> Anew
            </button>
            <button className="btn btn-quiet btn-sm py-0" aria-label={`Remove ${rule.name} and its decals`} onClick={() => run(id, null)}>
              <Icon name="x" />
            </button>
          </div>
          {open === id && (
            <div className="ps-2">
              <TextField label="Name" value={rule.name} onCommit={(name) => change(id, { name })} />
              <ChoiceField label="Where" value={rule.at} choices={PLACES} onCommit={(at) => change(id, { at: at as Wear['at'] })} />
              <ChoiceField
                label="Decal"
                value={rule.material}
                choices={materials.map((name) => [name, name] as const)}
                onCommit={(material) => change(id, { material })}
              />
              <ChoiceField
                label="On surfaces of"
                value={rule.on}
                choices={[['', 'any material'], ...wornMaterials(map.solids).map((name) => [name, name] as const)]}
                onCommit={(on) => change(id, { on })}
              />
              <NumberField label="Spacing" unit={unit} min={1} value={rule.spacing} onCommit={(spacing) => change(id, { spacing })} />
              <NumberField label="Chance" min={0} max={1} value={rule.chance} onCommit={(chance) => change(id, { chance })} />
              <NumberField label="Smallest" unit={unit} min={0.1} value={rule.least} onCommit={(least) => change(id, { least })} />
              <NumberField label="Largest" unit={unit} min={0.1} value={rule.most} onCommit={(most) => change(id, { most })} />
              <NumberField label="From a height of" unit={unit} value={rule.low} onCommit={(low) => change(id, { low })} />
              <NumberField label="Up to a height of" unit={unit} value={rule.high} onCommit={(high) => change(id, { high })} />
              <NumberField label="At most" min={1} max={5000} value={rule.limit} onCommit={(limit) => change(id, { limit: Math.round(limit) })} />
              <NumberField label="Seed" min={0} max={2147483647} value={rule.seed} onCommit={(seed) => change(id, { seed: Math.round(seed) })} />
            </div>
          )}
        </div>
      ))}
    </section>
  );
}

const wornMaterials = (solids: Record<string, { faces: { material: string }[] }>): string[] =>
  [...new Set(Object.values(solids).flatMap(({ faces }) => faces.map(({ material }) => material)))].sort();
