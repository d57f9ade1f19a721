import { useCallback, useEffect, useState } from 'react';
import type { PlannedStep } from '@violet-crate/core/setup/instructions';
import { getJson, message, request, sendJson } from '../api/http.ts';
import { time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { SetupRow } from './SetupRow.tsx';

interface CommunityPack {
  id: string;
  title: string;
  author: string;
  licence: string;
  steps: (PlannedStep & { ticked: boolean })[];
  followedAt: string | null;
}

const STATES: Record<PlannedStep['state'], { stamp: string; icon: string; word: string }> = {
  ready: { stamp: 'open', icon: 'circle', word: 'can be done' },
  there: { stamp: 'clear', icon: 'check-circle', word: 'done' },
  clash: { stamp: 'notes', icon: 'exclamation-triangle', word: 'clashes' },
  hand: { stamp: 'open', icon: 'hand-index', word: 'by hand' },
};

/** The instructions of fetched packs, step by step for this crate: followed in one go, and taken back in one. */
export function CommunityPacks({ crateId }: { crateId: string }) {
  const [packs, setPacks] = useState<CommunityPack[]>([]);
  const [problem, setProblem] = useState('');
  const ended = useAppSelector((s) => s.downloads.list.filter(({ state }) => state === 'done').length);
  const at = `/api/crates/${crateId}/community`;
  const load = useCallback(() => getJson<CommunityPack[]>(at).then(setPacks), [at]);
  const attempt = useCallback((work: Promise<unknown>) => void work.then(() => setProblem('')).catch((error) => setProblem(message(error))), []);
  useEffect(() => attempt(load()), [load, attempt, ended]);
  return (
    <>
      {problem && (
        <div className="severity blocker text-wrap p-2" role="alert">
          {problem}
        </div>
      )}
      {packs.map(({ id, title, author, licence, steps, followedAt }) => (
        <section key={id} className="panel mb-3" aria-label={`Instructions of ${title}`}>
          <header>
            <h2>{title}</h2>
            <span className="faint flex-grow-1">
              {author}, {licence}
              {followedAt && ` · followed ${time(followedAt)}`}
            </span>
            {followedAt ? (
              <button className="btn btn-quiet" onClick={() => attempt(request(`${at}/${id}`, { method: 'DELETE' }).then(load))}>
                <Icon name="arrow-counterclockwise" /> Take all of it back
              </button>
            ) : (
              <button
                className="btn btn-warm"
                disabled={!steps.some(({ state }) => state === 'ready')}
                onClick={() => attempt(sendJson('POST', `${at}/${id}`, {}).then(load))}
              >
                <Icon name="magic" /> Do what can be done
              </button>
            )}
          </header>
          {steps.map(({ step, state, words, ticked }, i) => (
            <SetupRow key={i} id={`${id}-${i}`} kind="step" ok={state === 'there' || ticked} state={ticked ? STATES.there : STATES[state]}>
              <div>
                <strong>{step.title}</strong> <span className="detail">{words}</span>
              </div>
              {state === 'hand' && (
                <label className="form-check m-0">
                  <input
                    type="checkbox"
                    className="form-check-input"
                    checked={ticked}
                    onChange={(event) => attempt(sendJson('PUT', `${at}/${id}/${i}`, { done: event.target.checked }).then(load))}
                  />{' '}
                  Done
                </label>
              )}
            </SetupRow>
          ))}
        </section>
      ))}
    </>
  );
}
