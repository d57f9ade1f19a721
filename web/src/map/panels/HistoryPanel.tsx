import { useEffect, useState } from 'react';
import { diffMaps } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { getJson, message } from '../../api/http.ts';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { edited, prefabOpened, redone, undone } from '../../state/mapSlice.ts';
import { viewChanged } from '../../state/viewSlice.ts';

interface Revision {
  revision: number;
  name: string;
  at: string;
  changes: number;
}

/** What was done in this session, step by step; below it every kept revision, to compare with and to go back to. */
export function HistoryPanel() {
  const dispatch = useAppDispatch();
  const { undo, redo, map, name, revision, unsaved } = useAppSelector((s) => s.map);
  const crateId = useAppSelector((s) => s.crate.view?.id);
  const compared = useAppSelector((s) => s.view.compared);
  const [revisions, setRevisions] = useState<Revision[] | null>(null);
  const [trouble, setTrouble] = useState('');

  useEffect(() => {
    if (!crateId || unsaved.length > 0) return;
    getJson<Revision[]>(`/api/crates/${crateId}/maps/${name}/revisions`)
      .then(setRevisions)
      .catch((error) => setTrouble(message(error)));
  }, [crateId, name, revision, unsaved.length]);

  const at = async (number: number): Promise<GameMap | null> => {
    try {
      return (await getJson<{ map: GameMap }>(`/api/crates/${crateId}/maps/${name}/revisions/${number}`)).map;
    } catch (error) {
      setTrouble(message(error));
      return null;
    }
  };
  const compare = async (number: number) => {
    const then = await at(number);
    if (!then || !map) return;
    const changes = diffMaps(then, map, 'compare')?.changes ?? [];
    const keys = (test: (before: unknown, after: unknown) => boolean) =>
      changes.flatMap((c) => {
        if (c.of === 'settings') return [];
        return test((then[c.of] as Record<string, unknown>)[c.id], c.to) ? [`${c.of}/${c.id}`] : [];
      });
    dispatch(
      viewChanged({
        compared: {
          revision: number,
          added: keys((before, after) => before === undefined && after !== null),
          changed: keys((before, after) => before !== undefined && after !== null),
          removed: keys((_before, after) => after === null),
        },
      }),
    );
  };
  const restore = async (number: number) => {
    const then = await at(number);
    if (!then || !map) return;
    const edit = diffMaps(map, then, `restore revision ${number}`);
    // A revision is of the whole map, not of a prefab that happens to be open.
    dispatch(prefabOpened(null));
    if (edit) dispatch(edited(edit));
    dispatch(viewChanged({ compared: null }));
  };
  const steps = [...undo.map((s) => s.edit.name), ...[...redo].reverse().map((s) => s.edit.name)];
  return (
    <>
      <h2 className="m-0">History</h2>
      {trouble && <div role="alert">{trouble}</div>}
      {steps.length === 0 && <p className="faint small">Nothing was done in this session yet. Each step can be gone back to.</p>}
      <ol className="history" aria-label="Steps of this session">
        {steps.map((step, i) => (
          <li key={i}>
            <button
              className={`btn btn-link btn-sm p-0 ${i >= undo.length ? 'faint' : ''}`}
              aria-current={i === undo.length - 1 ? 'step' : undefined}
              title={i < undo.length ? 'Go back to just after this step' : 'Go forward to this step'}
              onClick={() => {
                for (let n = undo.length - 1; n > i; n--) dispatch(undone());
                for (let n = undo.length; n <= i; n++) dispatch(redone());
              }}
            >
              {step}
            </button>
            {i === undo.length - 1 && <span className="faint small"> now</span>}
          </li>
        ))}
      </ol>
      <h3>Kept revisions</h3>
      {compared && (
        <div className="border rounded p-2 mb-2 small" role="status">
          Since revision {compared.revision}: <span className="text-clear">{compared.added.length} added</span>,{' '}
          <span className="text-warm">{compared.changed.length} changed</span>, {compared.removed.length} removed. They are marked in the plan.
          {compared.removed.length > 0 && <div className="faint">Removed: {compared.removed.slice(0, 12).join(', ')}</div>}
          <button className="btn btn-quiet btn-sm py-0 mt-1" onClick={() => dispatch(viewChanged({ compared: null }))}>
            Stop comparing
          </button>
        </div>
      )}
      {!revisions && !trouble && <div className="faint small">Loading …</div>}
      {revisions?.map((r) => (
        <div key={r.revision} className="d-flex gap-2 align-items-center small">
          <span className="mono faint">{r.revision}</span>
          <span className="flex-grow-1">{r.name}</span>
          <span className="faint">{new Date(r.at).toLocaleTimeString()}</span>
          <button className="btn btn-quiet btn-sm py-0" title="Mark what changed since" onClick={() => void compare(r.revision)}>
            Compare
          </button>
          <button
            className="btn btn-quiet btn-sm py-0"
            disabled={r.revision === revision && unsaved.length === 0}
            title="As one edit, which can be undone"
            onClick={() => void restore(r.revision)}
          >
            <Icon name="clock-history" /> Restore
          </button>
        </div>
      ))}
    </>
  );
}
