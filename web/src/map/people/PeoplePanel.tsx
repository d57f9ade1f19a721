import { useEffect, useMemo, useState } from 'react';
import { freeName } from '@violet-crate/core/crate/naming';
import { freshId } from '@violet-crate/core/document/edit';
import { PLAYER, type Sequence, type SequenceStep } from '@violet-crate/core/document/schema';
import { hasPart } from '@violet-crate/core/profile/parts';
import { ChoiceField, NumberField, TextField } from '../../common/fields.tsx';
import { Icon } from '../../common/Icon.tsx';
import { plural } from '../../common/format.ts';
import { edited } from '../../state/mapSlice.ts';
import { selectFindings } from '../../state/findings.ts';
import { selectWorld } from '../../state/world.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';
import { stage } from './peopleDraw.ts';

const WORDS: Record<SequenceStep['do'], string> = {
  walk: 'walks to',
  turn: 'turns to',
  pause: 'waits',
  jump: 'jumps',
  show: 'appears',
  hide: 'disappears',
  sound: 'makes a sound',
  follow: 'follows',
};

/** People of a map, and its movement sequences: who walks where and when, step by step, watched on the plan. */
export function PeoplePanel() {
  const dispatch = useAppDispatch();
  const { map, whole, profile, view } = useDocument();
  const world = useAppSelector(selectWorld);
  const findings = useAppSelector(selectFindings);
  const ids = Object.keys(map.sequences);
  const id = Object.hasOwn(map.sequences, view.scene) ? view.scene : (ids[0] ?? '');
  const sequence = id === '' ? null : map.sequences[id];
  const staged = useMemo(() => (world && id !== '' ? stage(world, map, id, view.sceneSide) : null), [world, map, id, view.sceneSide]);
  const [playing, setPlaying] = useState(false);
  const people = Object.entries(whole.objects).filter(([, object]) => hasPart(profile, object.class, 'actor'));
  const nameOf = (who: string) => (who === PLAYER ? 'the player' : (whole.objects[who]?.name ?? `${who} (is not there)`));
  const whoChoices = [[PLAYER, 'the player'] as const, ...people.map(([one, { name }]) => [one, name] as const)];
  const seconds = staged ? staged.timeline.moments[staged.timeline.moments.length - 1].time : 0;
  useEffect(() => {
    if (id !== view.scene) dispatch(viewChanged({ scene: id }));
  }, [dispatch, id, view.scene]);
  useEffect(() => {
    if (!playing) return;
    const began = performance.now() - view.sceneTime * 1000;
    let frame = requestAnimationFrame(function step() {
      const now = (performance.now() - began) / 1000;
      dispatch(viewChanged({ sceneTime: Math.min(now, seconds) }));
      if (now >= seconds) setPlaying(false);
      else frame = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(frame);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- it begins at the time of when it was pressed
  }, [playing, seconds, dispatch]);

  const put = (to: Sequence | null, name: string) => dispatch(edited({ name, changes: [{ of: 'sequences', id, to }] }));
  const add = () => {
    const fresh = freshId(map.sequences, 'q');
    const name = freeName(
      'scene',
      ids.map((one) => map.sequences[one].name),
    );
    dispatch(edited({ name: 'new movement sequence', changes: [{ of: 'sequences', id: fresh, to: { name, steps: [], starts: [] } }] }));
    dispatch(viewChanged({ scene: fresh, sceneTime: 0 }));
  };
  const steps = sequence?.steps ?? [];
  const setSteps = (next: SequenceStep[], name: string) => sequence && put({ ...sequence, steps: next }, name);
  const setStep = (n: number, next: SequenceStep) =>
    setSteps(
      steps.map((one, i) => (i === n ? next : one)),
      `step ${n + 1} of ${sequence!.name}`,
    );
  const here = findings.filter(({ place }) => place?.sequence === id);
  const who = view.sceneWho !== '' ? view.sceneWho : (people[0]?.[0] ?? PLAYER);
  return (
    <>
      <div className="d-flex align-items-center gap-1">
        <h2 className="m-0 flex-grow-1">People</h2>
        <button className="btn btn-quiet btn-sm" onClick={add}>
          <Icon name="plus-lg" /> Sequence
        </button>
      </div>
      <p className="faint small mb-2">
        {people.length === 0
          ? 'Nobody is in this map yet. Place a person.'
          : people.map(([one, { name }], i) => (
              <span key={one}>
                {i > 0 && ', '}
                <button className="btn btn-link btn-sm p-0 align-baseline" onClick={() => dispatch(selected({ kind: 'objects', ids: [one] }))}>
                  {name}
                </button>
              </span>
            ))}
      </p>
      {!sequence ? (
        <p className="faint small">A movement sequence says who walks where and when. Conversations, signals and scripts begin it.</p>
      ) : (
        <>
          {ids.length > 1 && (
            <ChoiceField
              label="Sequence"
              value={id}
              choices={ids.map((one) => [one, map.sequences[one].name])}
              onCommit={(next) => dispatch(viewChanged({ scene: next, sceneTime: 0, sceneSide: 0 }))}
            />
          )}
          <TextField label="Name" value={sequence.name} onCommit={(name) => put({ ...sequence, name: name.slice(0, 60) }, 'rename sequence')} />
          <div className="d-flex align-items-center gap-2 mb-1">
            <button
              className="btn btn-quiet btn-sm"
              aria-label={playing ? 'Hold the sequence' : 'Play the sequence'}
              onClick={() => {
                if (!playing && view.sceneTime >= seconds - 0.01) dispatch(viewChanged({ sceneTime: 0 }));
                setPlaying(!playing);
              }}
            >
              <Icon name={playing ? 'pause' : 'play'} />
            </button>
            <input
              type="range"
              className="form-range"
              aria-label="Time in the sequence"
              min={0}
              max={Math.max(0.05, seconds)}
              step={0.05}
              value={Math.min(view.sceneTime, seconds)}
              onChange={({ target }) => (setPlaying(false), dispatch(viewChanged({ sceneTime: Number(target.value) })))}
            />
            <span className="small text-nowrap" role="status">
              {Math.min(view.sceneTime, seconds).toFixed(1)} of {seconds.toFixed(1)} s
            </span>
          </div>
          {here.length > 0 && (
            <ul className="small ps-3 mb-2">
              {here.map(({ message }) => (
                <li key={message} className="text-warm">
                  {message}
                </li>
              ))}
            </ul>
          )}
          <h3>Steps</h3>
          <ol className="scene-steps">
            {steps.map((step, n) => (
              <li key={n} className={staged && stepAt(staged.timeline.moments, view.sceneTime) === n ? 'now' : ''}>
                <div className="d-flex gap-1 align-items-center">
                  <select
                    className="form-select form-select-sm"
                    aria-label={`Who does step ${n + 1}`}
                    value={step.who}
                    onChange={({ target }) => setStep(n, { ...step, who: target.value })}
                  >
                    {!whoChoices.some(([one]) => one === step.who) && <option value={step.who}>{nameOf(step.who)}</option>}
                    {whoChoices.map(([one, name]) => (
                      <option key={one} value={one}>
                        {name}
                      </option>
                    ))}
                  </select>
                  <span className="small text-nowrap">{WORDS[step.do]}</span>
                  <button
                    className="btn btn-quiet btn-sm ms-auto"
                    disabled={n === 0}
                    aria-label={`Step ${n + 1} earlier`}
                    onClick={() => setSteps(moved(steps, n, -1), 'order of steps')}
                  >
                    <Icon name="arrow-up" />
                  </button>
                  <button
                    className="btn btn-quiet btn-sm"
                    disabled={n === steps.length - 1}
                    aria-label={`Step ${n + 1} later`}
                    onClick={() => setSteps(moved(steps, n, 1), 'order of steps')}
                  >
                    <Icon name="arrow-down" />
                  </button>
                  <button
                    className="btn btn-quiet btn-sm"
                    aria-label={`Take step ${n + 1} out`}
                    onClick={() =>
                      setSteps(
                        steps.filter((_, i) => i !== n),
                        'take a step out',
                      )
                    }
                  >
                    <Icon name="x-lg" />
                  </button>
                </div>
                <StepFields step={step} whom={whoChoices} change={(next) => setStep(n, next)} />
                <label className="small d-flex gap-1 align-items-center">
                  <input
                    type="checkbox"
                    className="form-check-input m-0"
                    checked={step.wait}
                    onChange={({ target }) => setStep(n, { ...step, wait: target.checked })}
                  />
                  Wait until it is done
                </label>
              </li>
            ))}
            <li className="faint small" aria-label="End mark">
              The end. It is written by itself and cannot be forgotten.
            </li>
          </ol>
          <div className="d-flex flex-wrap gap-1 align-items-center mb-2">
            <select
              className="form-select form-select-sm w-auto"
              aria-label="Who the next step is of"
              value={who}
              onChange={({ target }) => dispatch(viewChanged({ sceneWho: target.value }))}
            >
              {whoChoices.map(([one, name]) => (
                <option key={one} value={one}>
                  {name}
                </option>
              ))}
            </select>
            <button
              className={`btn btn-sm ${view.sceneAdding ? 'btn-warm' : 'btn-quiet'}`}
              aria-pressed={view.sceneAdding}
              title="Each click on the plan is a place to walk to"
              onClick={() => dispatch(viewChanged({ sceneAdding: !view.sceneAdding, sceneWho: who }))}
            >
              <Icon name="geo" /> {view.sceneAdding ? 'Click on the plan …' : 'Walk'}
            </button>
            {(['turn', 'pause', 'jump', 'show', 'hide', 'sound', 'follow'] as const).map((does) => (
              <button key={does} className="btn btn-quiet btn-sm" onClick={() => setSteps([...steps, newStep(does, who)], 'add a step')}>
                {WORDS[does]}
              </button>
            ))}
          </div>
          <h3>Where the player may stand</h3>
          <ul className="list-unstyled small">
            {sequence.starts.map((at, n) => (
              <li key={n} className="d-flex gap-1 align-items-center">
                <button
                  className={`btn btn-quiet btn-sm ${view.sceneSide === n ? 'active' : ''}`}
                  aria-pressed={view.sceneSide === n}
                  onClick={() => dispatch(viewChanged({ sceneSide: n }))}
                >
                  Side {n + 1}: {at.map((v) => Math.round(v)).join(', ')}
                </button>
                <button
                  className="btn btn-quiet btn-sm"
                  aria-label={`Take side ${n + 1} out`}
                  onClick={() => put({ ...sequence, starts: sequence.starts.filter((_, i) => i !== n) }, 'take a side out')}
                >
                  <Icon name="x-lg" />
                </button>
              </li>
            ))}
          </ul>
          <button
            className="btn btn-quiet btn-sm"
            disabled={sequence.starts.length >= 8 || view.selection.objects.length !== 1}
            title="Select an object that stands where the player may"
            onClick={() => put({ ...sequence, starts: [...sequence.starts, whole.objects[view.selection.objects[0]].position] }, 'another side')}
          >
            <Icon name="plus-lg" /> The place of the selected object
          </button>
          <div className="mt-3">
            <button className="btn btn-quiet btn-sm" onClick={() => put(null, 'remove sequence')}>
              <Icon name="trash" /> Remove {sequence.name}, {plural(steps.length, 'step')}
            </button>
          </div>
        </>
      )}
    </>
  );
}

function stepAt(moments: readonly { time: number; step: number }[], time: number): number {
  let at = moments[0].step;
  for (const moment of moments) if (moment.time <= time + 1e-9) at = moment.step;
  return at;
}

function moved(steps: readonly SequenceStep[], n: number, by: number): SequenceStep[] {
  const next = [...steps];
  next.splice(n + by, 0, ...next.splice(n, 1));
  return next;
}

function newStep(does: Exclude<SequenceStep['do'], 'walk'>, who: string): SequenceStep {
  switch (does) {
    case 'turn':
      return { who, do: 'turn', to: 0, wait: true };
    case 'pause':
      return { who, do: 'pause', seconds: 1, wait: true };
    case 'sound':
      return { who, do: 'sound', sound: '', wait: false };
    case 'follow':
      return { who, do: 'follow', whom: PLAYER, gap: 64, wait: false };
    default:
      return { who, do: does, wait: does === 'jump' };
  }
}

function StepFields({ step, whom, change }: { step: SequenceStep; whom: readonly (readonly [string, string])[]; change(next: SequenceStep): void }) {
  const { view, base } = useAppSelector((s) => s.crate);
  switch (step.do) {
    case 'walk':
      return (
        <div className="small d-flex gap-2 align-items-center">
          <span className="mono">{step.to.map((v) => Math.round(v)).join(', ')}</span>
          <label className="d-flex gap-1 align-items-center">
            <input
              type="checkbox"
              className="form-check-input m-0"
              checked={step.run === true}
              onChange={({ target }) => change({ ...step, run: target.checked })}
            />
            runs
          </label>
        </div>
      );
    case 'turn':
      return <NumberField label="Degrees" unit="°" value={step.to} onCommit={(to) => change({ ...step, to })} />;
    case 'pause':
      return <NumberField label="Seconds" unit="s" value={step.seconds} min={0} max={600} onCommit={(seconds) => change({ ...step, seconds })} />;
    case 'sound':
      return (
        <ChoiceField
          label="Sound"
          value={step.sound}
          choices={[
            ['', '(none)'],
            ...[...(view?.files ?? []), ...(base?.files ?? [])]
              .filter(({ path }) => path.startsWith('sounds/'))
              .map(({ path }) => [path, path] as const),
          ]}
          onCommit={(sound) => change({ ...step, sound })}
        />
      );
    case 'follow':
      return (
        <>
          <ChoiceField label="Whom" value={step.whom} choices={whom} onCommit={(to) => change({ ...step, whom: to })} />
          <NumberField label="Gap" value={step.gap} min={0} onCommit={(gap) => change({ ...step, gap })} />
        </>
      );
    default:
      return null;
  }
}
