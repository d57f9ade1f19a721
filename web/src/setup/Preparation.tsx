import { useState } from 'react';
import type { Stage } from '@violet-crate/core/finding';
import { message, sendJson } from '../api/http.ts';
import type { StepState } from '../api/types.ts';
import { RowAction, SetupRow } from './SetupRow.tsx';

const STAGE_WORDS: Record<Stage, string> = {
  setup: 'set-up',
  assets: 'assets',
  scripts: 'scripts',
  map: 'map',
  links: 'links',
  build: 'builds',
  trial: 'starting the game',
  publish: 'publishing',
};

interface Props {
  profile: string;
  install: string;
  steps: readonly StepState[];
  /** Something was done or ticked: the game is to be looked at again. */
  onChange(): void;
}

/** What is done once before a game can be modded. Steps tick themselves by their rule; those of no rule are ticked by hand. */
export function Preparation({ profile, install, steps, onChange }: Props) {
  const [busy, setBusy] = useState('');
  const [note, setNote] = useState('');
  const act = async (step: string, method: 'POST' | 'PUT', body: object) => {
    setBusy(step);
    try {
      const answer = await sendJson<{ done?: string }>(method, `/api/games/${profile}/preparation/${step}?install=${install}`, body);
      setNote(answer.done ?? '');
      onChange();
    } catch (error) {
      setNote(message(error));
    }
    setBusy('');
  };
  const done = { stamp: 'clear', icon: 'check-circle', word: 'done' };
  const open = { stamp: 'open', icon: 'circle', word: 'to do' };
  return (
    <div>
      {steps.map(({ step, done: isDone, rule }) => (
        <SetupRow key={step.id} id={step.id} kind="step" ok={isDone} state={isDone ? done : open}>
          <div>
            <strong>{step.title}</strong> <span className="detail">{step.why}</span>
            {!isDone && <div>{step.how}</div>}
            <div className="small faint">
              {step.done.when === 'hand' ? 'Ticked by hand.' : `Ticks itself: ${rule}`}
              {step.concerns.length > 0 && ` Needed for: ${step.concerns.map((stage) => STAGE_WORDS[stage]).join(', ')}.`}
            </div>
          </div>
          {step.done.when === 'hand' ? (
            <label className="form-check m-0">
              <input
                type="checkbox"
                className="form-check-input"
                checked={isDone}
                disabled={busy !== ''}
                onChange={(event) => void act(step.id, 'PUT', { done: event.target.checked })}
              />{' '}
              Done
            </label>
          ) : (
            step.offer &&
            !isDone && (
              <RowAction busy={busy !== ''} onClick={() => void act(step.id, 'POST', {})}>
                {busy === step.id ? 'Working …' : 'Do it for me'}
              </RowAction>
            )
          )}
        </SetupRow>
      ))}
      {note && (
        <div className="p-2 px-3 faint" role="status">
          {note}
        </div>
      )}
    </div>
  );
}
