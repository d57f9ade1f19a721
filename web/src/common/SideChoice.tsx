import { useState } from 'react';

interface Props<Side extends string> {
  path: string;
  what: string;
  /** Members of a map that can be chosen one by one; none for files that are taken whole. */
  members: readonly { key: string; label: string }[];
  /** Two, each with its words: "as here". The first is what stands until somebody chooses. */
  sides: readonly [readonly [Side, string], readonly [Side, string]];
  busy: boolean;
  settle(side: Side, members?: Record<string, Side>): void;
}

/** What was changed on two sides: one of them is chosen, for maps member by member. */
export function SideChoice<Side extends string>({ path, what, members, sides, busy, settle }: Props<Side>) {
  const [chosen, setChosen] = useState<Record<string, Side>>({});
  const [[first]] = sides;
  return (
    <div className="panel p-2 mt-2" role="group" aria-label={`Conflict about ${path}`}>
      <div className="severity warning text-wrap">{what}</div>
      {members.map(({ key, label }) => (
        <fieldset key={key} className="d-flex gap-3 align-items-baseline">
          <legend className="float-none fs-6 m-0 flex-grow-1">
            <code title={key}>{label}</code>
          </legend>
          {sides.map(([side, words]) => (
            <label key={side} className="form-check">
              <input
                type="radio"
                className="form-check-input"
                name={`${path} ${key}`}
                checked={(chosen[key] ?? first) === side}
                onChange={() => setChosen({ ...chosen, [key]: side })}
              />{' '}
              {words}
            </label>
          ))}
        </fieldset>
      ))}
      <div className="d-flex gap-2 mt-1 flex-wrap">
        {members.length > 0 && (
          <button className="btn btn-warm btn-sm" disabled={busy} onClick={() => settle(first, chosen)}>
            Settle as chosen
          </button>
        )}
        {sides.map(([side, words]) => (
          <button key={side} className="btn btn-quiet btn-sm" disabled={busy} onClick={() => settle(side)}>
            All {words}
          </button>
        ))}
      </div>
    </div>
  );
}
