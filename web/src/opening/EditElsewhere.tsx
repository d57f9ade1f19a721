import { useEffect, useState } from 'react';
import { assetKindOf } from '@violet-crate/core/crate/assetKind';
import { getJson, message, remove, sendJson } from '../api/http.ts';
import type { OpenedFile, Openers } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { openedChanged, refreshOpened } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** Opens the source of an asset, or a script, in a program of this machine; what is saved there comes back by itself. */
export function EditElsewhere({ path }: { path: string }) {
  const dispatch = useAppDispatch();
  const crateId = useAppSelector((s) => s.crate.view!.id);
  const opened = useAppSelector((s) => s.crate.opened.find((one) => one.path === path));
  const [programs, setPrograms] = useState<Openers | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    setProblem('');
    void dispatch(refreshOpened(crateId));
    void getJson<Openers>('/api/programs')
      .then(setPrograms)
      .catch(() => {});
  }, [dispatch, crateId, path]);
  const kind = assetKindOf(path);
  if (!kind || !programs) return null;
  const at = `/api/crates/${crateId}/opened`;
  const attempt = (work: Promise<OpenedFile[]>) => {
    setProblem('');
    work.then((list) => dispatch(openedChanged(list))).catch((error) => setProblem(message(error)));
  };
  const open = () => attempt(sendJson<OpenedFile>('POST', at, { path }).then(() => getJson<OpenedFile[]>(at)));
  const settle = (take: 'program' | 'crate') => attempt(sendJson<OpenedFile[]>('POST', `${at}/settle`, { path, take }));
  return (
    <div className="mb-2" data-opened={path}>
      <button className="btn btn-quiet btn-sm" disabled={programs.noScreen !== null} onClick={open}>
        <Icon name="box-arrow-up-right" /> {kind === 'script' ? 'Edit' : 'Edit the source'} in {programs.names[kind] ?? 'the system’s program'}
      </button>
      {programs.noScreen && <div className="faint small">{programs.noScreen}</div>}
      {(problem || opened?.problem) && (
        <div className="severity blocker text-wrap small" role="alert">
          {problem || opened?.problem}
        </div>
      )}
      {opened && !opened.conflict && (
        <div className="faint small" role="status">
          Open in {opened.program} as <code className="text-break">{opened.file}</code>: what is saved there comes back by itself.{' '}
          <button
            className="btn btn-quiet btn-sm py-0"
            onClick={() => attempt(remove(`${at}?path=${encodeURIComponent(path)}`).then(() => getJson<OpenedFile[]>(at)))}
          >
            No longer
          </button>
        </div>
      )}
      {opened?.conflict && (
        <div className="severity warning text-wrap small" role="alert">
          Changed here and in {opened.program}. Which one stands?{' '}
          <button className="btn btn-warm btn-sm py-0" onClick={() => settle('program')}>
            That of {opened.program}
          </button>{' '}
          <button className="btn btn-quiet btn-sm py-0" onClick={() => settle('crate')}>
            That of the crate
          </button>
        </div>
      )}
    </div>
  );
}
