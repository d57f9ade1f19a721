import { useState } from 'react';
import { getJson, message } from '../api/http.ts';
import type { ChangedFile, Commit } from '../api/types.ts';
import { time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { ChangeList } from './ChangeList.tsx';
import { CommitPicture } from './CommitPicture.tsx';

interface Props {
  /** Address of the crate's versions. */
  at: string;
  commits: readonly Commit[];
  /** The map whose history it is; empty for that of everything. */
  path: string;
  busy: boolean;
  /** Puts a file back as it was. */
  restore(hash: string, path: string): void;
}

/** Commits, newest first; one opens to what it changed, each file of which can be had back. */
export function CommitList({ at, commits, path, busy, restore }: Props) {
  const [opened, setOpened] = useState('');
  const [changes, setChanges] = useState<ChangedFile[]>([]);
  const [problem, setProblem] = useState('');
  const open = (hash: string) => {
    if (hash === opened) return setOpened('');
    setOpened(hash);
    setChanges([]);
    getJson<ChangedFile[]>(`${at}/commits/${hash}`)
      .then(setChanges)
      .catch((error) => setProblem(message(error)));
  };
  return (
    <div className="body">
      {commits.length === 0 && <p className="faint m-0">Nothing was committed yet.</p>}
      {problem && (
        <div className="severity blocker text-wrap" role="alert">
          {problem}
        </div>
      )}
      {commits.map(({ hash, message: text, author, at: when }) => (
        <div key={hash} className="commit">
          <button className="btn btn-quiet w-100 text-start commit-row" aria-expanded={opened === hash} onClick={() => open(hash)}>
            {path !== '' && opened !== hash && <CommitPicture at={at} hash={hash} path={path} />}
            <Icon name={opened === hash ? 'chevron-down' : 'chevron-right'} /> {text.split('\n')[0]}
            <span className="d-block small faint">
              {author} · {time(when)} · <code>{hash.slice(0, 8)}</code>
            </span>
          </button>
          {opened === hash && (
            <div className="ps-3 pb-2">
              <ChangeList changes={changes} />
              {changes
                .filter(({ path: own, how }) => own.endsWith('.map.json') && how !== 'removed')
                .map(({ path: own, difference }) => (
                  <CommitPicture key={own} at={at} hash={hash} path={own} touched={difference?.touched} />
                ))}
              {changes
                .filter(({ how }) => how !== 'removed')
                .map(({ path: own }) => (
                  <button key={own} className="btn btn-quiet btn-sm me-1" disabled={busy} onClick={() => restore(hash, own)}>
                    <Icon name="arrow-counterclockwise" /> {own.split('/').at(-1)} as it was then
                  </button>
                ))}
            </div>
          )}
        </div>
      ))}
    </div>
  );
}
