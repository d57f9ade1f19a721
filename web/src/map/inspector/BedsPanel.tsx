import { useState } from 'react';
import type { Bed, MapSettings } from '@violet-crate/core/document/schema';
import { AddHeading } from '../../common/AddHeading.tsx';
import { ChoiceField, Field, NumberField, NumberInput, TextField } from '../../common/fields.tsx';
import { Icon } from '../../common/Icon.tsx';
import { useLibrary } from '../../common/useLibrary.ts';
import { useDocument } from '../editing/useDocument.ts';
import { LoudnessDialog } from './LoudnessDialog.tsx';

type Loop = Bed['loops'][number];
type Shot = Bed['shots'][number];

/** Sound beds of the map: what its sound areas let one hear. */
export function BedsPanel({ settings }: { settings(part: Partial<MapSettings>, name: string): void }) {
  const { map } = useDocument();
  const sounds = useLibrary().filter(({ kind }) => kind === 'sound');
  const [open, setOpen] = useState<number | null>(null);
  const [planning, setPlanning] = useState(false);
  const beds = map.settings.beds ?? [];
  const put = (next: Bed[], name: string) => settings({ beds: next.length > 0 ? next : undefined }, name);
  const set = (index: number, part: Partial<Bed>, name: string) =>
    put(
      beds.map((one, i) => (i === index ? { ...one, ...part } : one)),
      name,
    );
  const fresh = (): Loop => ({ sound: sounds[0]?.id ?? '', volume: 0.5, when: 'always', weather: 'any' });
  const free = (): string => {
    for (let n = 1; ; n++) if (!beds.some(({ name }) => name === `Bed ${n}`)) return `Bed ${n}`;
  };
  const layer = <L extends Loop>(one: L, label: string, change: (next: L) => void, remove: () => void) => (
    <div className="bed-layer">
      <ChoiceField
        label={label}
        value={one.sound}
        choices={[['', 'none'], ...sounds.map(({ id }) => [id, id] as const)]}
        onCommit={(sound) => change({ ...one, sound })}
      />
      <NumberField label="Volume" min={0} max={4} value={one.volume} onCommit={(volume) => change({ ...one, volume })} />
      <ChoiceField
        label="By"
        value={one.when}
        choices={[
          ['always', 'day and night'],
          ['day', 'day'],
          ['night', 'night'],
        ]}
        onCommit={(when) => change({ ...one, when: when as Loop['when'] })}
      />
      <ChoiceField
        label="In"
        value={one.weather}
        choices={[
          ['any', 'any weather'],
          ['dry', 'dry weather'],
          ['rain', 'rain'],
          ['snow', 'snow'],
        ]}
        onCommit={(weather) => change({ ...one, weather: weather as Loop['weather'] })}
      />
      <button className="btn btn-quiet btn-sm py-0 mb-1" onClick={remove}>
        Remove {label.toLowerCase()}
      </button>
    </div>
  );
  return (
    <section aria-label="Sound beds">
      <AddHeading
        title="Sound beds"
        onAdd={() => {
          put([...beds, { name: free(), fade: 1.5, loops: sounds.length > 0 ? [fresh()] : [], shots: [] }], 'add a sound bed');
          setOpen(beds.length);
        }}
      />
      {beds.length === 0 && <p className="faint small mb-1">None. Add one, and give it to a sound area.</p>}
      {beds.map((bed, i) => (
        <div key={i}>
          <div className="d-flex align-items-center gap-1">
            <button
              className="btn btn-quiet btn-sm flex-grow-1 text-start text-truncate"
              aria-expanded={open === i}
              onClick={() => setOpen(open === i ? null : i)}
            >
              <Icon name="volume-up" /> {bed.name} <span className="faint small">{bed.loops.length + bed.shots.length}</span>
            </button>
            <button
              className="btn btn-quiet btn-sm"
              aria-label={`Remove ${bed.name}`}
              onClick={() =>
                put(
                  beds.filter((_, n) => n !== i),
                  `remove ${bed.name}`,
                )
              }
            >
              <Icon name="x" />
            </button>
          </div>
          {open === i && (
            <div className="ps-2">
              <TextField
                label="Name"
                value={bed.name}
                problem={(text) =>
                  text.trim() === '' || text.length > 60
                    ? 'From 1 to 60 characters.'
                    : beds.some((one, n) => n !== i && one.name === text)
                      ? 'Another bed has this name.'
                      : null
                }
                onCommit={(name) => set(i, { name }, `rename ${bed.name}`)}
              />
              <NumberField label="Fades in" unit="s" min={0} max={60} value={bed.fade} onCommit={(fade) => set(i, { fade }, 'change how it fades')} />
              {bed.loops.map((one, n) => (
                <div key={`loop ${n}`}>
                  {layer(
                    one,
                    `Loop ${n + 1}`,
                    (next) => set(i, { loops: bed.loops.map((other, k) => (k === n ? next : other)) }, 'change a loop'),
                    () => set(i, { loops: bed.loops.filter((_, k) => k !== n) }, 'remove a loop'),
                  )}
                </div>
              ))}
              {bed.shots.map((one, n) => {
                const change = (next: Shot) => set(i, { shots: bed.shots.map((other, k) => (k === n ? next : other)) }, 'change a sound');
                return (
                  <div key={`shot ${n}`}>
                    {layer(one, `Sound ${n + 1}`, change, () => set(i, { shots: bed.shots.filter((_, k) => k !== n) }, 'remove a sound'))}
                    <Field label="Every (s)">
                      <div className="d-flex gap-1 align-items-center">
                        <NumberInput
                          name={`Sound ${n + 1}: at least`}
                          min={0.1}
                          max={3600}
                          value={one.every[0]}
                          onCommit={(least) => change({ ...one, every: [least, Math.max(least, one.every[1])] })}
                        />
                        <span className="faint">to</span>
                        <NumberInput
                          name={`Sound ${n + 1}: at most`}
                          min={0.1}
                          max={3600}
                          value={one.every[1]}
                          onCommit={(most) => change({ ...one, every: [Math.min(most, one.every[0]), most] })}
                        />
                      </div>
                    </Field>
                    <NumberField label="At once" min={1} max={8} value={one.most} onCommit={(most) => change({ ...one, most: Math.round(most) })} />
                  </div>
                );
              })}
              <div className="d-flex gap-1 mb-2">
                <button
                  className="btn btn-quiet btn-sm"
                  disabled={bed.loops.length >= 8}
                  onClick={() => set(i, { loops: [...bed.loops, fresh()] }, 'add a loop')}
                >
                  Add a loop
                </button>
                <button
                  className="btn btn-quiet btn-sm"
                  disabled={bed.shots.length >= 16}
                  onClick={() => set(i, { shots: [...bed.shots, { ...fresh(), every: [5, 15], most: 2 }] }, 'add a sound')}
                >
                  Add one now and then
                </button>
              </div>
            </div>
          )}
        </div>
      ))}
      {beds.length > 0 && (
        <button className="btn btn-quiet btn-sm" onClick={() => setPlanning(true)}>
          <Icon name="soundwave" /> Loudness plan
        </button>
      )}
      {planning && <LoudnessDialog onClose={() => setPlanning(false)} />}
    </section>
  );
}
