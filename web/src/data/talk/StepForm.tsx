import type { ReactNode } from 'react';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { keyOf, titleOf } from '@violet-crate/core/table/document';
import { Tables } from '@violet-crate/core/table/tables';
import type { StepOf, TalkStep, Test } from '@violet-crate/core/talk/document';
import { rememberedOf } from '@violet-crate/core/talk/talks';
import { wrapText } from '@violet-crate/core/talk/wrap';
import { globalFunctions } from '@violet-crate/core/script/check';
import { STEP_WORDS } from './stepTable.ts';

interface Props {
  world: CrateWorld;
  steps: readonly TalkStep[];
  n: number;
  wrong?: string;
  change(next: TalkStep): void;
}

/** One step with just what its kind needs. */
export function StepForm({ world, steps, n, wrong, change }: Props) {
  const step = steps[n];
  const { profile, crate } = world;
  const tables = new Tables(profile.tables ?? [], crate.data);
  const rows = [...tables].flatMap(({ table, document }) =>
    document.rows.map((row) => ({ value: keyOf(table, row), words: `${titleOf(table, row)} (${table.label})` })),
  );
  const people = [
    ...rows,
    ...Object.values(crate.maps).flatMap((map) =>
      Object.values(map.objects).flatMap(({ class: id, name }) =>
        profile.classes.find((one) => one.id === id)?.parts.includes('actor') ? [{ value: name, words: `${name} (on the map)` }] : [],
      ),
    ),
  ];
  const sounds = [...crate.files, ...world.base.files].map(({ path }) => path).filter((path) => path.startsWith('sounds/'));
  const { all } = rememberedOf(profile.memory, crate.data);
  const flags = all.filter(({ kind }) => kind === 'flag').map(({ name, label }) => ({ value: name, words: `${name}: ${label}` }));
  const values = all.filter(({ kind }) => kind === 'value').map(({ name, label }) => ({ value: name, words: `${name}: ${label}` }));
  return (
    <aside className="panel data-side" aria-label={`Step ${n + 1}`}>
      <header>
        <h2>
          {n + 1}. {STEP_WORDS.find(({ does }) => does === step.do)?.words.replace(/^… /, '')}
        </h2>
      </header>
      <div className="talk-form">
        {wrong && <p className="severity blocker text-wrap mb-0">{wrong}</p>}
        {fields()}
      </div>
    </aside>
  );

  function fields(): ReactNode {
    switch (step.do) {
      case 'say':
        return (
          <>
            <Pick label="Who" value={step.who} options={[{ value: '', words: 'The player' }, ...people]} set={(who) => change({ ...step, who })} />
            <Words label="What is said" value={step.text} set={(text) => change({ ...step, text })} />
            <Shown world={world} text={step.text} />
            <Pick
              label="Voice"
              value={step.voice ?? ''}
              options={[{ value: '', words: 'none' }, ...sounds.map((path) => ({ value: path, words: path }))]}
              set={(voice) => change(voice === '' ? without(step, 'voice') : { ...step, voice })}
            />
            <Languages world={world} value={step.other ?? {}} set={(other) => change({ ...step, other })} />
          </>
        );
      case 'option':
        return (
          <>
            <Words label="What is chosen" value={step.text} set={(text) => change({ ...step, text })} />
            <label className="d-flex gap-2 align-items-center">
              <input
                type="checkbox"
                className="form-check-input"
                checked={step.test !== undefined}
                onChange={({ target }) =>
                  change(target.checked ? { ...step, test: { flag: flags[0]?.value ?? '', on: true } } : without(step, 'test'))
                }
              />
              Only if
            </label>
            {step.test && <TestFields test={step.test} {...{ flags, values, rows }} set={(test) => change({ ...step, test })} />}
            <Languages world={world} value={step.other ?? {}} set={(other) => change({ ...step, other })} />
          </>
        );
      case 'if':
        return <TestFields test={step.test} {...{ flags, values, rows }} set={(test) => change({ ...step, test })} />;
      case 'wait':
        return <Amount label="Seconds" value={step.seconds} set={(seconds) => change({ ...step, seconds: Math.max(0, Math.min(600, seconds)) })} />;
      case 'give':
      case 'take':
        return (
          <>
            <Pick label="What" value={step.what} options={[{ value: '', words: '–' }, ...rows]} set={(what) => change({ ...step, what })} />
            <Amount label="How many" value={step.count} set={(count) => change({ ...step, count: Math.max(1, Math.min(999, Math.round(count))) })} />
          </>
        );
      case 'sound':
        return (
          <Pick
            label="Sound"
            value={step.sound}
            options={[{ value: '', words: '–' }, ...sounds.map((path) => ({ value: path, words: path }))]}
            set={(sound) => change({ ...step, sound })}
          />
        );
      case 'turn':
        return (
          <>
            <Pick label="Who" value={step.who} options={people} set={(who) => change({ ...step, who })} />
            <Pick label="Turns to" value={step.to} options={[{ value: '', words: 'the player' }, ...people]} set={(to) => change({ ...step, to })} />
          </>
        );
      case 'move':
        return (
          <>
            <Pick
              label="Sequence"
              value={step.sequence}
              options={Object.values(crate.maps).flatMap((map) => Object.values(map.sequences).map(({ name }) => ({ value: name, words: name })))}
              set={(sequence) => change({ ...step, sequence })}
            />
            <label className="d-flex gap-2 align-items-center">
              <input
                type="checkbox"
                className="form-check-input"
                checked={step.wait}
                onChange={({ target }) => change({ ...step, wait: target.checked })}
              />
              Wait until it is done
            </label>
          </>
        );
      case 'call':
        return (
          <Pick
            label="Function"
            value={step.function}
            options={[{ value: '', words: '–' }, ...globalFunctions(crate.scripts).map((name) => ({ value: name, words: `${name}()` }))]}
            set={(name) => change({ ...step, function: name })}
          />
        );
      case 'contest':
        return <ContestFields {...{ world, step, people, flags }} change={change} />;
      case 'set':
      case 'clear':
        return <Pick label="Flag" value={step.flag} options={flags} set={(flag) => change({ ...step, flag })} />;
      case 'put':
        return (
          <>
            <Pick label="Value" value={step.value} options={values} set={(value) => change({ ...step, value })} />
            <Amount label="To" value={step.to} set={(to) => change({ ...step, to })} />
          </>
        );
      case 'add':
        return (
          <>
            <Pick label="Value" value={step.value} options={values} set={(value) => change({ ...step, value })} />
            <Amount label="By" value={step.by} set={(by) => change({ ...step, by })} />
          </>
        );
      case 'label':
        return <Words label="Name" value={step.name} set={(name) => change({ ...step, name: name.replace(/\s+/g, '_').slice(0, 80) })} />;
      case 'go':
        return (
          <Pick
            label="To"
            value={step.to}
            options={steps.flatMap((one) => (one.do === 'label' ? [{ value: one.name, words: one.name }] : []))}
            set={(to) => change({ ...step, to })}
          />
        );
      default:
        return <p className="faint mb-0">There is nothing to set here. What belongs to it stands below it, one deeper.</p>;
    }
  }
}

function without<T extends TalkStep>(step: T, field: string): TalkStep {
  const { [field as 'depth']: _gone, ...rest } = step as StepOf<'say'>;
  return rest as TalkStep;
}

type Named = { value: string; words: string };

function Pick({ label, value, options, set }: { label: string; value: string; options: readonly Named[]; set(value: string): void }) {
  const known = options.some((one) => one.value === value);
  return (
    <label>
      {label}
      <select className={`form-select form-select-sm ${known ? '' : 'is-invalid'}`} value={value} onChange={({ target }) => set(target.value)}>
        {!known && <option value={value}>{value === '' ? 'none' : `${value} (is not there)`}</option>}
        {options.map((one) => (
          <option key={one.value} value={one.value}>
            {one.words}
          </option>
        ))}
      </select>
    </label>
  );
}

function Words({ label, value, set }: { label: string; value: string; set(value: string): void }) {
  return (
    <label>
      {label}
      <textarea
        key={value}
        className="form-control form-control-sm"
        rows={label === 'Name' ? 1 : 3}
        defaultValue={value}
        onBlur={({ target }) => target.value !== value && set(target.value)}
      />
    </label>
  );
}

function Amount({ label, value, set }: { label: string; value: number; set(value: number): void }) {
  return (
    <label>
      {label}
      <input
        key={value}
        type="number"
        step="any"
        className="form-control form-control-sm"
        defaultValue={value}
        onBlur={({ target }) => Number.isFinite(target.valueAsNumber) && target.valueAsNumber !== value && set(target.valueAsNumber)}
      />
    </label>
  );
}

/** A text as the game breaks it. */
export function Shown({ world, text }: { world: CrateWorld; text: string }) {
  const { speech } = world.profile;
  if (!speech || text === '') return null;
  const { boxes } = wrapText(text, speech.line, speech.lines);
  return (
    <div aria-label="As the game shows it">
      {boxes.map((lines, i) => (
        <pre className="talk-box" key={i}>
          {lines.join('\n')}
        </pre>
      ))}
    </div>
  );
}

function Languages({ world, value, set }: { world: CrateWorld; value: Readonly<Record<string, string>>; set(value: Record<string, string>): void }) {
  return (
    <>
      {(world.profile.speech?.languages ?? []).map((language) => (
        <Words
          key={language}
          label={`In ${new Intl.DisplayNames(['en'], { type: 'language' }).of(language) ?? language}`}
          value={value[language] ?? ''}
          set={(text) => {
            const { [language]: _before, ...rest } = value;
            set(text === '' ? rest : { ...rest, [language]: text });
          }}
        />
      ))}
    </>
  );
}

function TestFields({
  test,
  flags,
  values,
  rows,
  set,
}: {
  test: Test;
  flags: readonly Named[];
  values: readonly Named[];
  rows: readonly Named[];
  set(test: Test): void;
}) {
  const kind = 'flag' in test ? 'flag' : 'value' in test ? 'value' : 'has';
  return (
    <>
      <label>
        Asks for
        <select
          className="form-select form-select-sm"
          value={kind}
          onChange={({ target }) =>
            set(
              target.value === 'flag'
                ? { flag: flags[0]?.value ?? '', on: true }
                : target.value === 'value'
                  ? { value: values[0]?.value ?? '', is: '>', than: 0 }
                  : { has: rows[0]?.value ?? '' },
            )
          }
        >
          <option value="flag">a flag</option>
          <option value="value">a value</option>
          <option value="has">something that the player has</option>
        </select>
      </label>
      {'flag' in test && (
        <>
          <Pick label="Flag" value={test.flag} options={flags} set={(flag) => set({ ...test, flag })} />
          <Pick
            label="Is"
            value={String(test.on)}
            options={[
              { value: 'true', words: 'set' },
              { value: 'false', words: 'not set' },
            ]}
            set={(on) => set({ ...test, on: on === 'true' })}
          />
        </>
      )}
      {'value' in test && (
        <>
          <Pick label="Value" value={test.value} options={values} set={(value) => set({ ...test, value })} />
          <Pick
            label="Is"
            value={test.is}
            options={[
              { value: '<', words: 'less than' },
              { value: '=', words: 'equal to' },
              { value: '>', words: 'more than' },
            ]}
            set={(is) => set({ ...test, is: is as '<' | '=' | '>' })}
          />
          <Amount label="Number" value={test.than} set={(than) => set({ ...test, than })} />
        </>
      )}
      {'has' in test && <Pick label="What" value={test.has} options={rows} set={(has) => set({ has })} />}
    </>
  );
}

function ContestFields({
  world,
  step,
  people,
  flags,
  change,
}: {
  world: CrateWorld;
  step: StepOf<'contest'>;
  people: readonly Named[];
  flags: readonly Named[];
  change(next: TalkStep): void;
}) {
  const types = world.profile.contests ?? [];
  const type = types.find(({ id }) => id === step.contest);
  return (
    <>
      <Pick
        label="Contest"
        value={step.contest}
        options={types.map(({ id, label }) => ({ value: id, words: label }))}
        set={(contest) => {
          // Texts that the other kind has as well stay.
          const wanted = types.find(({ id }) => id === contest)?.texts ?? [];
          change({ ...step, contest, texts: Object.fromEntries(wanted.map(({ id }) => [id, step.texts[id] ?? ''])) });
        }}
      />
      <Pick label="Against" value={step.against} options={people} set={(against) => change({ ...step, against })} />
      <Pick
        label="Remembered by"
        value={step.flag ?? ''}
        options={[{ value: '', words: 'nothing: it can be held again' }, ...flags]}
        set={(flag) => change(flag === '' ? without(step, 'flag') : { ...step, flag })}
      />
      {type?.description && <p className="faint small mb-0">{type.description}</p>}
      {type?.texts.map(({ id, label }) => (
        <Words key={id} label={label} value={step.texts[id] ?? ''} set={(text) => change({ ...step, texts: { ...step.texts, [id]: text } })} />
      ))}
    </>
  );
}
