import { useEffect, useState } from 'react';
import { getJson, message } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { startShared, type SharedRun } from './sharedRun.ts';

interface Props {
  crateId: string;
  map: string;
  /** The run on the server that this window plays in. */
  shared: string | undefined;
  others: readonly string[];
  onShare(run: SharedRun | null): void;
}

interface Open extends SharedRun {
  map: string;
  players: number;
}

/** Milliseconds between two looks at who plays. */
const LOOK_EVERY = 5000;

/** Playing with others: a run that lives on the server, at an address that can be handed on. */
export function Together({ crateId, map, shared, others, onShare }: Props) {
  const [trouble, setTrouble] = useState('');
  const [open, setOpen] = useState<readonly Open[]>([]);
  const [copied, setCopied] = useState(false);
  useEffect(() => {
    if (shared !== undefined) return;
    const look = () =>
      void getJson<Open[]>(`/api/crates/${crateId}/together`)
        .then((runs) => setOpen(runs.filter((run) => run.map === map)))
        .catch(() => setOpen([]));
    look();
    const timer = setInterval(look, LOOK_EVERY);
    return () => clearInterval(timer);
  }, [crateId, map, shared]);
  const begin = async () => {
    setTrouble('');
    try {
      onShare(await startShared(crateId, map));
    } catch (error) {
      setTrouble(message(error));
    }
  };
  if (shared === undefined)
    return (
      <>
        {open.map(({ run, build, players }) => (
          <button key={run} className="btn btn-quiet btn-sm text-nowrap" onClick={() => onShare({ run, build })}>
            <Icon name="people" /> {players === 0 ? 'Go back to the run' : `Join ${players} playing`}
          </button>
        ))}
        <button className="btn btn-quiet btn-sm text-nowrap" onClick={() => void begin()} title="A run on the server that other windows can join">
          <Icon name="people" /> Play together
        </button>
        {trouble && (
          <span className="severity blocker small text-wrap w-100 px-2" role="alert">
            {trouble}
          </span>
        )}
      </>
    );
  return (
    <div className="d-flex flex-wrap gap-2 align-items-center w-100">
      <span className="small flex-grow-1" role="status" data-testid="together">
        {others.length === 0 ? 'Nobody else is here yet.' : `With ${others.join(', ')}.`}
      </span>
      <button
        className="btn btn-quiet btn-sm"
        onClick={() => void navigator.clipboard.writeText(location.href).then(() => setCopied(true))}
        title="Whoever opens this address joins the run"
      >
        <Icon name="clipboard" /> {copied ? 'Copied' : 'Copy the address'}
      </button>
      <button className="btn btn-quiet btn-sm" onClick={() => onShare(null)}>
        Leave
      </button>
    </div>
  );
}
