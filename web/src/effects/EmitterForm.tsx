import type { Effect, Emitter } from '@violet-crate/core/effect/document';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { CheckField, ChoiceField, Field, NumberField, NumberInput, TextField, VectorField } from '../common/fields.tsx';
import { CurveEditor } from './CurveEditor.tsx';
import { GradientEditor } from './GradientEditor.tsx';

interface Props {
  effect: Effect;
  emitter: Emitter;
  /** Name of the game's unit, in the plural. */
  unit: string;
  entries: readonly LibraryEntry[];
  onDraft(emitter: Emitter | null): void;
  onCommit(emitter: Emitter): void;
}

/** What is changed of a part that is there or not: put there with what a new one has. */
const FRESH = {
  turbulence: (size: number) => ({ speed: size * 4, size: size * 10, pace: 0.5 }),
  vortex: (size: number) => ({ spin: size * 10, pull: size * 10, radius: size * 20 }),
  attractor: (size: number) => ({ at: [0, 0, size * 10] as [number, number, number], pull: size * 10, reach: size * 40 }),
};

/** All fields of one emitter, in the order in which one makes it: births, where from, its way, its looks, what comes of it. */
export function EmitterForm({ effect, emitter, unit, entries, onDraft, onCommit }: Props) {
  const set = (part: Partial<Emitter>) => onCommit({ ...emitter, ...part });
  const { forces, ground, draw, from, size, turn } = emitter;
  const typical = Math.max(0.01, size.from[1]);
  const force = (part: Partial<Emitter['forces']>) => set({ forces: { ...forces, ...part } });
  const per = `${unit}/s`;
  const assets = (kind: LibraryEntry['kind'], none: string) => [
    ['', none] as const,
    ...entries.filter((entry) => entry.kind === kind).map(({ id }) => [id, id] as const),
  ];
  const others = effect.emitters.filter(({ name, frame }) => name !== emitter.name && frame === emitter.frame);
  return (
    <div className="emitter-form">
      <fieldset>
        <legend>Births</legend>
        <TextField
          label="Name"
          value={emitter.name}
          problem={(text) =>
            text.trim() === ''
              ? 'It needs a name.'
              : text.length > 60
                ? 'At most 60 characters.'
                : effect.emitters.some((one) => one !== emitter && one.name === text)
                  ? 'Another emitter has this name.'
                  : null
          }
          onCommit={(name) => set({ name })}
        />
        <CurveEditor
          label="Births a second"
          along="round"
          value={emitter.rate}
          least={0}
          onDraft={(rate) => onDraft(rate && { ...emitter, rate })}
          onCommit={(rate) => set({ rate })}
        />
        <NumberField label="At most at once" min={1} max={100_000} value={emitter.most} onCommit={(most) => set({ most: Math.round(most) })} />
        {emitter.bursts.map((burst, i) => (
          <Field key={i} label={`Burst ${i + 1}: second, count, times, every`}>
            <div className="d-flex gap-1">
              {(['at', 'count', 'times', 'every'] as const).map((key) => (
                <NumberInput
                  key={key}
                  name={`Burst ${i + 1}: ${key}`}
                  min={key === 'at' ? 0 : key === 'every' ? 0.01 : 1}
                  max={{ at: 600, count: 100_000, times: 1000, every: 600 }[key]}
                  value={burst[key]}
                  onCommit={(value) =>
                    set({
                      bursts: emitter.bursts.map((one, n) =>
                        n === i ? { ...one, [key]: key === 'count' || key === 'times' ? Math.round(value) : value } : one,
                      ),
                    })
                  }
                />
              ))}
              <button
                className="btn btn-quiet btn-sm"
                aria-label={`Remove burst ${i + 1}`}
                onClick={() => set({ bursts: emitter.bursts.filter((_, n) => n !== i) })}
              >
                ×
              </button>
            </div>
          </Field>
        ))}
        <button
          className="btn btn-quiet btn-sm"
          disabled={emitter.bursts.length >= 16}
          onClick={() => set({ bursts: [...emitter.bursts, { at: 0, count: 20, times: 1, every: 1 }] })}
        >
          Add a burst
        </button>
      </fieldset>
      <fieldset>
        <legend>Where from</legend>
        <ChoiceField
          label="Form"
          value={from.shape}
          choices={[
            ['point', 'A point'],
            ['box', 'A box'],
            ['sphere', 'A sphere'],
            ['model', 'The surface of a model'],
            ['path', 'A line'],
          ]}
          onCommit={(shape) =>
            set({
              from: (
                {
                  point: { shape: 'point' },
                  box: { shape: 'box', size: [typical * 10, typical * 10, typical * 10] },
                  sphere: { shape: 'sphere', radius: typical * 5, shell: false },
                  model: { shape: 'model', model: entries.find(({ kind }) => kind === 'model')?.id ?? '' },
                  path: {
                    shape: 'path',
                    points: [
                      [-typical * 10, 0, 0],
                      [typical * 10, 0, 0],
                    ],
                  },
                } as Record<string, Emitter['from']>
              )[shape],
            })
          }
        />
        {from.shape === 'box' && (
          <VectorField label="Size" isLength value={from.size} onCommit={(value) => set({ from: { ...from, size: value } })} />
        )}
        {from.shape === 'sphere' && (
          <>
            <NumberField label="Radius" unit={unit} min={0} value={from.radius} onCommit={(radius) => set({ from: { ...from, radius } })} />
            <CheckField label="Its surface only" value={from.shell} onCommit={(shell) => set({ from: { ...from, shell } })} />
          </>
        )}
        {from.shape === 'model' && (
          <ChoiceField label="Model" value={from.model} choices={assets('model', 'none')} onCommit={(model) => set({ from: { ...from, model } })} />
        )}
        {from.shape === 'path' &&
          from.points.map((point, i) => (
            <VectorField
              key={i}
              label={`Point ${i + 1}`}
              isLength
              value={point}
              onCommit={(value) => set({ from: { ...from, points: from.points.map((one, n) => (n === i ? value : one)) } })}
            />
          ))}
        {from.shape === 'path' && (
          <div className="d-flex gap-1">
            <button
              className="btn btn-quiet btn-sm"
              disabled={from.points.length >= 64}
              onClick={() => {
                const [x, y, z] = from.points[from.points.length - 1];
                set({ from: { ...from, points: [...from.points, [x + typical * 5, y, z]] } });
              }}
            >
              Add a point
            </button>
            <button
              className="btn btn-quiet btn-sm"
              disabled={from.points.length <= 2}
              onClick={() => set({ from: { ...from, points: from.points.slice(0, -1) } })}
            >
              Remove the last
            </button>
          </div>
        )}
        <VectorField label="Aside from the object" isLength value={emitter.at} onCommit={(at) => set({ at })} />
        <ChoiceField
          label="Particles"
          value={emitter.frame}
          choices={[
            ['map', 'stay where they are'],
            ['object', 'go along with the object'],
          ]}
          onCommit={(frame) => set({ frame: frame as Emitter['frame'] })}
        />
      </fieldset>
      <fieldset>
        <legend>Way</legend>
        <Range label="Life (s)" value={emitter.life} min={0.02} max={120} onCommit={(life) => set({ life })} />
        <Range label={`Speed (${per})`} value={emitter.speed} onCommit={(speed) => set({ speed })} />
        <VectorField label="Direction" value={emitter.direction} onCommit={(direction) => set({ direction })} />
        <NumberField label="Spread" unit="°" min={0} max={180} value={emitter.spread} onCommit={(spread) => set({ spread })} />
        <NumberField label="Takes speed of the object" min={0} max={1} value={emitter.inherit} onCommit={(inherit) => set({ inherit })} />
        <NumberField label="Gravity" unit="×" min={-10} max={10} value={forces.gravity} onCommit={(gravity) => force({ gravity })} />
        <NumberField label="Drag" unit="1/s" min={0} max={100} value={forces.drag} onCommit={(drag) => force({ drag })} />
        <NumberField label="Share of the wind" min={0} max={1} value={forces.wind} onCommit={(wind) => force({ wind })} />
        <CheckField
          label="Turbulence"
          value={forces.turbulence !== undefined}
          onCommit={(on) => force({ turbulence: on ? FRESH.turbulence(typical) : undefined })}
        />
        {forces.turbulence && (
          <>
            <NumberField
              label="Its speed"
              unit={per}
              min={0}
              value={forces.turbulence.speed}
              onCommit={(speed) => force({ turbulence: { ...forces.turbulence!, speed } })}
            />
            <NumberField
              label="Size of its eddies"
              unit={unit}
              min={0.001}
              value={forces.turbulence.size}
              onCommit={(value) => force({ turbulence: { ...forces.turbulence!, size: value } })}
            />
            <NumberField
              label="Eddies a second"
              min={0}
              max={100}
              value={forces.turbulence.pace}
              onCommit={(pace) => force({ turbulence: { ...forces.turbulence!, pace } })}
            />
          </>
        )}
        <CheckField label="Whirl" value={forces.vortex !== undefined} onCommit={(on) => force({ vortex: on ? FRESH.vortex(typical) : undefined })} />
        {forces.vortex &&
          (
            [
              ['spin', `Spin (${per}²)`],
              ['pull', `Pull inwards (${per}²)`],
              ['radius', `Radius (${unit})`],
            ] as const
          ).map(([key, label]) => (
            <NumberField
              key={key}
              label={label}
              min={key === 'radius' ? 0.001 : undefined}
              value={forces.vortex![key]}
              onCommit={(value) => force({ vortex: { ...forces.vortex!, [key]: value } })}
            />
          ))}
        <CheckField
          label="Attractor"
          value={forces.attractor !== undefined}
          onCommit={(on) => force({ attractor: on ? FRESH.attractor(typical) : undefined })}
        />
        {forces.attractor && (
          <>
            <VectorField
              label="Its place"
              isLength
              value={forces.attractor.at}
              onCommit={(at) => force({ attractor: { ...forces.attractor!, at } })}
            />
            <NumberField
              label={`Its pull (${per}²)`}
              value={forces.attractor.pull}
              onCommit={(pull) => force({ attractor: { ...forces.attractor!, pull } })}
            />
            <NumberField
              label="Its reach"
              unit={unit}
              min={0.001}
              value={forces.attractor.reach}
              onCommit={(reach) => force({ attractor: { ...forces.attractor!, reach } })}
            />
          </>
        )}
        <ChoiceField
          label="Falls onto"
          value={ground.against}
          choices={[
            ['none', 'nothing'],
            ['plane', 'a level plane'],
            ['depth', 'the map below it'],
          ]}
          onCommit={(against) => set({ ground: { ...ground, against: against as Emitter['ground']['against'] } })}
        />
        {ground.against !== 'none' && (
          <>
            {ground.against === 'plane' && (
              <NumberField
                label="Height of the plane"
                unit={unit}
                value={ground.height}
                onCommit={(height) => set({ ground: { ...ground, height } })}
              />
            )}
            <NumberField label="Bounces" min={0} max={1} value={ground.bounce} onCommit={(bounce) => set({ ground: { ...ground, bounce } })} />
            <NumberField label="Friction" min={0} max={1} value={ground.friction} onCommit={(friction) => set({ ground: { ...ground, friction } })} />
            <CheckField label="Dies at the touch" value={ground.dies} onCommit={(dies) => set({ ground: { ...ground, dies } })} />
          </>
        )}
      </fieldset>
      <fieldset>
        <legend>Looks</legend>
        <ChoiceField
          label="Drawn as"
          value={draw.as}
          choices={[
            ['sprite', 'pictures that face the eye'],
            ['ribbon', 'a ribbon through all of them'],
            ['nothing', 'nothing'],
          ]}
          onCommit={(as) => {
            const { blend, lit, picture } = draw.as === 'nothing' ? { blend: 'over' as const, lit: false, picture: '' } : draw;
            set({
              draw:
                as === 'sprite'
                  ? { as, picture, columns: 1, rows: 1, rate: 0, blend, lit, stretch: 0 }
                  : as === 'ribbon'
                    ? { as, picture, blend, lit }
                    : { as: 'nothing' },
            });
          }}
        />
        {draw.as !== 'nothing' && (
          <>
            <GradientEditor
              label="Colour"
              value={emitter.colour}
              onDraft={(colour) => onDraft(colour && { ...emitter, colour })}
              onCommit={(colour) => set({ colour })}
            />
            <Range label={`Size (${unit})`} value={size.from} min={0} max={10_000} onCommit={(value) => set({ size: { ...size, from: value } })} />
            <CurveEditor
              label="Size, times that"
              along="life"
              value={size.over}
              least={0}
              onDraft={(over) => onDraft(over && { ...emitter, size: { ...size, over } })}
              onCommit={(over) => set({ size: { ...size, over } })}
            />
            <Range label="Turn at birth (°)" value={turn.start} min={-360} max={360} onCommit={(start) => set({ turn: { ...turn, start } })} />
            <Range label="Turns (°/s)" value={turn.rate} min={-3600} max={3600} onCommit={(rate) => set({ turn: { ...turn, rate } })} />
            <ChoiceField
              label="Picture"
              value={draw.picture}
              choices={assets('texture', 'a soft dot')}
              onCommit={(picture) => set({ draw: { ...draw, picture } })}
            />
            <ChoiceField
              label="Laid"
              value={draw.blend}
              choices={[
                ['over', 'over what is behind'],
                ['add', 'as light onto what is behind'],
              ]}
              onCommit={(blend) => set({ draw: { ...draw, blend: blend as 'over' | 'add' } })}
            />
            <CheckField label="Takes the light of its place" value={draw.lit} onCommit={(lit) => set({ draw: { ...draw, lit } })} />
          </>
        )}
        {draw.as === 'sprite' && (
          <>
            {draw.picture !== '' && (
              <>
                <NumberField
                  label="Columns of the sheet"
                  min={1}
                  max={32}
                  value={draw.columns}
                  onCommit={(columns) => set({ draw: { ...draw, columns: Math.round(columns) } })}
                />
                <NumberField
                  label="Rows of the sheet"
                  min={1}
                  max={32}
                  value={draw.rows}
                  onCommit={(rows) => set({ draw: { ...draw, rows: Math.round(rows) } })}
                />
                <NumberField
                  label="Pictures a second (0: once in a life)"
                  min={0}
                  max={120}
                  value={draw.rate}
                  onCommit={(rate) => set({ draw: { ...draw, rate } })}
                />
              </>
            )}
            <NumberField
              label="Drawn out by its way of"
              unit="s"
              min={0}
              max={1}
              value={draw.stretch}
              onCommit={(stretch) => set({ draw: { ...draw, stretch } })}
            />
          </>
        )}
        <CheckField
          label="Gives light"
          value={emitter.light !== undefined}
          onCommit={(on) => set({ light: on ? { colour: '#ffd9a0', intensity: 5, reach: typical * 40, most: 1 } : undefined })}
        />
        {emitter.light && (
          <>
            <Field label="Colour of its light">
              <input
                type="color"
                className="form-control form-control-color form-control-sm"
                aria-label="Colour of its light"
                value={emitter.light.colour}
                onChange={({ target }) => set({ light: { ...emitter.light!, colour: target.value } })}
              />
            </Field>
            <NumberField
              label="Brightness"
              unit="cd"
              min={0}
              max={100_000}
              value={emitter.light.intensity}
              onCommit={(intensity) => set({ light: { ...emitter.light!, intensity } })}
            />
            <NumberField
              label="Reach"
              unit={unit}
              min={0.001}
              value={emitter.light.reach}
              onCommit={(reach) => set({ light: { ...emitter.light!, reach } })}
            />
            <NumberField
              label="Lamps (1 to 4)"
              min={1}
              max={4}
              value={emitter.light.most}
              onCommit={(most) => set({ light: { ...emitter.light!, most: Math.round(most) } })}
            />
          </>
        )}
      </fieldset>
      <fieldset>
        <legend>What comes of it</legend>
        <ChoiceField
          label="Sound at birth"
          value={emitter.sounds?.birth ?? ''}
          choices={assets('sound', 'none')}
          onCommit={(birth) => set({ sounds: soundsOf({ death: '', volume: 0.5, ...emitter.sounds, birth }) })}
        />
        <ChoiceField
          label="Sound at death"
          value={emitter.sounds?.death ?? ''}
          choices={assets('sound', 'none')}
          onCommit={(death) => set({ sounds: soundsOf({ birth: '', volume: 0.5, ...emitter.sounds, death }) })}
        />
        {emitter.sounds && (
          <NumberField
            label="Volume"
            min={0}
            max={1}
            value={emitter.sounds.volume}
            onCommit={(volume) => set({ sounds: { ...emitter.sounds!, volume } })}
          />
        )}
        <ChoiceField
          label="Children"
          value={emitter.children?.emitter ?? ''}
          choices={[['', 'none'], ...others.map(({ name }) => [name, name] as const)]}
          onCommit={(name) =>
            set({ children: name === '' ? undefined : { when: 'death', count: 3, inherit: 0, ...emitter.children, emitter: name } })
          }
        />
        {emitter.children && (
          <>
            <ChoiceField
              label="Born at its"
              value={emitter.children.when}
              choices={[
                ['death', 'death'],
                ['touch', 'touch of the ground'],
              ]}
              onCommit={(when) => set({ children: { ...emitter.children!, when: when as 'death' | 'touch' } })}
            />
            <NumberField
              label="How many"
              min={1}
              max={1000}
              value={emitter.children.count}
              onCommit={(count) => set({ children: { ...emitter.children!, count: Math.round(count) } })}
            />
            <NumberField
              label="Take of its speed"
              min={0}
              max={1}
              value={emitter.children.inherit}
              onCommit={(inherit) => set({ children: { ...emitter.children!, inherit } })}
            />
          </>
        )}
      </fieldset>
    </div>
  );
}

const soundsOf = (sounds: NonNullable<Emitter['sounds']>): Emitter['sounds'] => (sounds.birth === '' && sounds.death === '' ? undefined : sounds);

/** The least and the most of what chance draws from; the other end follows where one passes it. */
function Range(props: { label: string; value: readonly [number, number]; min?: number; max?: number; onCommit(value: [number, number]): void }) {
  const { label, value, min, max, onCommit } = props;
  return (
    <Field label={label}>
      <div className="d-flex gap-1 align-items-center">
        <NumberInput
          name={`${label}, at least`}
          min={min}
          max={max}
          value={value[0]}
          onCommit={(least) => onCommit([least, Math.max(least, value[1])])}
        />
        <span className="faint">to</span>
        <NumberInput
          name={`${label}, at most`}
          min={min}
          max={max}
          value={value[1]}
          onCommit={(most) => onCommit([Math.min(most, value[0]), most])}
        />
      </div>
    </Field>
  );
}
