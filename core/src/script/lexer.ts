/** Tokens of Lua 5.4 (Lua 5.4 Reference Manual, §3.1). */

export type TokenKind = 'name' | 'keyword' | 'string' | 'number' | 'symbol' | 'end';

export interface Token {
  kind: TokenKind;
  text: string;
  /** Offsets into the source: [from, to). */
  from: number;
  to: number;
  line: number;
}

export class LuaSyntaxError extends Error {
  override name = 'LuaSyntaxError';
  constructor(
    message: string,
    readonly line: number,
    readonly from: number,
    readonly to: number,
  ) {
    super(message);
  }
}

const KEYWORDS = new Set(
  'and break do else elseif end false for function goto if in local nil not or repeat return then true until while'.split(' '),
);
const SYMBOLS = [
  '...',
  '<<',
  '>>',
  '//',
  '==',
  '~=',
  '<=',
  '>=',
  '::',
  '..',
  '+',
  '-',
  '*',
  '/',
  '%',
  '^',
  '#',
  '&',
  '~',
  '|',
  '<',
  '>',
  '=',
  '(',
  ')',
  '{',
  '}',
  '[',
  ']',
  ';',
  ':',
  ',',
  '.',
];
const NUMBER = /0[xX](?:[0-9a-fA-F]+\.?[0-9a-fA-F]*|\.[0-9a-fA-F]+)(?:[pP][+-]?[0-9]+)?|(?:[0-9]+\.?[0-9]*|\.[0-9]+)(?:[eE][+-]?[0-9]+)?/y;
const NAME = /[A-Za-z_][A-Za-z0-9_]*/y;
const LONG_OPEN = /\[(=*)\[/y;

export function tokenise(source: string): Token[] {
  const tokens: Token[] = [];
  let at = source.startsWith('#') ? endOfLine(source, 0) : 0;
  let line = 1;

  const fail = (message: string, from: number, to = from + 1): never => {
    throw new LuaSyntaxError(message, line, from, Math.min(Math.max(to, from), source.length));
  };
  const push = (kind: TokenKind, from: number, to: number, startLine = line) =>
    tokens.push({ kind, text: source.slice(from, to), from, to, line: startLine });
  const match = (pattern: RegExp): RegExpExecArray | null => {
    pattern.lastIndex = at;
    return pattern.exec(source);
  };
  /** Skips a long bracket that opens here; answers false where none does. */
  const longBracket = (what: string): boolean => {
    const open = match(LONG_OPEN);
    if (!open) return false;
    const close = source.indexOf(`]${open[1]}]`, at + open[0].length);
    if (close < 0) fail(`unfinished long ${what}`, at, at + open[0].length);
    const end = close + open[1].length + 2;
    line += countLines(source, at, end);
    at = end;
    return true;
  };

  while (at < source.length) {
    const c = source[at];
    if (c === '\n') {
      line++;
      at++;
    } else if (c === ' ' || c === '\t' || c === '\r' || c === '\f' || c === '\v') at++;
    else if (source.startsWith('--', at)) {
      at += 2;
      if (!longBracket('comment')) at = endOfLine(source, at);
    } else if (c === '"' || c === "'") {
      const [from, startLine] = [at, line];
      at = stringEnd(source, at, fail, () => line++);
      push('string', from, at, startLine);
    } else if (c === '[' && match(LONG_OPEN)) {
      const [from, startLine] = [at, line];
      longBracket('string');
      push('string', from, at, startLine);
    } else if (/[0-9]/.test(c) || (c === '.' && /[0-9]/.test(source[at + 1] ?? ''))) {
      const number = match(NUMBER)!;
      const end = at + number[0].length;
      if (/[A-Za-z0-9_.]/.test(source[end] ?? '') || /^0[xX]$/.test(number[0]))
        fail(`malformed number near '${source.slice(at, end + 1)}'`, at, end + 1);
      push('number', at, end);
      at = end;
    } else if (/[A-Za-z_]/.test(c)) {
      const name = match(NAME)![0];
      push(KEYWORDS.has(name) ? 'keyword' : 'name', at, at + name.length);
      at += name.length;
    } else {
      const symbol = SYMBOLS.find((s) => source.startsWith(s, at)) ?? fail(`unexpected symbol near '${c}'`, at);
      push('symbol', at, at + symbol.length);
      at += symbol.length;
    }
  }
  push('end', source.length, source.length);
  return tokens;
}

function endOfLine(source: string, from: number): number {
  const end = source.indexOf('\n', from);
  return end < 0 ? source.length : end;
}

function countLines(source: string, from: number, to: number): number {
  let lines = 0;
  for (let i = from; i < to; i++) if (source[i] === '\n') lines++;
  return lines;
}

/** End of a quoted string; checks the escapes of §3.1. */
function stringEnd(source: string, from: number, fail: (message: string, from: number, to?: number) => never, onLine: () => void): number {
  const quote = source[from];
  let at = from + 1;
  for (;;) {
    const c = source[at];
    if (c === undefined || c === '\n') fail('unfinished string', from, at);
    if (c === quote) return at + 1;
    if (c !== '\\') {
      at++;
      continue;
    }
    const e = source[at + 1];
    if (e === undefined) fail('unfinished string', from, at);
    if ('abfnrtv\\"\''.includes(e)) at += 2;
    else if (e === '\n') {
      onLine();
      at += 2;
    } else if (e === 'z') {
      at += 2;
      while (/\s/.test(source[at] ?? '')) {
        if (source[at] === '\n') onLine();
        at++;
      }
    } else if (e === 'x') {
      if (!/^[0-9a-fA-F]{2}$/.test(source.slice(at + 2, at + 4))) fail('hexadecimal digit expected in \\x', at, at + 4);
      at += 4;
    } else if (e === 'u') {
      const code = /^\{([0-9a-fA-F]+)\}/.exec(source.slice(at + 2, at + 16));
      if (!code || parseInt(code[1], 16) >= 2 ** 31) fail('bad \\u{} escape', at, at + 3);
      at += 2 + code![0].length;
    } else if (/[0-9]/.test(e)) {
      const digits = /^[0-9]{1,3}/.exec(source.slice(at + 1, at + 4))![0];
      if (Number(digits) > 255) fail('decimal escape too large', at, at + 4);
      at += 1 + digits.length;
    } else fail(`invalid escape sequence '\\${e}'`, at, at + 2);
  }
}
