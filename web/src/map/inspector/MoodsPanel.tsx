import { useState } from 'react';
import type { MapSettings, Mood } from '@violet-crate/core/document/schema';
import { lightOfMood, PLACE } from '@violet-crate/core/mood/light';
import { dayOf } from '@violet-crate/core/sky/sun';
import { AddHeading } from '../../common/AddHeading.tsx';
import { ChoiceField, Field, NumberField, RangeField, TextField } from '../../common/fields.tsx';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';

/** A new mood: a clear noon, with the map's own sky. */
const newMood = ({ skyColour, skyIntensity, weather }: MapSettings, name: string): Mood => ({
  name,
  hour: 12,
  skyColour,
  horizonColour: '#dfe6ee',
  skyIntensity: Math.min(50, skyIntensity),
  clouds: 0.3,
  sunIntensity: 3,
  moonIntensity: 0.05,
  fogColour: weather?.fogColour ?? '#cfd8e2',
  fog: weather?.fog ?? 0,
  fogHeight: 0,
  windFrom: weather?.windFrom ?? 180,
  wind: weather?.wind ?? 0,
  gusts: weather?.gusts ?? 0.2,
  falling: weather?.falling ?? 'none',
  heavy: 0.6,
  exposure: 1,
});

const hours = (hour: number): string => `${String(Math.floor(hour)).padStart(2, '0')}:${String(Math.round((hour % 1) * 60) % 60).padStart(2, '0')}`;

/** Times of day and weathers that the map can be in: the first is that it begins in, and whose light a build makes. */
export function MoodsPanel({ settings }: { settings(part: Partial<MapSettings>, name: string): void }) {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const [open, setOpen] = useState<number | null>(null);
  const moods = map.settings.moods ?? [];
  const place = map.settings.place ?? PLACE;
  const put = (next: Mood[], name: string) => settings({ moods: next.length > 0 ? next : undefined }, name);
  const set = (index: number, part: Partial<Mood>, name: string) =>
    put(
      moods.map((one, i) => (i === index ? { ...one, ...part } : one)),
      name,
    );
  const free = (): string => {
    for (let n = 1; ; n++) if (!moods.some(({ name }) => name === `Mood ${n}`)) return `Mood ${n}`;
  };
  const look = (name: string) => dispatch(viewChanged({ mood: view.mood === name ? '' : name }));
  return (
    <section aria-label="Moods">
      <AddHeading
        title="Moods"
        onAdd={() => {
          put([...moods, newMood(map.settings, free())], 'add a mood');
          setOpen(moods.length);
        }}
      />
      {moods.length === 0 && (
        <p className="faint small mb-1">None: sky, suns and weather are as they are. Add one to have times of day and weathers.</p>
      )}
      {moods.length > 0 && (
        <>
          <NumberField
            label="Latitude"
            unit="°"
            min={-90}
            max={90}
            value={place.latitude}
            onCommit={(latitude) => settings({ place: { ...place, latitude } }, 'change latitude')}
          />
          <TextField
            label="Day"
            value={place.day}
            problem={(text) => (dayOf(text) === null ? 'Write it as 2024-06-21.' : null)}
            onCommit={(day) => settings({ place: { ...place, day } }, 'change the day')}
          />
        </>
      )}
      {moods.map((mood, i) => {
        const { sunHeight, sun, moon } = lightOfMood(mood, place);
        return (
          <div key={i} className="mood">
            <div className="d-flex align-items-center gap-1">
              <button
                className="btn btn-quiet btn-sm flex-grow-1 text-start text-truncate"
                aria-expanded={open === i}
                onClick={() => setOpen(open === i ? null : i)}
              >
                <Icon name={mood.falling === 'none' ? (sunHeight > 0 ? 'sun' : 'moon') : mood.falling === 'rain' ? 'cloud-rain' : 'cloud-snow'} />{' '}
                {mood.name} <span className="faint small">{hours(mood.hour)}</span>
              </button>
              <button
                className={`btn btn-quiet btn-sm ${view.mood === mood.name ? 'active' : ''}`}
                aria-pressed={view.mood === mood.name}
                aria-label={`Show ${mood.name} in the perspective`}
                title="Show it in the perspective"
                onClick={() => look(mood.name)}
              >
                <Icon name="eye" />
              </button>
              <button
                className="btn btn-quiet btn-sm"
                aria-label={`Make ${mood.name} the first`}
                title="The map begins in it, and a build makes its light"
                disabled={i === 0}
                onClick={() => put([mood, ...moods.filter((_, n) => n !== i)], `begin in ${mood.name}`)}
              >
                <Icon name="arrow-up" />
              </button>
              <button
                className="btn btn-quiet btn-sm"
                aria-label={`Remove ${mood.name}`}
                onClick={() =>
                  put(
                    moods.filter((_, n) => n !== i),
                    `remove ${mood.name}`,
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
                  value={mood.name}
                  problem={(text) =>
                    text.trim() === '' || text.length > 60
                      ? 'From 1 to 60 characters.'
                      : moods.some((one, n) => n !== i && one.name === text)
                        ? 'Another mood has this name.'
                        : null
                  }
                  onCommit={(name) => {
                    if (view.mood === mood.name) dispatch(viewChanged({ mood: name }));
                    set(i, { name }, `rename ${mood.name}`);
                  }}
                />
                <RangeField
                  label={`Hour ${hours(mood.hour)}`}
                  hint={`Hour of ${mood.name}`}
                  min={0}
                  max={24}
                  step={0.25}
                  value={mood.hour}
                  onChange={(hour) => set(i, { hour }, 'change the hour')}
                />
                <p className="faint small mb-1">
                  The sun is {Math.abs(sunHeight).toFixed(1)}° {sunHeight > 0 ? 'high' : 'below the horizon'}
                  {!sun && moon ? '; the moon shines' : ''}.
                </p>
                {(
                  [
                    ['Sky', 'skyColour'],
                    ['Horizon', 'horizonColour'],
                    ['Fog colour', 'fogColour'],
                  ] as const
                ).map(([label, key]) => (
                  <Field key={key} label={label} id={`mood-${i}-${key}`}>
                    <input
                      id={`mood-${i}-${key}`}
                      type="color"
                      className="form-control form-control-color form-control-sm"
                      value={mood[key]}
                      onChange={({ target }) => set(i, { [key]: target.value }, `change ${label.toLowerCase()}`)}
                    />
                  </Field>
                ))}
                {(
                  [
                    ['Sky brightness', 'skyIntensity', 0, 50, undefined],
                    ['Clouds', 'clouds', 0, 1, undefined],
                    ['Sun', 'sunIntensity', 0, 50, undefined],
                    ['Full moon', 'moonIntensity', 0, 10, undefined],
                    ['Fog hides at', 'fog', 0, undefined, profile.unit.plural],
                    ['Fog thins in', 'fogHeight', 0, undefined, profile.unit.plural],
                    ['Wind from', 'windFrom', 0, 360, '°'],
                    ['Wind', 'wind', 0, 200, `${profile.unit.plural}/s`],
                    ['Gusts', 'gusts', 0, 1, undefined],
                    ['Exposure', 'exposure', 0.05, 20, '×'],
                  ] as const
                ).map(([label, key, min, max, unit]) => (
                  <NumberField
                    key={key}
                    label={label}
                    unit={unit}
                    min={min}
                    max={max}
                    value={mood[key]}
                    onCommit={(value) => set(i, { [key]: value }, `change ${label.toLowerCase()}`)}
                  />
                ))}
                <ChoiceField
                  label="Falls"
                  value={mood.falling}
                  choices={[
                    ['none', 'nothing'],
                    ['rain', 'rain'],
                    ['snow', 'snow'],
                  ]}
                  onCommit={(falling) => set(i, { falling: falling as Mood['falling'] }, 'change what falls')}
                />
                {mood.falling !== 'none' && (
                  <NumberField
                    label="How heavy"
                    min={0}
                    max={1}
                    value={mood.heavy}
                    onCommit={(heavy) => set(i, { heavy }, 'change how much falls')}
                  />
                )}
              </div>
            )}
          </div>
        );
      })}
    </section>
  );
}
