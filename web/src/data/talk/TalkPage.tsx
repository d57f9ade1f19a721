import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { Dropdown } from 'react-bootstrap';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import {
  endOfBlock,
  lineOfStep,
  misplacedBecause,
  OPENERS,
  readTalk,
  talkName,
  writeTalk,
  type Talk,
  type TalkStep,
} from '@violet-crate/core/talk/document';
import { stepWords } from '@violet-crate/core/talk/run';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { Trouble } from '../../common/Busy.tsx';
import { Icon } from '../../common/Icon.tsx';
import { selectFindings } from '../../state/findings.ts';
import { useAppSelector } from '../../state/store.ts';
import { useRemoveData } from '../../common/text/useRemoveData.ts';
import { FileButtons, undoKeys } from '../../common/text/FileButtons.tsx';
import { useText } from '../../common/text/useText.ts';
import { emptyStep, STEP_WORDS } from './stepTable.ts';
import { Held } from './Held.tsx';
import { StepForm } from './StepForm.tsx';
import { TalkGraph } from './TalkGraph.tsx';
import { TextSheet } from './TextSheet.tsx';

interface Props {
  crateId: string;
  world: CrateWorld;
  path: string;
  /** Step that is to be shown first. */
  step: number | null;
  gone(): void;
}

/** A conversation as an indented list, as a graph and as a sheet of its texts; beside it one step, or the conversation held. */
export function TalkPage({ crateId, world, path, step, gone }: Props) {
  const file = useText(crateId, path);
  const findings = useAppSelector(selectFindings);
  const remove = useRemoveData(crateId);
  const [chosen, setChosen] = useState(step ?? 0);
  const [shown, setShown] = useState<'list' | 'graph' | 'texts'>('list');
  const [holding, setHolding] = useState(false);
  const [at, setAt] = useState<number | null>(null);
  const [problem, setProblem] = useState('');
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    if (step !== null) setChosen(step);
  }, [step]);
  const read = useMemo((): Talk | string => {
    try {
      return readTalk(file.text ?? '', path);
    } catch (error) {
      if (error instanceof UnreadableInput) return error.message;
      throw error;
    }
  }, [file.text, path]);
  const wrong = useMemo(
    () =>
      new Map(findings.flatMap(({ place, message }) => (place?.file === path && place.line ? [[place.line - lineOfStep(0), message] as const] : []))),
    [findings, path],
  );
  if (typeof read === 'string') return <Trouble>{read}</Trouble>;
  const { steps } = read;
  const now = Math.min(chosen, steps.length - 1);
  /** Keeps only what can be read again; says why not. */
  const put = (next: readonly TalkStep[], choose = now): void => {
    const misplaced = next.findIndex((_, n) => misplacedBecause(next, n) !== null);
    if (misplaced >= 0) return setProblem(`Step ${misplaced + 1} ${misplacedBecause(next, misplaced)!}.`);
    setProblem('');
    setChosen(choose);
    file.change(writeTalk({ ...read, steps: next }));
  };
  const insert = (does: TalkStep['do']) => {
    const before = steps[now];
    const whereTo = (): { at: number; depth: number } => {
      if (!before) return { at: 0, depth: 0 };
      // Belongs right below what it needs, or below a step that opens a block.
      for (let i = now; i >= 0; i--) {
        const needs = does === 'option' ? 'choose' : ['won', 'lost', 'again'].includes(does) ? 'contest' : null;
        if (needs === null) break;
        if (steps[i].do === needs && steps[i].depth <= before.depth) return { at: endOfBlock(steps, i), depth: steps[i].depth + 1 };
      }
      if (does === 'else') return { at: endOfBlock(steps, now), depth: before.depth };
      if (OPENERS.has(before.do) && before.do !== 'choose' && before.do !== 'contest') return { at: now + 1, depth: before.depth + 1 };
      return { at: endOfBlock(steps, now), depth: before.depth };
    };
    const { at: to, depth } = whereTo();
    const made = emptyStep(world, does, depth, steps);
    put([...steps.slice(0, to), ...made, ...steps.slice(to)], to);
  };
  const move = (by: -1 | 1) => {
    const end = endOfBlock(steps, now);
    const block = steps.slice(now, end);
    const rest = [...steps.slice(0, now), ...steps.slice(end)];
    if (by < 0) {
      let to = now - 1;
      while (to > 0 && steps[to].depth > steps[now].depth) to--;
      if (to < 0) return;
      put([...rest.slice(0, to), ...block, ...rest.slice(to)], to);
    } else {
      if (end >= steps.length) return;
      const to = endOfBlock(steps, end) - block.length;
      put([...rest.slice(0, to), ...block, ...rest.slice(to)], to);
    }
  };
  const indent = (by: -1 | 1) => {
    const end = endOfBlock(steps, now);
    put(steps.map((one, n) => (n >= now && n < end ? { ...one, depth: Math.max(0, one.depth + by) } : one)));
  };
  const removeStep = () => put([...steps.slice(0, now), ...steps.slice(endOfBlock(steps, now))], Math.max(0, now - 1));
  const onKeys = (event: KeyboardEvent) => {
    const { key, altKey } = event;
    if (key === 'ArrowDown' && altKey) move(1);
    else if (key === 'ArrowUp' && altKey) move(-1);
    else if (key === 'ArrowRight' && altKey) indent(1);
    else if (key === 'ArrowLeft' && altKey) indent(-1);
    else if (key === 'ArrowDown') focus(Math.min(steps.length - 1, now + 1));
    else if (key === 'ArrowUp') focus(Math.max(0, now - 1));
    else if (key === 'Delete') removeStep();
    else return;
    event.preventDefault();
  };
  const focus = (n: number) => {
    setChosen(n);
    requestAnimationFrame(() => list.current?.querySelectorAll<HTMLElement>('.talk-step')[n]?.focus());
  };
  return (
    <div className="d-flex flex-column gap-2 h-100" style={{ minHeight: 0 }} onKeyDown={undoKeys(file)}>
      <header className="data-bar">
        <h1 className="visually-hidden">{read.title || talkName(path)}</h1>
        <input
          key={read.title}
          className="form-control form-control-sm"
          style={{ width: '16rem' }}
          aria-label="Title of the conversation"
          defaultValue={read.title}
          onBlur={({ target }) => target.value !== read.title && file.change(writeTalk({ ...read, title: target.value.slice(0, 120) }))}
        />
        <span className="faint small mono">{talkName(path)}</span>
        <div className="btn-group" role="group" aria-label="How it is shown">
          {(
            [
              ['list', 'Steps'],
              ['graph', 'Graph'],
              ['texts', 'Texts'],
            ] as const
          ).map(([one, words]) => (
            <button
              key={one}
              className={`btn btn-quiet btn-sm ${shown === one ? 'active' : ''}`}
              aria-pressed={shown === one}
              onClick={() => setShown(one)}
            >
              {words}
            </button>
          ))}
        </div>
        <button className={`btn btn-quiet btn-sm ${holding ? 'active' : ''}`} aria-pressed={holding} onClick={() => setHolding(!holding)}>
          <Icon name="chat-dots" /> Hold it
        </button>
        <div className="ms-auto d-flex gap-1">
          <FileButtons crateId={crateId} path={path} file={file} />
          <button
            className="btn btn-quiet btn-sm"
            onClick={() => void remove(path).then((wrongly) => (wrongly ? setProblem(wrongly) : gone()))}
            aria-label="Remove the conversation"
            title="Remove the conversation"
          >
            <Icon name="trash" />
          </button>
        </div>
      </header>
      <div className="data-bar">
        <Dropdown>
          <Dropdown.Toggle variant="quiet" size="sm">
            <Icon name="plus-lg" /> Step
          </Dropdown.Toggle>
          <Dropdown.Menu style={{ maxHeight: '60vh', overflow: 'auto' }}>
            {STEP_WORDS.map(({ does, words }) => (
              <Dropdown.Item as="button" key={does} onClick={() => insert(does)}>
                {words}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
        <button className="btn btn-quiet btn-sm" disabled={steps.length === 0} onClick={() => move(-1)} aria-label="Move up" title="Move up (Alt+↑)">
          <Icon name="arrow-up" />
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={steps.length === 0}
          onClick={() => move(1)}
          aria-label="Move down"
          title="Move down (Alt+↓)"
        >
          <Icon name="arrow-down" />
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={steps.length === 0}
          onClick={() => indent(-1)}
          aria-label="Less deep"
          title="Less deep (Alt+←)"
        >
          <Icon name="text-indent-right" />
        </button>
        <button className="btn btn-quiet btn-sm" disabled={steps.length === 0} onClick={() => indent(1)} aria-label="Deeper" title="Deeper (Alt+→)">
          <Icon name="text-indent-left" />
        </button>
        <button
          className="btn btn-quiet btn-sm"
          disabled={steps.length === 0}
          onClick={removeStep}
          title="Remove with all that stands below it (Del)"
        >
          <Icon name="trash" /> Remove
        </button>
        {problem && (
          <span className="severity blocker text-wrap" role="alert">
            {problem}
          </span>
        )}
      </div>
      <div className={shown === 'texts' && !holding ? 'data-split whole' : 'data-split'}>
        {shown === 'list' ? (
          <ol className="talk-list panel" aria-label="Steps" onKeyDown={onKeys} ref={list}>
            {steps.map((one, n) => (
              <li key={n}>
                <button
                  className={`talk-step ${n === now ? 'active' : ''} ${n === at ? 'now' : ''} ${wrong.has(n) ? 'wrong' : ''}`}
                  title={wrong.get(n)}
                  aria-current={n === now ? 'step' : undefined}
                  tabIndex={n === now ? 0 : -1}
                  onClick={() => setChosen(n)}
                >
                  <span className="number">{n + 1}</span>
                  <span style={{ paddingLeft: `${one.depth * 1.2}rem` }}>
                    {one.do === 'say' ? (
                      <>
                        <span className="who">{one.who || 'player'}</span> {one.text}
                      </>
                    ) : (
                      stepWords(one)
                    )}
                  </span>
                </button>
              </li>
            ))}
            {steps.length === 0 && <li className="faint p-2">Nothing is said yet. Add a step.</li>}
          </ol>
        ) : shown === 'graph' ? (
          <TalkGraph talk={read} chosen={now} choose={setChosen} />
        ) : (
          <TextSheet
            {...{ world }}
            talk={read}
            chosen={now}
            choose={setChosen}
            change={(n, next) => put(steps.map((one, i) => (i === n ? next : one)))}
          />
        )}
        {shown === 'texts' && !holding ? null : holding ? (
          <Held key={path} world={world} talk={read} moved={setAt} />
        ) : steps[now] ? (
          <StepForm
            key={`${now} ${steps[now].do}`}
            {...{ world, steps }}
            n={now}
            wrong={wrong.get(now)}
            change={(next) => put(steps.map((one, i) => (i === now ? next : one)))}
          />
        ) : (
          <div />
        )}
      </div>
    </div>
  );
}
