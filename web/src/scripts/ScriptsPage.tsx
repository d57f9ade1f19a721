import { lazy, Suspense, useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { nameProblem } from '@violet-crate/core/crate/naming';
import { readScript } from '@violet-crate/core/script/check';
import { formatLua } from '@violet-crate/core/script/format';
import { LuaSyntaxError } from '@violet-crate/core/script/lexer';
import { message, remove, sendJson, upload } from '../api/http.ts';
import { Busy } from '../common/Busy.tsx';
import { Icon } from '../common/Icon.tsx';
import { EditElsewhere } from '../opening/EditElsewhere.tsx';
import { saveScripts } from '../checks/savingScripts.ts';
import { refreshFiles } from '../state/crateSlice.ts';
import { scriptDropped, scriptTyped } from '../state/scriptsSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { CallGraphView } from './CallGraphView.tsx';
import { FindInScripts } from './FindInScripts.tsx';
import { LogPointForm } from './LogPointForm.tsx';
import { LuaEditor } from './LuaEditor.tsx';
import { NamePanel } from './NamePanel.tsx';
import { Outline } from './Outline.tsx';
import { Snippets } from './Snippets.tsx';
import { useAround, useMargins } from './useAround.ts';

/** Differences of texts are a large piece of code that is seldom needed. */
const TextHistory = lazy(async () => ({ default: (await import('../common/TextHistory.tsx')).TextHistory }));

/** Stage 3: the crate's Lua files. Typing is saved by itself; syntax shows at once. */
export function ScriptsPage() {
  const dispatch = useAppDispatch();
  const { view, profile, scripts } = useAppSelector((s) => s.crate);
  const { unsaved, trouble } = useAppSelector((s) => s.scripts);
  const [params, setParams] = useSearchParams();
  const [problem, setProblem] = useState('');
  const [name, setName] = useState<string | null>(null);
  const paths = Object.keys(scripts).sort();
  const wanted = params.get('file');
  const main = profile?.scripts.main ?? '';
  const path = wanted && paths.includes(wanted) ? wanted : paths.includes(main) ? main : paths[0];
  const source = scripts[path] ?? '';
  const around = useAround();
  const margins = useMargins(path);
  const [caret, setCaret] = useState(0);
  const [logLine, setLogLine] = useState<number | null>(null);
  /** What is shown instead of the text. */
  const [instead, show] = useState<'graph' | 'history' | null>(null);
  const graph = instead === 'graph';
  /** Files that are open, in the order in which they were opened. */
  const [open, setOpen] = useState<readonly string[]>([]);
  const tabs = [...open.filter((one) => paths.includes(one)), ...(path && !open.includes(path) ? [path] : [])];
  const goTo = (file: string, line?: number) => {
    setOpen(tabs.includes(file) ? tabs : [...tabs, file]);
    setLogLine(null);
    show(null);
    setParams(line ? { file, line: String(line) } : { file });
  };
  const close = (file: string) => {
    const rest = tabs.filter((one) => one !== file);
    setOpen(rest);
    if (file === path && rest.length > 0) setParams({ file: rest[rest.length - 1] });
  };

  // Leaving the page saves what is still waiting.
  useEffect(() => () => void saveScripts(), []);

  if (!view || !profile) return null;
  const change = (text: string) => void dispatch(scriptTyped({ crateId: view.id, path, source: text }));
  const attempt = async (work: () => Promise<unknown>) => {
    setProblem('');
    try {
      await work();
    } catch (error) {
      setProblem(message(error));
    }
  };
  const nameWrong =
    name === null
      ? null
      : nameProblem(
          profile,
          'file',
          name,
          paths.map((p) => p.slice(8, -4)),
        );
  const make = () =>
    attempt(async () => {
      if (!name || nameWrong) return;
      await sendJson('PUT', `/api/crates/${view.id}/scripts/${name}.lua`, { source: `-- ${name}\n\n` });
      await dispatch(refreshFiles(view.id));
      setParams({ file: `scripts/${name}.lua` });
      setName(null);
    });
  const take = (input: HTMLInputElement) =>
    attempt(async () => {
      const files = [...(input.files ?? [])];
      input.value = '';
      await upload(`/api/crates/${view.id}/assets`, 'files', files);
    });
  const drop = () =>
    attempt(async () => {
      if (!window.confirm(`Remove ${path} from the crate?`)) return;
      const script = { crateId: view.id, path, source };
      // First, lest saving should write it anew.
      dispatch(scriptDropped(script));
      await remove(`/api/crates/${view.id}/files/${path}`).catch((error) => {
        dispatch(scriptTyped(script));
        throw error;
      });
      await dispatch(refreshFiles(view.id));
    });
  const tidy = () => {
    try {
      change(formatLua(source));
      setProblem('');
    } catch (error) {
      if (!(error instanceof LuaSyntaxError)) throw error;
      setProblem(`Line ${error.line}: ${error.message}. What cannot be read is not formatted.`);
    }
  };
  const waiting = unsaved.some(({ crateId }) => crateId === view.id);
  const state = !waiting ? 'saved' : trouble || 'saving';

  return (
    <div className="h-100 d-grid" style={{ gridTemplateColumns: '15rem minmax(0, 1fr) 18rem' }}>
      <aside className="border-end p-2 overflow-auto" style={{ background: 'var(--vc-surface)' }}>
        <div className="d-flex align-items-center mb-2">
          <h1 className="h2 m-0 flex-grow-1">Scripts</h1>
          <label className="btn btn-quiet btn-sm me-1 mb-0">
            <Icon name="box-arrow-in-down" /> Import
            <input
              type="file"
              multiple
              className="visually-hidden"
              accept=".lua"
              aria-label="Choose Lua files"
              onChange={(event) => void take(event.target)}
            />
          </label>
          <button className="btn btn-quiet btn-sm" onClick={() => setName('')}>
            <Icon name="plus-lg" /> New
          </button>
        </div>
        {name !== null && (
          <form
            className="mb-2"
            onSubmit={(event) => {
              event.preventDefault();
              void make();
            }}
          >
            <label className="form-label" htmlFor="script-name">
              Name
            </label>
            <div className="input-group">
              <input id="script-name" className="form-control mono" autoFocus value={name} onChange={(event) => setName(event.target.value)} />
              <span className="input-group-text">.lua</span>
            </div>
            {name && nameWrong && <div className="severity blocker small">{nameWrong}</div>}
            <button className="btn btn-primary btn-sm mt-1" disabled={!!nameWrong}>
              Make
            </button>
          </form>
        )}
        {paths.map((p) => (
          <button key={p} className={`btn w-100 text-start mb-1 ${p === path ? 'btn-quiet active' : 'btn-quiet'}`} onClick={() => goTo(p)}>
            <Icon name="filetype-txt" /> {p.slice(8)}
            {readScript(p, scripts[p]).outline === null && (
              <span className="severity blocker ms-2">
                <Icon name="x-octagon-fill" /> error
              </span>
            )}
          </button>
        ))}
        {paths.length === 0 && <div className="faint">No scripts yet. The game starts with {profile.scripts.main}.</div>}
        {path && <EditElsewhere path={path} />}
        {paths.length > 0 && <FindInScripts scripts={scripts} onLine={goTo} />}
      </aside>
      <section className="d-flex flex-column min-vh-0 overflow-hidden">
        <div className="d-flex align-items-center gap-2 px-2 py-1 border-bottom" style={{ background: 'var(--vc-surface)' }}>
          <div role="tablist" aria-label="Open scripts" className="panel-tabs script-tabs">
            {tabs.map((one) => (
              <span key={one} className="d-inline-flex align-items-center">
                <button role="tab" aria-selected={one === path && instead === null} onClick={() => goTo(one)}>
                  {one.slice('scripts/'.length)}
                </button>
                {tabs.length > 1 && (
                  <button className="close-tab" aria-label={`Close ${one}`} onClick={() => close(one)}>
                    <Icon name="x" />
                  </button>
                )}
              </span>
            ))}
            <button role="tab" aria-selected={graph} title="Who calls whom" onClick={() => show('graph')}>
              <Icon name="diagram-3" /> Calls
            </button>
            {path && (
              <button role="tab" aria-selected={instead === 'history'} onClick={() => show('history')}>
                <Icon name="clock-history" /> History
              </button>
            )}
          </div>
          <span className={`stamp ${state === 'saved' ? 'clear' : state === 'saving' ? 'running' : 'blocked'}`} role="status">
            <Icon name={state === 'saved' ? 'check2-circle' : state === 'saving' ? 'arrow-repeat' : 'x-octagon'} />{' '}
            {state === 'saved' ? 'Saved' : state === 'saving' ? 'Saving' : state}
          </span>
          <span className="flex-grow-1" />
          {path && instead === null && (
            <button
              className="btn btn-quiet btn-sm text-nowrap"
              onClick={() => setLogLine(source.slice(0, caret).split('\n').length)}
              title="Tells an expression each time the line of the caret runs"
            >
              <Icon name="diamond" /> Log point
            </button>
          )}
          {path && instead === null && (
            <button className="btn btn-quiet btn-sm text-nowrap" onClick={tidy} title="Sets every line in by what it lies in">
              <Icon name="text-indent-left" /> Format
            </button>
          )}
          {path && path !== profile.scripts.main && (
            <button className="btn btn-quiet btn-sm" onClick={() => void drop()}>
              <Icon name="trash" /> Remove
            </button>
          )}
        </div>
        {problem && (
          <div className="severity blocker text-wrap px-3 py-1" role="alert">
            {problem}
          </div>
        )}
        {path && logLine !== null && <LogPointForm key={logLine} path={path} line={logLine} onDone={() => setLogLine(null)} />}
        <div className="flex-grow-1 overflow-hidden">
          {graph && <CallGraphView onLine={goTo} />}
          {path && instead === 'history' && (
            <Suspense fallback={<Busy what="Opening" />}>
              <TextHistory
                crateId={view.id}
                path={path}
                source={source}
                onRestore={(text) => {
                  change(text);
                  show(null);
                }}
              />
            </Suspense>
          )}
          {path && around && instead === null && (
            <LuaEditor
              path={path}
              source={source}
              line={Number(params.get('line')) || undefined}
              around={around}
              margins={margins}
              onChange={change}
              onSave={() => void saveScripts()}
              onMargin={setLogLine}
              onCaret={setCaret}
            />
          )}
        </div>
      </section>
      <aside className="border-start p-2 overflow-auto" style={{ background: 'var(--vc-surface)' }}>
        <h2>Name at the caret</h2>
        {path && <NamePanel path={path} caret={caret} onLine={goTo} />}
        <h2>Outline</h2>
        {path && <Outline path={path} onLine={goTo} />}
        {path && <Snippets path={path} source={source} onChange={change} />}
        <h2>What scripts can call</h2>
        <dl className="small">
          {profile.scripts.api.map((entry) => (
            <div key={entry.name} className="mb-1">
              <dt className="mono">{entry.signature}</dt>
              <dd className="faint mb-0">{entry.description}</dd>
            </div>
          ))}
        </dl>
      </aside>
    </div>
  );
}
