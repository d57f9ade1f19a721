import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import { callersOf, type Caller } from '@violet-crate/core/link/callers';
import { readScript } from '@violet-crate/core/script/check';
import { selected } from '../state/viewSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** The functions of a script and who calls each. */
export function Outline({ path, onLine }: { path: string; onLine(path: string, line: number): void }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { view, profile, scripts, data } = useAppSelector((s) => s.crate);
  const { map, name } = useAppSelector((s) => s.map);
  const source = scripts[path] ?? '';
  const reading = useMemo(() => readScript(path, source), [path, source]);
  const callers = useMemo(
    () => (profile ? callersOf(profile, scripts, map ? { [name]: map } : {}, data) : new Map<string, Caller[]>()),
    [profile, scripts, map, name, data],
  );
  if (reading.findings[0])
    return (
      <p className="severity blocker text-wrap" role="alert">
        {reading.findings[0].message}
      </p>
    );
  const open = (caller: Caller) => {
    if (caller.by === 'talk' && view) void navigate(`/crates/${view.id}/data?file=${encodeURIComponent(caller.path!)}&line=${caller.line}`);
    else if (caller.path && caller.line) onLine(caller.path, caller.line);
    else if (caller.object && view) {
      dispatch(selected({ kind: 'objects', ids: [caller.object] }));
      void navigate(`/crates/${view.id}/map`);
    }
  };
  const functions = reading.outline?.functions.filter((f) => f.name) ?? [];
  if (functions.length === 0) return <p className="faint small">No functions yet.</p>;
  return (
    <ul className="list-unstyled small">
      {functions.map((f) => {
        const own = callers.get(f.name!) ?? [];
        return (
          <li key={`${f.name}${f.line}`} className="mb-1">
            <button className="btn btn-link btn-sm p-0 mono" onClick={() => onLine(path, f.line)}>
              {f.name}({f.parameters.join(', ')})
            </button>{' '}
            <span className="faint">line {f.line}</span>
            <div className="faint ps-2">
              {own.length === 0
                ? 'nothing calls it'
                : own.slice(0, 6).map((caller, i) => (
                    <span key={i}>
                      {i === 0 ? 'called by ' : ', '}
                      {caller.by === 'game' ? (
                        caller.name
                      ) : (
                        <button className="btn btn-link btn-sm p-0 align-baseline" onClick={() => open(caller)}>
                          {caller.by === 'signal'
                            ? `a signal of ${caller.name}`
                            : caller.by === 'talk'
                              ? `the conversation ${caller.name}`
                              : caller.by === 'script'
                                ? `${caller.name}:${caller.line}`
                                : caller.name}
                        </button>
                      )}
                    </span>
                  ))}
              {own.length > 6 && ` and ${own.length - 6} more`}
            </div>
          </li>
        );
      })}
    </ul>
  );
}
