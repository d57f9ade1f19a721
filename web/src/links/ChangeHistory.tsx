import { useCallback, useEffect, useState } from 'react';
import { getJson, message, sendJson } from '../api/http.ts';
import type { CrateEditEntry } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { plural } from '../common/format.ts';
import { refreshFiles, refreshFreshness } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** Changes of the crate as a whole, each of which is undone or done again. */
export function ChangeHistory({ crateId }: { crateId: string }) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((s) => s.crate.view);
  const [edits, setEdits] = useState<CrateEditEntry[] | null>(null);
  const [problem, setProblem] = useState('');
  const load = useCallback(
    () =>
      getJson<CrateEditEntry[]>(`/api/crates/${crateId}/crate-edits`)
        .then(setEdits)
        .catch((error) => setProblem(message(error))),
    [crateId],
  );
  // Loaded again whenever the crate has become another.
  useEffect(() => void load(), [load, view]);
  const move = (edit: CrateEditEntry) =>
    sendJson('POST', `/api/crates/${crateId}/crate-edits/${edit.id}/${edit.undoneAt ? 'redo' : 'undo'}`, {})
      .then(async () => {
        setProblem('');
        await dispatch(refreshFiles(crateId));
        void dispatch(refreshFreshness(crateId));
      })
      .catch((error) => setProblem(message(error)));
  if (problem && !edits) return <Trouble retry={() => void load()}>{problem}</Trouble>;
  if (!edits) return <Busy what="Looking for changes" />;
  return (
    <section className="panel" aria-label="Changes of the crate">
      {problem && (
        <div className="severity blocker text-wrap p-2" role="alert">
          {problem}
        </div>
      )}
      {edits.length === 0 ? (
        <p className="p-3 faint mb-0">Nothing of the crate as a whole was changed yet: renaming, merging and removing are listed here.</p>
      ) : (
        <table className="table mb-0 align-middle">
          <thead>
            <tr>
              <th>When</th>
              <th>What</th>
              <th>Where</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {edits.map((edit) => (
              <tr key={edit.id} data-undone={edit.undoneAt !== null}>
                <td className="text-nowrap faint">{new Date(edit.at).toLocaleString()}</td>
                <td>
                  {edit.name} {edit.undoneAt && <span className="stamp open">undone</span>}
                </td>
                <td className="faint" title={edit.places.join('\n')}>
                  {plural(edit.places.length, 'place')}
                </td>
                <td className="text-end">
                  <button className="btn btn-quiet btn-sm py-0" onClick={() => void move(edit)}>
                    {edit.undoneAt ? 'Do it again' : 'Undo'}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
