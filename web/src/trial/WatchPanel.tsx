import { useEffect, useState, type FormEvent } from 'react';
import { Link } from 'react-router';
import { readScript } from '@violet-crate/core/script/check';
import type { Ran } from '@violet-crate/core/script/run';
import { problemOf } from '@violet-crate/core/trial/scripts';
import { Icon } from '../common/Icon.tsx';
import { logPointSet, unwatched, watched } from '../state/lookingSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { sparkline } from './sparkline.ts';
import type { TrialRun } from './trialRun.ts';

interface Props {
  crateId: string;
  run: TrialRun | null;
}

/** Milliseconds between two looks at what runs. */
const LOOK_EVERY = 250;

/** What is worth what while the map runs: the player, expressions, log points, and how often each function ran. */
export function WatchPanel({ crateId, run }: Props) {
  const dispatch = useAppDispatch();
  const { watches } = useAppSelector((s) => s.looking);
  const unit = useAppSelector((s) => s.crate.profile!.unit.plural);
  const [text, setText] = useState('');
  const [, look] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => look((n) => n + 1), LOOK_EVERY);
    return () => clearInterval(timer);
  }, []);
  const state = run?.state;
  const history = run?.history ?? [];
  const problem = text.trim() === '' ? null : problemOf(text);
  const add = (event: FormEvent) => {
    event.preventDefault();
    if (problem || text.trim() === '') return;
    dispatch(watched(text));
    setText('');
  };
  const row = (name: string, value: string, index: number, remove?: () => void) => (
    <li key={name}>
      <div>
        <code className="d-block text-truncate" title={name}>
          {name}
        </code>
        <span className="mono small text-break">{value}</span>
      </div>
      <Sparkline values={history.map(({ values }) => values[index])} label={`${name} over the last seconds`} />
      {remove && (
        <button className="btn btn-quiet btn-sm" aria-label={`Stop watching ${name}`} onClick={remove}>
          <Icon name="x-lg" />
        </button>
      )}
    </li>
  );
  return (
    <div className="trial-list">
      <form className="p-2 border-bottom" onSubmit={add}>
        <label htmlFor="watch" className="small">
          Watch an expression of Lua
        </label>
        <div className="d-flex gap-2">
          <input
            id="watch"
            className={`form-control form-control-sm mono ${problem ? 'is-invalid' : ''}`}
            placeholder={'get("flood", "level")'}
            spellCheck={false}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <button className="btn btn-primary btn-sm" disabled={text.trim() === '' || problem !== null}>
            Watch
          </button>
        </div>
        {problem && <div className="severity blocker small text-wrap mt-1">{problem}.</div>}
      </form>
      <ul aria-label="Watches">
        {row(`speed (${unit}/s)`, state ? Math.hypot(state.velocity[0], state.velocity[1]).toFixed(1) : '–', 0)}
        {row(`height (${unit})`, state ? state.feet[2].toFixed(1) : '–', 1)}
        <li>
          <div>
            <code>stands on</code>
            <span className="mono small d-block">{standing(state?.ground)}</span>
          </div>
        </li>
        {watches.map((expression, i) => row(expression, state?.watched[i] ?? '–', i + 2, () => void dispatch(unwatched(expression))))}
      </ul>
      <LogPoints crateId={crateId} />
      <Calls crateId={crateId} run={run} />
    </div>
  );
}

function standing(ground: { name: string; surface: string } | null | undefined): string {
  if (!ground) return 'nothing';
  return ground.surface ? `${ground.name}, ${ground.surface}` : ground.name;
}

function Sparkline({ values, label }: { values: readonly number[]; label: string }) {
  const path = sparkline(values, 84, 26);
  if (!path) return null;
  return (
    <svg className="sparkline" width={84} height={26} role="img" aria-label={label}>
      <path d={path} />
    </svg>
  );
}

function LogPoints({ crateId }: { crateId: string }) {
  const dispatch = useAppDispatch();
  const { logPoints } = useAppSelector((s) => s.looking);
  return (
    <section className="p-2 border-bottom" aria-labelledby="log-points">
      <h2 id="log-points" className="h6 mb-1">
        Log points
      </h2>
      {logPoints.length === 0 && (
        <p className="faint small mb-0">Click beside a line under Script, and type what to tell each time it runs. The file stays as it is.</p>
      )}
      {logPoints.map(({ file, line, expression }) => (
        <div key={`${file}:${line}`} className="d-flex align-items-center gap-2 small">
          <div className="flex-grow-1 text-truncate">
            <Link to={`/crates/${crateId}/scripts?file=${encodeURIComponent(file)}&line=${line}`}>
              {file.slice('scripts/'.length)}:{line}
            </Link>{' '}
            <code>{expression}</code>
          </div>
          <button
            className="btn btn-quiet btn-sm"
            aria-label={`Remove the log point at ${file}:${line}`}
            onClick={() => dispatch(logPointSet({ file, line, expression: '' }))}
          >
            <Icon name="x-lg" />
          </button>
        </div>
      ))}
    </section>
  );
}

/** How often functions ran, and how long; those that never did are in the list, too. */
function Calls({ crateId, run }: Props) {
  const scripts = useAppSelector((s) => s.crate.scripts);
  const [counting, setCounting] = useState(false);
  const [calls, setCalls] = useState<readonly Ran[]>([]);
  useEffect(() => {
    if (!run || !counting) return;
    run.measure(true);
    const ask = () => void run.coverage().then((coverage) => setCalls(coverage.calls));
    const timer = setInterval(ask, 1000);
    return () => {
      clearInterval(timer);
      run.measure(false);
    };
  }, [run, counting]);
  const functions = Object.entries(scripts).flatMap(([file, source]) =>
    (readScript(file, source).outline?.functions ?? []).flatMap(({ name, line }) => (name === null ? [] : [{ file, name, line }])),
  );
  const ran = new Map(calls.map((call) => [`${call.file}:${call.line}`, call]));
  return (
    <section className="p-2" aria-labelledby="calls">
      <div className="d-flex align-items-center gap-2 mb-1">
        <h2 id="calls" className="h6 mb-0 flex-grow-1">
          Calls
        </h2>
        <div className="form-check form-switch mb-0">
          <input
            id="count-calls"
            className="form-check-input"
            type="checkbox"
            role="switch"
            checked={counting}
            disabled={!run}
            onChange={(event) => setCounting(event.target.checked)}
          />
          <label className="form-check-label small" htmlFor="count-calls">
            Count
          </label>
        </div>
      </div>
      {functions.length === 0 && <p className="faint small mb-0">No script defines a function yet.</p>}
      {functions.length > 0 && !counting && <p className="faint small mb-0">Counting slows scripts down while it is on, most where they loop.</p>}
      {counting && functions.length > 0 && (
        <table className="table table-sm small mb-0">
          <thead>
            <tr>
              <th scope="col">Function</th>
              <th scope="col" className="text-end">
                Times
              </th>
              <th scope="col" className="text-end">
                ms
              </th>
            </tr>
          </thead>
          <tbody>
            {functions.map(({ file, name, line }) => {
              const call = ran.get(`${file}:${line}`);
              return (
                <tr key={`${file}:${line}`} className={call ? '' : 'faint'}>
                  <th scope="row" className="fw-normal">
                    <Link to={`/crates/${crateId}/scripts?file=${encodeURIComponent(file)}&line=${line}`}>{name}</Link>
                  </th>
                  <td className="text-end">{call?.count ?? 'never'}</td>
                  <td className="text-end">{call ? (call.seconds * 1000).toFixed(2) : ''}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}
