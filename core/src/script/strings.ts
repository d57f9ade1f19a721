import { LuaSyntaxError, tokenise } from './lexer.ts';

export interface LuaString {
  value: string;
  /** Offsets of the literal, quotes included. */
  from: number;
  to: number;
  line: number;
}

/** The quoted strings of a script that need no escapes; none where its tokens cannot be read. */
export function stringsOf(source: string): LuaString[] {
  try {
    return tokenise(source).flatMap((token) => {
      const quoted = token.kind === 'string' ? /^(["'])([^\\]*)\1$/s.exec(source.slice(token.from, token.to)) : null;
      return quoted ? [{ value: quoted[2], from: token.from, to: token.to, line: token.line }] : [];
    });
  } catch (error) {
    if (error instanceof LuaSyntaxError) return [];
    throw error;
  }
}

/** The script with every string that is exactly `from` made `to`. */
export function replaceStrings(source: string, from: string, to: string): string {
  let out = '';
  let at = 0;
  for (const literal of stringsOf(source)) {
    if (literal.value !== from) continue;
    const quote = source[literal.from];
    out += source.slice(at, literal.from) + quote + to + quote;
    at = literal.to;
  }
  return out + source.slice(at);
}
