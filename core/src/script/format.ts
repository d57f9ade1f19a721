/** Lua with its lines set in by what they lie in; nothing else is changed, so that it means the same. */

import { tokenise } from './lexer.ts';

const OPENS = new Set(['function', 'do', 'then', 'repeat', '{', '(', '[']);
const CLOSES = new Set(['end', 'until', '}', ')', ']']);
/** Ends one part of a block and begins another. */
const BETWEEN = new Set(['else', 'elseif']);
const INDENT = '  ';

/** @throws LuaSyntaxError where a string or comment has no end */
export function formatLua(given: string): string {
  const source = given.replaceAll('\r\n', '\n');
  const lines = source.split('\n');
  const words: string[][] = lines.map(() => []);
  /** Lines that lie within a long string or comment, and stay as they are. */
  const kept = new Set<number>();
  let line = 0;
  let at = 0;
  const walkTo = (offset: number): number => {
    for (; at < offset; at++) if (source.charCodeAt(at) === 10) line++;
    return line;
  };
  const keep = (from: number, to: number) => {
    const first = walkTo(from) + 1;
    for (let i = first; i <= walkTo(to); i++) kept.add(i);
  };
  let before = 0;
  for (const { kind, text, from, to } of tokenise(source)) {
    keepComments(source.slice(before, from), before, keep);
    if (kind === 'string') {
      words[walkTo(from)].push('');
      keep(from, to);
    } else if (kind !== 'end') words[walkTo(from)].push(kind === 'keyword' || kind === 'symbol' ? text : '');
    before = to;
  }
  // What is open, by the line that opened it; lines are set in once for each line that opened something.
  const open: number[] = [];
  let depth = 0;
  const push = (of: number) => {
    if (open.at(-1) !== of) depth++;
    open.push(of);
  };
  const pop = () => {
    const of = open.pop();
    if (of !== undefined && open.at(-1) !== of) depth--;
  };
  const out = lines.map((text, i) => {
    let own: number | null = null;
    for (const word of words[i]) {
      const closes = CLOSES.has(word) || BETWEEN.has(word);
      if (!closes) own ??= depth;
      if (closes) pop();
      if (OPENS.has(word) || word === 'else') {
        own ??= depth;
        push(i);
      }
    }
    own ??= depth;
    const bare = text.trim();
    if (kept.has(i)) return text;
    return bare === '' ? '' : INDENT.repeat(own) + bare;
  });
  return `${out.join('\n').trimEnd()}\n`;
}

/** Long comments of a stretch without tokens. */
function keepComments(gap: string, offset: number, keep: (from: number, to: number) => void): void {
  for (let at = gap.indexOf('--'); at >= 0;) {
    const long = /^--\[(=*)\[/.exec(gap.slice(at, at + 64));
    const end = long ? gap.indexOf(`]${long[1]}]`, at) : gap.indexOf('\n', at);
    const to = end < 0 ? gap.length : end + (long ? long[1].length + 2 : 0);
    if (long) keep(offset + at, offset + to);
    at = gap.indexOf('--', to);
  }
}
