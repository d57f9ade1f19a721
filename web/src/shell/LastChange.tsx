import { useState } from 'react';
import { RequestProblem, message, sendJson } from '../api/http.ts';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { changeTold } from '../state/crateEditsSlice.ts';
import { refreshFiles, refreshFreshness } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** Tells the last change of the crate as a whole, and takes it back. */
export function LastChange() {
  const dispatch = useAppDispatch();
  const { last, leftOut } = useAppSelector((s) => s.crateEdits);
  const view = useAppSelector((s) => s.crate.view);
  const [problem, setProblem] = useState<{ of: string; text: string; anyway: boolean } | null>(null);
  if (!view || (!last && leftOut.length === 0)) return null;
  const close = () => {
    setProblem(null);
    dispatch(changeTold());
  };
  const undo = (anyway: boolean) =>
    sendJson('POST', `/api/crates/${view.id}/crate-edits/${last!.id}/undo`, { anyway })
      .then(async () => {
        close();
        await dispatch(refreshFiles(view.id));
        void dispatch(refreshFreshness(view.id));
      })
      .catch((error) => setProblem({ of: last!.id, text: message(error), anyway: error instanceof RequestProblem && error.status === 409 }));
  const told = problem?.of === last?.id ? problem : null;
  return (
    <div className="last-change" role="status">
      <Icon name={last ? 'check-circle' : 'info-circle'} />
      <span>
        {last ? `Done: ${last.name}, in ${plural(last.places.length, 'place')}.` : 'Nothing was changed.'}
        {leftOut.length > 0 && ` Left out: ${leftOut.slice(0, 3).join(' ')}${leftOut.length > 3 ? ` and ${leftOut.length - 3} more.` : ''}`}
        {told && <span className="severity blocker text-wrap"> {told.text}</span>}
      </span>
      {last && (
        <button className="btn btn-quiet btn-sm py-0" onClick={() => void undo(told?.anyway ?? false)}>
          <Icon name="arrow-counterclockwise" /> {told?.anyway ? 'Undo anyway' : 'Undo'}
        </button>
      )}
      <button className="btn btn-quiet btn-sm py-0" aria-label="Close this notice" onClick={close}>
        <Icon name="x-lg" />
      </button>
    </div>
  );
}
