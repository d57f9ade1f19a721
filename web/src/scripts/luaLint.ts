import type { Diagnostic } from '@codemirror/lint';
import { LuaSyntaxError } from '@violet-crate/core/script/lexer';
import { readScript, SCRIPT_LIMIT } from '@violet-crate/core/script/check';
import { parseLua } from '@violet-crate/core/script/parse';

/** The first syntax error of a Lua source, at its place. */
export function luaDiagnostics(source: string): Diagnostic[] {
  if (source.length > SCRIPT_LIMIT) return [{ from: 0, to: 1, severity: 'error', message: readScript('This script', source).findings[0].message }];
  try {
    parseLua(source);
    return [];
  } catch (error) {
    if (!(error instanceof LuaSyntaxError)) throw error;
    const from = Math.min(error.from, source.length);
    return [{ from, to: Math.max(from, Math.min(error.to, source.length)), severity: 'error', message: `Line ${error.line}: ${error.message}` }];
  }
}
