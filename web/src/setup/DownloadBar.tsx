import { useState } from 'react';
import { ProgressBar } from 'react-bootstrap';
import { message, remove, sendJson } from '../api/http.ts';
import type { Download } from '../api/types.ts';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

const WORDS: Record<Download['state'], string> = {
  waiting: 'waits for its turn',
  running: 'fetching',
  paused: 'rests',
  failed: 'stopped',
  unpacking: 'unpacking',
  done: 'done',
};

const minutes = (seconds: number): string => (seconds < 90 ? `${seconds} s` : `${Math.round(seconds / 60)} min`);

/** One download: how far, how fast, how long still; it can rest, go on and be given up. */
export function DownloadBar({ download }: { download: Download }) {
  const { id, title, state, done, bytes: all, speed, secondsLeft, problem } = download;
  const [fault, setFault] = useState('');
  const act = (work: Promise<unknown>) => void work.then(() => setFault('')).catch((error) => setFault(message(error)));
  const percent = Math.floor((done / Math.max(1, all)) * 100);
  return (
    <div className="mt-1" data-download={state}>
      <ProgressBar now={percent} aria-label={`Fetching ${title}`} />
      <div className="d-flex gap-2 align-items-center small mt-1">
        <span className="flex-grow-1" role="status">
          {WORDS[state]} · {bytes(done)} of {bytes(all)}
          {state === 'running' && speed > 0 && ` · ${bytes(speed)}/s`}
          {state === 'running' && secondsLeft !== null && ` · ${minutes(secondsLeft)} left`}
        </span>
        {(state === 'running' || state === 'waiting') && (
          <button className="btn btn-quiet btn-sm" onClick={() => act(sendJson('POST', `/api/depot/downloads/${id}/pause`, {}))}>
            <Icon name="pause" /> Pause
          </button>
        )}
        {(state === 'paused' || state === 'failed') && (
          <button className="btn btn-quiet btn-sm" onClick={() => act(sendJson('POST', `/api/depot/downloads/${id}/resume`, {}))}>
            <Icon name="play" /> {state === 'failed' ? 'Try again' : 'Go on'}
          </button>
        )}
        {state !== 'unpacking' && (
          <button className="btn btn-quiet btn-sm" onClick={() => act(remove(`/api/depot/downloads/${id}`))}>
            <Icon name="x-lg" /> Give up
          </button>
        )}
      </div>
      {(problem ?? fault) && (
        <div className="severity blocker text-wrap" role="alert">
          {problem ?? fault}
        </div>
      )}
    </div>
  );
}
