import { useMemo, useState } from 'react';

/** Lines that are shown, and characters of each. */
const SHOWN = 200;
const WIDTH = 120;

interface Found {
  path: string;
  line: number;
  text: string;
}

/** Lines of all scripts that hold a text. */
export function findLines(scripts: Readonly<Record<string, string>>, query: string, matchCase: boolean): Found[] {
  if (query === '') return [];
  const wanted = matchCase ? query : query.toLowerCase();
  return Object.entries(scripts)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .flatMap(([path, source]) =>
      source
        .split('\n')
        .flatMap((text, i) => ((matchCase ? text : text.toLowerCase()).includes(wanted) ? [{ path, line: i + 1, text: text.trim() }] : [])),
    );
}

/** Search across all scripts. */
export function FindInScripts({ scripts, onLine }: { scripts: Readonly<Record<string, string>>; onLine(path: string, line: number): void }) {
  const [query, setQuery] = useState('');
  const [matchCase, setMatchCase] = useState(false);
  const found = useMemo(() => findLines(scripts, query, matchCase), [scripts, query, matchCase]);
  return (
    <div role="search" className="mt-3">
      <label className="form-label mb-1" htmlFor="find-in-scripts">
        Find in all scripts
      </label>
      <input
        id="find-in-scripts"
        type="search"
        className="form-control form-control-sm mono"
        spellCheck={false}
        value={query}
        onChange={(event) => setQuery(event.target.value)}
      />
      <div className="form-check small mt-1">
        <input
          id="match-case"
          type="checkbox"
          className="form-check-input"
          checked={matchCase}
          onChange={(event) => setMatchCase(event.target.checked)}
        />
        <label className="form-check-label" htmlFor="match-case">
          Capitals matter
        </label>
      </div>
      {query !== '' && (
        <p role="status" className="faint small mb-1">
          {found.length === 0 ? 'Nothing found.' : `${found.length} ${found.length === 1 ? 'line' : 'lines'}`}
        </p>
      )}
      <ul className="list-unstyled small mb-0">
        {found.slice(0, SHOWN).map(({ path, line, text }) => (
          <li key={`${path}:${line}`}>
            <button className="btn btn-link btn-sm p-0 text-start mono found-line" onClick={() => onLine(path, line)}>
              <span className="faint">
                {path.slice('scripts/'.length)}:{line}
              </span>{' '}
              {text.slice(0, WIDTH)}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
