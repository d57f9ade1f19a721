import { useMemo, useState } from 'react';
import { linesCovered } from '@violet-crate/core/trial/coverage';
import { problemOf } from '@violet-crate/core/trial/scripts';
import { logPointSet } from '../state/lookingSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** What is to be told each time a line runs. */
export function LogPointForm({ path, line, onDone }: { path: string; line: number; onDone(): void }) {
  const dispatch = useAppDispatch();
  const known = useAppSelector((s) => s.looking.logPoints.find((point) => point.file === path && point.line === line)?.expression ?? '');
  const source = useAppSelector((s) => s.crate.scripts[path] ?? '');
  const able = useMemo(() => linesCovered(path, source, []).able.includes(line), [path, source, line]);
  const [text, setText] = useState(known);
  const problem = text.trim() === '' ? null : problemOf(text);
  return (
    <form
      className="d-flex gap-2 align-items-center px-2 py-1 border-bottom"
      onSubmit={(event) => {
        event.preventDefault();
        if (problem) return;
        dispatch(logPointSet({ file: path, line, expression: text }));
        onDone();
      }}
    >
      <label className="small text-nowrap" htmlFor="log-point">
        Tell at line {line}
      </label>
      <input
        id="log-point"
        className={`form-control form-control-sm mono ${problem ? 'is-invalid' : ''}`}
        placeholder="lit, value"
        autoFocus
        spellCheck={false}
        value={text}
        title={problem ?? ''}
        aria-invalid={problem !== null}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && onDone()}
      />
      {!able && <span className="severity warning small text-wrap">Nothing runs in this line by itself.</span>}
      <button className="btn btn-primary btn-sm" disabled={problem !== null}>
        {text.trim() === '' && known ? 'Remove' : 'Set'}
      </button>
    </form>
  );
}
