import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { recordsPath } from '@violet-crate/core/table/document';
import { Tables } from '@violet-crate/core/table/tables';
import { isTalk, lineOfStep, MEMORY_PATH, talkName, talkPath, writeTalk } from '@violet-crate/core/talk/document';
import { talksOf } from '@violet-crate/core/talk/talks';
import { Icon } from '../common/Icon.tsx';
import { scriptTyped } from '../state/scriptsSlice.ts';
import { selectWorld } from '../state/world.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { selectFindings } from '../state/findings.ts';
import { MemoryPage } from './MemoryPage.tsx';
import { TablePage } from './TablePage.tsx';
import { TalkPage } from './talk/TalkPage.tsx';
import '../common/text/files.css';

/** Game data of a crate: tables of the game, conversations, and what is remembered. */
export function DataPage() {
  const world = useAppSelector(selectWorld);
  const view = useAppSelector((s) => s.crate.view);
  const unsaved = useAppSelector((s) => s.scripts.unsaved.length);
  const trouble = useAppSelector((s) => s.scripts.trouble);
  const findings = useAppSelector(selectFindings);
  const [address, setAddress] = useSearchParams();
  const tables = world?.profile.tables ?? [];
  const talks = useMemo(() => (world ? Object.keys(world.crate.data).filter(isTalk).sort() : []), [world]);
  const titles = useMemo(() => new Map(world ? talksOf(world.crate.data).talks.map(({ path, talk }) => [path, talk.title]) : []), [world]);
  const counts = useMemo(
    () =>
      new Map(
        world
          ? [...new Tables(world.profile.tables ?? [], world.crate.data)].map(
              ({ table, document, problem }) => [table.id, problem ? '?' : document.rows.length] as const,
            )
          : [],
      ),
    [world],
  );
  if (!view || !world) return null;
  const hasTalk = world.profile.speech !== undefined;
  const first = tables[0] ? recordsPath(tables[0].id) : (talks[0] ?? MEMORY_PATH);
  const file = address.get('file') ?? first;
  const line = Number(address.get('line') ?? 0);
  const wrongIn = (path: string) => findings.filter(({ place, severity }) => place?.file === path && severity !== 'note').length;
  if (tables.length === 0 && !hasTalk)
    return (
      <div className="page">
        <h1>Game data</h1>
        <p className="faint">The profile of this game declares no tables and no talk. docs/profiles.md says how.</p>
      </div>
    );
  const go = (path: string) => setAddress({ file: path });
  const row = (path: string, words: string, icon: string, more?: string | number) => {
    const wrong = wrongIn(path);
    return (
      <li key={path}>
        <button className={`data-entry ${path === file ? 'active' : ''}`} aria-current={path === file ? 'page' : undefined} onClick={() => go(path)}>
          <Icon name={icon} /> <span className="flex-grow-1 text-truncate">{words}</span>
          {wrong > 0 && (
            <span className="warm small" title={`${wrong} to mend`}>
              <Icon name="exclamation-triangle" /> {wrong}
            </span>
          )}
          {more !== undefined && <span className="faint small">{more}</span>}
        </button>
      </li>
    );
  };
  const table = tables.find(({ id }) => recordsPath(id) === file);
  return (
    <div className="data">
      <nav className="data-nav panel" aria-label="Game data">
        {tables.length > 0 && (
          <>
            <h2>Tables</h2>
            <ul>{tables.map(({ id, label }) => row(recordsPath(id), label, 'table', counts.get(id)))}</ul>
          </>
        )}
        {hasTalk && (
          <>
            <h2>Conversations</h2>
            <ul>{talks.map((path) => row(path, titles.get(path) || talkName(path), 'chat-left-text'))}</ul>
            <NewTalk key={talks.length} taken={talks.map(talkName)} add={(path) => go(path)} />
            <h2>Memory</h2>
            <ul>{row(MEMORY_PATH, 'Flags and values', 'bookmark-check')}</ul>
          </>
        )}
        {(world.profile.banks?.length ?? 0) > 0 && (
          <Link className="data-entry" to={`/crates/${view.id}/banks`}>
            <Icon name="hdd" /> Game banks
          </Link>
        )}
        <p className="faint small mt-auto mb-0" role="status">
          {trouble || (unsaved > 0 ? 'Saving …' : 'All saved')}
        </p>
      </nav>
      <main className="data-main">
        {table ? (
          <TablePage key={table.id} crateId={view.id} world={world} table={table} line={line} />
        ) : file === MEMORY_PATH ? (
          <MemoryPage crateId={view.id} world={world} go={(path, step) => setAddress({ file: path, line: String(step) })} />
        ) : isTalk(file) && Object.hasOwn(world.crate.data, file) ? (
          <TalkPage key={file} crateId={view.id} world={world} path={file} step={line > 0 ? line - lineOfStep(0) : null} gone={() => go(first)} />
        ) : (
          <p className="faint p-3">There is no {file} any more.</p>
        )}
      </main>
    </div>
  );
}

function NewTalk({ taken, add }: { taken: string[]; add(path: string): void }) {
  const view = useAppSelector((s) => s.crate.view);
  const profile = useAppSelector((s) => s.crate.profile);
  const dispatch = useAppDispatch();
  const [name, setName] = useState('');
  const problem = profile && name !== '' ? nameProblem(profile, 'file', name, [...taken, 'memory']) : null;
  if (!view || !profile) return null;
  return (
    <form
      className="d-flex gap-1 mb-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name === '' || problem) return;
        dispatch(scriptTyped({ crateId: view.id, path: talkPath(name), source: writeTalk({ format: 1, title: name, steps: [] }) }));
        add(talkPath(name));
      }}
    >
      <input
        className={`form-control form-control-sm ${problem ? 'is-invalid' : ''}`}
        placeholder="New conversation"
        aria-label="Name of a new conversation"
        title={problem ?? undefined}
        value={name}
        onChange={({ target }) => setName(target.value)}
      />
      <button className="btn btn-quiet btn-sm" disabled={name === '' || problem !== null} aria-label="Add the conversation">
        <Icon name="plus-lg" />
      </button>
    </form>
  );
}
