import { useState } from 'react';
import type { FolderState } from '../api/types.ts';

type Side = 'crate' | 'folder';

interface Props {
  conflicts: FolderState['conflicts'];
  busy: boolean;
  settle(order: { path: string; side: Side; members?: Record<string, Side> }): void;
}

/** What was changed here and in the folder: one side is chosen, for maps member by member. */
export function FolderConflicts({ conflicts, busy, settle }: Props) {
  return (
    <>
      {conflicts.map((conflict) => (
        <Conflict key={conflict.path} conflict={conflict} busy={busy} settle={settle} />
      ))}
    </>
  );
}

function Conflict({ conflict: { path, what, members }, busy, settle }: Omit<Props, 'conflicts'> & { conflict: FolderState['conflicts'][number] }) {
  const [chosen, setChosen] = useState<Record<string, Side>>({});
  return (
    <div className="panel p-2 mt-2" role="group" aria-label={`Conflict about ${path}`}>
      <div className="severity warning text-wrap">{what}</div>
      {members.map((key) => (
        <fieldset key={key} className="d-flex gap-3 align-items-baseline">
          <legend className="float-none fs-6 m-0 flex-grow-1">
            <code>{key}</code>
          </legend>
          {(['crate', 'folder'] as const).map((side) => (
            <label key={side} className="form-check">
              <input
                type="radio"
                className="form-check-input"
                name={`${path} ${key}`}
                checked={(chosen[key] ?? 'crate') === side}
                onChange={() => setChosen({ ...chosen, [key]: side })}
              />{' '}
              {side === 'crate' ? 'as here' : 'as in the folder'}
            </label>
          ))}
        </fieldset>
      ))}
      <div className="d-flex gap-2 mt-1">
        {members.length > 0 && (
          <button className="btn btn-warm btn-sm" disabled={busy} onClick={() => settle({ path, side: 'crate', members: chosen })}>
            Settle as chosen
          </button>
        )}
        <button className="btn btn-quiet btn-sm" disabled={busy} onClick={() => settle({ path, side: 'crate' })}>
          All as here
        </button>
        <button className="btn btn-quiet btn-sm" disabled={busy} onClick={() => settle({ path, side: 'folder' })}>
          All as in the folder
        </button>
      </div>
    </div>
  );
}
