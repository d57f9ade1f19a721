import { useState } from 'react';
import { luaNameProblem, nameAt, replaceAt, type NameInfo } from '@violet-crate/core/script/names';
import { message, sendJson } from '../api/http.ts';
import { saveScripts } from '../checks/savingScripts.ts';
import { openCrate } from '../state/crateSlice.ts';
import { scriptTyped } from '../state/scriptsSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

interface Props {
  path: string;
  /** Where the caret is. */
  caret: number;
  onLine(path: string, line: number): void;
}

/** The name at the caret: where it is defined, where it is used, and another name for it everywhere. */
export function NamePanel({ path, caret, onLine }: Props) {
  const scripts = useAppSelector((s) => s.crate.scripts);
  const info = nameAt(scripts, path, caret);
  if (!info) return <p className="faint small">Put the caret on a name to see where it is defined and used.</p>;
  return <Name key={`${info.name}/${info.scope}`} info={info} path={path} onLine={onLine} />;
}

function Name({ info, path, onLine }: { info: NameInfo; path: string; onLine: Props['onLine'] }) {
  const dispatch = useAppDispatch();
  const { view, profile, scripts } = useAppSelector((s) => s.crate);
  const [name, setName] = useState('');
  const [said, setSaid] = useState('');
  const { definition, occurrences, scope } = info;
  const ofGame = scope === 'global' && profile?.scripts.api.some((entry) => entry.name === info.name);
  const problem = name === '' ? null : luaNameProblem(name);
  const rename = async () => {
    if (!view || name === '' || problem) return;
    setSaid('');
    if (scope === 'local') {
      dispatch(scriptTyped({ crateId: view.id, path, source: replaceAt(scripts[path], occurrences, name) }));
      return;
    }
    try {
      await saveScripts();
      const { scripts: changed, maps } = await sendJson<{ scripts: string[]; maps: string[] }>('POST', `/api/crates/${view.id}/functions/rename`, {
        from: info.name,
        to: name,
      });
      await dispatch(openCrate(view.id));
      setSaid(`Renamed in ${[...changed, ...maps.map((map) => `the map ${map}`)].join(', ')}.`);
    } catch (error) {
      setSaid(message(error));
    }
  };
  return (
    <div className="small mb-3">
      <p className="mb-1">
        <code>{info.name}</code> <span className="faint">{ofGame ? 'of the game' : scope}</span>
        {definition && (
          <>
            {' '}
            <button className="btn btn-link btn-sm p-0 align-baseline" onClick={() => onLine(definition.path, definition.line)}>
              defined in {definition.path.slice('scripts/'.length)}:{definition.line}
            </button>
          </>
        )}
      </p>
      <ul className="list-unstyled mb-2" aria-label={`Uses of ${info.name}`}>
        {occurrences.slice(0, 40).map((one) => (
          <li key={`${one.path}${one.from}`}>
            <button className="btn btn-link btn-sm p-0 mono text-start found-line" onClick={() => onLine(one.path, one.line)}>
              <span className="faint">
                {one.path.slice('scripts/'.length)}:{one.line}
              </span>{' '}
              {lineOf(scripts[one.path], one.line)}
            </button>
          </li>
        ))}
        {occurrences.length > 40 && <li className="faint">and {occurrences.length - 40} more</li>}
      </ul>
      {!ofGame && definition && (
        <form
          className="d-flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void rename();
          }}
        >
          <label className="visually-hidden" htmlFor="new-name">
            Another name for {info.name}
          </label>
          <input
            id="new-name"
            className={`form-control form-control-sm mono ${problem ? 'is-invalid' : ''}`}
            placeholder="another name"
            spellCheck={false}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <button className="btn btn-quiet btn-sm" disabled={name === '' || problem !== null}>
            Rename
          </button>
        </form>
      )}
      {(problem ?? said) && (
        <p role="status" className="mt-1 mb-0">
          {problem ?? said}
        </p>
      )}
    </div>
  );
}

const lineOf = (source: string, line: number): string => (source.split('\n')[line - 1] ?? '').trim().slice(0, 80);
