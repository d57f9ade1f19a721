import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { ConsoleLine } from '@violet-crate/core/trial/console';
import { completions, type ConsoleWords } from './consoleCommands.ts';

/** Lines that are in the page at once. */
const SHOWN = 200;
const KINDS: { kind: ConsoleLine['kind']; label: string }[] = [
  { kind: 'say', label: 'Words' },
  { kind: 'signal', label: 'Signals' },
  { kind: 'error', label: 'Errors' },
  { kind: 'system', label: 'Run' },
  { kind: 'log', label: 'Log points' },
];
/** A place in a script as Lua names it. */
const PLACE = /(scripts\/[\w./-]{1,200}\.lua):(\d{1,7})/;

interface Props {
  crateId: string;
  /** All that is kept, oldest first. */
  lines: readonly ConsoleLine[];
  /** Runs a line of Lua in the world, or a command; left out while there is none. */
  onRun?(text: string): void;
  /** What a typed line may name. */
  words?: ConsoleWords;
}

/** What the run says, as far as it is asked for; places in scripts lead to the editor. */
export function ConsolePanel({ crateId, lines, onRun, words }: Props) {
  const [left, setLeft] = useState<ReadonlySet<ConsoleLine['kind']>>(new Set());
  const [query, setQuery] = useState('');
  const list = useRef<HTMLDivElement>(null);
  /** The newest line is in sight, and stays so. */
  const following = useRef(true);
  const wanted = query.toLowerCase().split(/\s+/).filter(Boolean);
  const found = lines.filter(({ kind, text }) => {
    if (left.has(kind)) return false;
    const own = wanted.length > 0 ? text.toLowerCase() : '';
    return wanted.every((word) => own.includes(word));
  });
  const shown = found.slice(-SHOWN);

  const last = shown.at(-1);
  useEffect(() => {
    if (following.current && list.current) list.current.scrollTop = list.current.scrollHeight;
  }, [last]);

  const toggle = (kind: ConsoleLine['kind']) => {
    const next = new Set(left);
    if (!next.delete(kind)) next.add(kind);
    setLeft(next);
  };
  return (
    <>
      <div className="console-filter" role="search">
        <input
          type="search"
          className="form-control form-control-sm"
          aria-label="Find in the console"
          placeholder="Find: an object, a word"
          value={query}
          onChange={(event) => setQuery(event.target.value)}
        />
        <div className="d-flex gap-1 mt-1" role="group" aria-label="Kinds of lines">
          {KINDS.map(({ kind, label }) => (
            <button
              key={kind}
              className={`btn btn-quiet btn-sm py-0 px-2 ${left.has(kind) ? '' : 'active'}`}
              aria-pressed={!left.has(kind)}
              onClick={() => toggle(kind)}
            >
              {label}
            </button>
          ))}
        </div>
      </div>
      <div
        ref={list}
        className="console"
        role="log"
        aria-label="Console of the test run"
        tabIndex={0}
        onScroll={({ currentTarget: { scrollTop, clientHeight, scrollHeight } }) => {
          following.current = scrollTop + clientHeight > scrollHeight - 24;
        }}
      >
        {found.length > shown.length && <div className="faint">{found.length - shown.length} earlier lines are left out.</div>}
        {shown.map((line, i) => (
          <Line key={found.length - shown.length + i} line={line} crateId={crateId} />
        ))}
        {lines.length === 0 && <div className="faint">What scripts print and signals do appears here.</div>}
        {lines.length > 0 && found.length === 0 && <div className="faint">Nothing of what was said matches.</div>}
      </div>
      <RunLine onRun={onRun} words={words} />
    </>
  );
}

/** A line of Lua, with what was typed before by the arrow keys. */
function RunLine({ onRun, words: known }: Pick<Props, 'onRun' | 'words'>) {
  const [text, setText] = useState('');
  const [past, setPast] = useState<readonly string[]>([]);
  /** How far back one has gone; 0 is what is being typed. */
  const [back, setBack] = useState(0);
  const go = (to: number) => {
    const next = Math.min(past.length, Math.max(0, to));
    setBack(next);
    setText(next === 0 ? '' : past[past.length - next]);
  };
  const suggested = known ? completions(text, known) : [];
  return (
    <form
      className="run-line"
      onSubmit={(event) => {
        event.preventDefault();
        if (!onRun || text.trim() === '') return;
        onRun(text);
        setPast([...past.filter((one) => one !== text), text]);
        setBack(0);
        setText('');
      }}
    >
      {suggested.length > 0 && (
        <div className="suggestions" role="group" aria-label="Suggestions; Tab takes the first">
          {suggested.map((one) => (
            <button key={one} type="button" className="btn btn-quiet btn-sm py-0 px-1 mono" onClick={() => setText(one)}>
              {ending(one, text)}
            </button>
          ))}
        </div>
      )}
      <input
        className="form-control form-control-sm mono"
        aria-label="Run a line of Lua"
        placeholder={'Lua: get("sluice", "raised"), or /help'}
        autoComplete="off"
        spellCheck={false}
        disabled={!onRun}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'ArrowUp') go(back + 1);
          else if (event.key === 'ArrowDown') go(back - 1);
          else if (event.key === 'Tab' && !event.shiftKey && suggested.length > 0) setText(suggested[0]);
          else return;
          event.preventDefault();
        }}
      />
    </form>
  );
}

/** The word with which a suggestion goes on. */
function ending(suggestion: string, text: string): string {
  const same = text.length - (/[\w/]*$/.exec(text)?.[0].length ?? 0);
  return suggestion.slice(same);
}

function Line({ line: { time, kind, text }, crateId }: { line: ConsoleLine; crateId: string }) {
  const place = kind === 'error' || kind === 'log' ? PLACE.exec(text) : null;
  if (!place)
    return (
      <div className={kind}>
        {time.toFixed(1)} {text}
      </div>
    );
  const [named, file, line] = place;
  return (
    <div className={kind}>
      {time.toFixed(1)} {text.slice(0, place.index)}
      <Link to={`/crates/${crateId}/scripts?file=${encodeURIComponent(file)}&line=${line}`}>{named}</Link>
      {text.slice(place.index + named.length)}
    </div>
  );
}
