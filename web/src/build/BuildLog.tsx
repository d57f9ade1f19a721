import { useState } from 'react';
import { Icon } from '../common/Icon.tsx';

/** The log of a build, to be searched and taken along. */
export function BuildLog({ name, lines }: { name: string; lines: readonly string[] }) {
  const [filter, setFilter] = useState('');
  const shown = lines.filter((line) => line.toLowerCase().includes(filter.toLowerCase()));
  return (
    <section className="panel mt-3">
      <header>
        <h2>Log</h2>
        <input
          className="form-control form-control-sm w-auto"
          type="search"
          placeholder="Lines with …"
          aria-label="Filter the log"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
        <a
          className="btn btn-quiet btn-sm"
          download={`${name}-build.log`}
          href={`data:text/plain;charset=utf-8,${encodeURIComponent(lines.join('\n'))}`}
        >
          <Icon name="download" /> Download
        </a>
      </header>
      <div className="body">
        <pre className="log" tabIndex={0} role="log" aria-label="Log of the build">
          {shown.length > 0 ? shown.join('\n') : 'No line has these words.'}
        </pre>
      </div>
    </section>
  );
}
