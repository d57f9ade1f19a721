import { useMemo, useState } from 'react';
import { memoryLedger } from '@violet-crate/core/check/memoryLedger';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { lineOfStep, MEMORY_PATH, talkName, writeMemory, type Remembered } from '@violet-crate/core/talk/document';
import { pathsThrough } from '@violet-crate/core/talk/paths';
import { finalContests } from '@violet-crate/core/talk/run';
import { rememberedOf, talksOf } from '@violet-crate/core/talk/talks';
import { Link } from 'react-router';
import { Trouble } from '../common/Busy.tsx';
import { Icon } from '../common/Icon.tsx';
import { FileButtons } from '../common/text/FileButtons.tsx';
import { useText } from '../common/text/useText.ts';

interface Props {
  crateId: string;
  world: CrateWorld;
  go(path: string, line: number): void;
}

/** Places of one flag that are listed. */
const SHOWN = 8;

/** What the crate remembers: each flag and value with its number, and who sets, clears and reads it. */
export function MemoryPage({ crateId, world, go }: Props) {
  const file = useText(crateId, MEMORY_PATH);
  const { all, own, problem } = useMemo(() => rememberedOf(world.profile.memory, world.crate.data), [world]);
  const ledger = useMemo(() => memoryLedger(talksOf(world.crate.data).talks, world.crate.scripts, all), [world, all]);
  /** After which conversations a flag can be both, which depends on what was chosen. */
  const afterwards = useMemo(() => {
    const words = new Map<string, string>();
    const settable = new Set([...ledger].flatMap(([flag, { uses }]) => (uses.some(({ does }) => does === 'set') ? [flag] : [])));
    for (const { name: talk, talk: steps } of talksOf(world.crate.data).talks)
      for (const [flag, { on, off }] of pathsThrough(steps, settable, finalContests(world.profile.contests)).after) {
        const said = on && off ? `either way after ${talk}` : on ? `set after ${talk}` : `clear after ${talk}`;
        words.set(flag, words.has(flag) ? `${words.get(flag)}, ${said}` : said);
      }
    return words;
  }, [world, ledger]);
  const [name, setName] = useState('');
  const { memory } = world.profile;
  if (problem) return <Trouble>{problem.message}</Trouble>;
  const put = (next: readonly Remembered[]) => file.change(writeMemory(next));
  const free = (kind: Remembered['kind']): number => {
    const taken = new Set(all.filter((one) => one.kind === kind).map(({ number }) => number));
    const [from, to] = (kind === 'flag' ? memory?.flags : memory?.values) ?? [0, 1000];
    for (let n = from; n <= to; n++) if (!taken.has(n)) return n;
    return from;
  };
  const add = (kind: Remembered['kind']) => {
    if (!/^[a-z][a-z0-9_]*$/.test(name) || all.some((one) => one.name === name)) return;
    put([...own, { name, number: free(kind), kind, label: '' }]);
    setName('');
  };
  const undeclared = [...ledger].filter(([known]) => !all.some((one) => one.name === known));
  const bad = name !== '' && (!/^[a-z][a-z0-9_]*$/.test(name) || all.some((one) => one.name === name));
  const uses = (of: string, does: string) => {
    // Scripts first: there are few of them among many conversations.
    const all = (ledger.get(of)?.uses ?? [])
      .filter((use) => use.does === does)
      .sort((a, b) => Number(a.step !== undefined) - Number(b.step !== undefined));
    return (
      <span className="d-flex flex-wrap gap-1">
        {all.slice(0, SHOWN).map(({ path, step, line }, i) =>
          step === undefined ? (
            <Link key={i} className="small" to={`/crates/${crateId}/scripts?file=${encodeURIComponent(path)}&line=${line}`}>
              {path.replace(/^scripts\//, '')}:{line}
            </Link>
          ) : (
            <button key={i} className="btn btn-link btn-sm p-0 small" onClick={() => go(path, lineOfStep(step))}>
              {talkName(path)} {step + 1}
            </button>
          ),
        )}
        {all.length > SHOWN && <span className="faint small">and {all.length - SHOWN} more</span>}
      </span>
    );
  };
  return (
    <div className="d-flex flex-column gap-2 h-100" style={{ minHeight: 0 }}>
      <header className="data-bar">
        <h1>Flags and values</h1>
        {memory && (
          <span className="faint small">
            Crates have the flags {memory.flags[0]} to {memory.flags[1]} and the values {memory.values[0]} to {memory.values[1]}
          </span>
        )}
        <div className="ms-auto d-flex gap-1">
          <FileButtons crateId={crateId} path={MEMORY_PATH} file={file} />
        </div>
      </header>
      <div className="data-bar">
        <input
          className={`form-control form-control-sm ${bad ? 'is-invalid' : ''}`}
          style={{ width: '14rem' }}
          placeholder="Name of a new one"
          aria-label="Name of a new flag or value"
          value={name}
          title={bad ? 'Small letters, digits and underscores; not one that is there' : undefined}
          onChange={({ target }) => setName(target.value)}
        />
        <button className="btn btn-quiet btn-sm" disabled={name === '' || bad} onClick={() => add('flag')}>
          <Icon name="plus-lg" /> Flag
        </button>
        <button className="btn btn-quiet btn-sm" disabled={name === '' || bad} onClick={() => add('value')}>
          <Icon name="plus-lg" /> Value
        </button>
        {undeclared.length > 0 && (
          <button
            className="btn btn-warm btn-sm"
            onClick={() => {
              let now = [...own];
              for (const [known, { kind }] of undeclared) {
                const taken = new Set([...all, ...now].filter((one) => one.kind === kind).map(({ number }) => number));
                let number = (kind === 'flag' ? memory?.flags : memory?.values)?.[0] ?? 0;
                while (taken.has(number)) number++;
                now = [...now, { name: known, number, kind, label: '' }];
              }
              put(now);
            }}
          >
            Add {undeclared.map(([known]) => known).join(', ')}
          </button>
        )}
      </div>
      <div className="overflow-auto panel">
        <table className="table align-middle mb-0">
          <thead>
            <tr>
              <th>Name</th>
              <th>Kind</th>
              <th>Number</th>
              <th style={{ minWidth: '16rem' }}>Means</th>
              <th>Set by</th>
              <th>Cleared by</th>
              <th>Read by</th>
              <th>Afterwards</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {all.map((one, i) => {
              const mine = i - (all.length - own.length);
              const change = (next: Partial<Remembered>) => put(own.map((other, n) => (n === mine ? { ...other, ...next } : other)));
              return (
                <tr key={one.name}>
                  <td className="mono">{one.name}</td>
                  <td>{one.kind}</td>
                  <td>
                    {mine < 0 ? (
                      <span className="faint">{one.number}, the game’s</span>
                    ) : (
                      <input
                        key={one.number}
                        type="number"
                        className="form-control form-control-sm"
                        style={{ width: '5rem' }}
                        aria-label={`Number of ${one.name}`}
                        defaultValue={one.number}
                        onBlur={({ target }) =>
                          Number.isInteger(target.valueAsNumber) &&
                          target.valueAsNumber >= 0 &&
                          target.valueAsNumber !== one.number &&
                          change({ number: target.valueAsNumber })
                        }
                      />
                    )}
                  </td>
                  <td>
                    {mine < 0 ? (
                      one.label
                    ) : (
                      <input
                        key={one.label}
                        className="form-control form-control-sm"
                        aria-label={`What ${one.name} means`}
                        defaultValue={one.label}
                        onBlur={({ target }) => target.value !== one.label && change({ label: target.value.slice(0, 200) })}
                      />
                    )}
                  </td>
                  <td>{uses(one.name, 'set')}</td>
                  <td>{uses(one.name, 'clear')}</td>
                  <td>{uses(one.name, 'read')}</td>
                  <td className="faint small">{afterwards.get(one.name)}</td>
                  <td>
                    {mine >= 0 && (
                      <button
                        className="btn btn-quiet btn-sm"
                        aria-label={`Remove ${one.name}`}
                        onClick={() => put(own.filter((_, n) => n !== mine))}
                      >
                        <Icon name="trash" />
                      </button>
                    )}
                  </td>
                </tr>
              );
            })}
            {all.length === 0 && (
              <tr>
                <td colSpan={9} className="faint">
                  Nothing is remembered yet.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </div>
    </div>
  );
}
