import { useEffect, useMemo, useState } from 'react';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { titleOf } from '@violet-crate/core/table/document';
import { Tables } from '@violet-crate/core/table/tables';
import type { Talk } from '@violet-crate/core/talk/document';
import { finalContests, stepWords, TalkMachine, type Answer, type Mind, type TalkState } from '@violet-crate/core/talk/run';
import { rememberedOf } from '@violet-crate/core/talk/talks';
import { Icon } from '../../common/Icon.tsx';
import { Shown } from './StepForm.tsx';

interface Props {
  world: CrateWorld;
  talk: Talk;
  /** The step that it stands at; null when it is over. */
  moved(step: number | null): void;
}

/** Steps that need no answer, before it counts as a circle. */
const AT_ONCE = 500;

/** A conversation held beside its editor, from any state of what is remembered. */
export function Held({ world, talk, moved }: Props) {
  const machine = useMemo(() => new TalkMachine(talk, finalContests(world.profile.contests)), [talk, world.profile]);
  const { all } = rememberedOf(world.profile.memory, world.crate.data);
  const [start, setStart] = useState<Mind>({ flags: new Set(), values: {}, items: {} });
  const [said, setSaid] = useState<string[]>([]);
  const [state, setState] = useState<TalkState | null>(null);
  const tables = new Tables(world.profile.tables ?? [], world.crate.data);
  const nameOf = (who: string) => {
    for (const { table } of tables) {
      const row = tables.row(table.id, who);
      if (row) return titleOf(table, row);
    }
    return who || 'Player';
  };
  /** Goes on to the next thing that is said or asked. */
  const run = (from: TalkState, before: string[], answer?: Answer) => {
    const lines = [...before];
    let next = answer ? machine.next(from, answer) : from;
    for (let n = 0; n < AT_ONCE; n++) {
      const step = machine.step(next);
      if (!step || step.do === 'say' || machine.question(next)) break;
      if (!['if', 'else', 'label', 'won', 'lost', 'again', 'option', 'choose'].includes(step.do)) lines.push(`(${stepWords(step)})`);
      next = machine.next(next);
    }
    setSaid(lines);
    setState(next);
    moved(next.at);
  };
  const begin = () => run(machine.begin(start), []);
  useEffect(() => {
    // An edit begins it anew: numbers of steps are other ones.
    setState(null);
    setSaid([]);
    moved(null);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only another conversation counts
  }, [machine]);
  const step = state && machine.step(state);
  const question = state && machine.question(state);
  const mind = state?.mind ?? start;
  return (
    <aside className="panel data-side" aria-label="The conversation, held">
      <header>
        <h2>Held</h2>
        <button className="btn btn-quiet btn-sm" onClick={begin}>
          <Icon name="play" /> {state ? 'From the start' : 'Begin'}
        </button>
      </header>
      <div className="talk-held">
        <div className="talk-said" role="log" aria-label="What was said">
          {said.map((line, i) => (
            <div key={i} className={line.startsWith('(') ? 'faint' : ''}>
              {line}
            </div>
          ))}
          {state && !step && <div className="faint">It is over.</div>}
          {!state && <div className="faint">Choose below what is remembered, and begin.</div>}
        </div>
        {step?.do === 'say' && (
          <>
            <strong>{nameOf(step.who)}</strong>
            <Shown world={world} text={step.text} />
            <button className="btn btn-primary btn-sm" onClick={() => run(machine.next(state!), [...said, `${nameOf(step.who)}: ${step.text}`])}>
              Go on
            </button>
          </>
        )}
        {question?.ask === 'option' &&
          question.options.map(({ step: n, text }) => (
            <button key={n} className="btn btn-quiet btn-sm text-start" onClick={() => run(state!, [...said, `> ${text}`], { option: n })}>
              {text || '(nothing)'}
            </button>
          ))}
        {question?.ask === 'contest' && (
          <>
            <strong>
              {question.step.contest} against {nameOf(question.step.against)}
            </strong>
            <div className="d-flex gap-2">
              {[true, false].map((won) => (
                <button
                  key={String(won)}
                  className="btn btn-quiet btn-sm"
                  onClick={() =>
                    run(state!, [...said, won ? `won: ${question.step.texts.won ?? ''}` : `lost: ${question.step.texts.lost ?? ''}`], { won })
                  }
                >
                  {won ? 'Won' : 'Lost'}
                </button>
              ))}
            </div>
          </>
        )}
        <h3 className="mt-2">What is remembered</h3>
        <div>
          {all.map(({ name, kind, label }) =>
            kind === 'flag' ? (
              <label key={name} className="d-flex gap-2" title={label}>
                <input
                  type="checkbox"
                  className="form-check-input"
                  checked={mind.flags.has(name)}
                  disabled={state !== null && step !== null}
                  onChange={({ target }) =>
                    setStart({ ...start, flags: new Set(target.checked ? [...start.flags, name] : [...start.flags].filter((flag) => flag !== name)) })
                  }
                />
                {name}
              </label>
            ) : (
              <label key={name} className="d-flex gap-2 align-items-center" title={label}>
                <input
                  type="number"
                  className="form-control form-control-sm"
                  style={{ width: '4.5rem' }}
                  value={mind.values[name] ?? 0}
                  disabled={state !== null && step !== null}
                  onChange={({ target }) => setStart({ ...start, values: { ...start.values, [name]: Number(target.value) || 0 } })}
                />
                {name}
              </label>
            ),
          )}
        </div>
        {state && (
          <button
            className="btn btn-quiet btn-sm"
            onClick={() => {
              setStart(state.mind);
              setState(null);
              setSaid([]);
              moved(null);
            }}
          >
            Begin again with what is remembered now
          </button>
        )}
      </div>
    </aside>
  );
}
