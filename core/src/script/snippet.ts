/**
 * A shared piece of script: functions, the line that calls them, and whose work it is. Adding one puts the
 * call into the start-up function and the body at the end of the script, both marked by comments, so that
 * it is recognised later and can be taken out cleanly.
 */

import { Type, type Static } from '@sinclair/typebox';
import type { Credit } from '../crate/manifest.ts';
import { readScript } from './check.ts';
import { LuaSyntaxError } from './lexer.ts';
import { parseLua } from './parse.ts';

export const SnippetSchema = Type.Object(
  {
    format: Type.Literal(1),
    title: Type.String({ minLength: 1, maxLength: 80, pattern: '^[^\\n\\r]+$' }),
    author: Type.String({ minLength: 1, maxLength: 80, pattern: '^[^\\n\\r]+$' }),
    licence: Type.String({ minLength: 1, maxLength: 80, pattern: '^[^\\n\\r]+$' }),
    call: Type.String({ description: 'The line that goes into the start-up function; empty if there is none.' }),
    body: Type.String({ minLength: 1, description: 'Functions, appended to the script.' }),
  },
  { additionalProperties: false },
);

export type Snippet = Static<typeof SnippetSchema>;

const mark = (title: string): string => `-- snippet: ${title}`;
const endMark = (title: string): string => `-- end of snippet: ${title}`;
const callMark = (title: string): string => ` -- from snippet: ${title}`;

export const snippetCredit = (snippet: Pick<Snippet, 'title' | 'author' | 'licence'>): Credit => ({
  author: snippet.author,
  work: `${snippet.title} (script)`,
  licence: snippet.licence,
});

/** What is wrong with a snippet for this script, as a sentence, or null if it can be added. */
export function snippetProblem(source: string, snippet: Snippet, startup: string): string | null {
  if (snippetsIn(source).some((known) => known.title === snippet.title)) return `"${snippet.title}" is in this script already.`;
  try {
    parseLua(snippet.body);
  } catch (error) {
    if (error instanceof LuaSyntaxError) return `The body has a syntax error in line ${error.line}: ${error.message}.`;
    throw error;
  }
  try {
    parseLua(snippet.call);
  } catch (error) {
    if (error instanceof LuaSyntaxError) return `The call is not a line of Lua: ${error.message}.`;
    throw error;
  }
  if (/[\r\n]/.test(snippet.call.trim())) return 'The call has to be one line.';
  const own = readScript('script', source);
  if (!own.outline) return `The script has a syntax error: ${own.findings[0].message} Mend it first.`;
  const defined = new Set(own.outline.functions.map((f) => f.name));
  const clash = parseLua(snippet.body).functions.find((f) => f.name !== null && defined.has(f.name));
  if (clash) return `The script has a function ${clash.name} already.`;
  if (snippet.call.trim() !== '' && parseLua(snippet.body).functions.some((f) => f.name === startup)) return `The body defines ${startup} itself.`;
  return null;
}

/** The script with the snippet in it. Call `snippetProblem` first. */
export function addSnippet(source: string, snippet: Snippet, startup: string): string {
  let out = source.replace(/\s*$/, '\n');
  const call = snippet.call.trim();
  if (call !== '') {
    const end = startupEnd(out, startup);
    const line = `  ${call}${callMark(snippet.title)}\n`;
    out = end === null ? `${out}\nfunction ${startup}()\n${line}end\n` : insertBefore(out, end, line);
  }
  return `${out}\n${mark(snippet.title)}\n-- by ${snippet.author}, ${snippet.licence}\n${snippet.body.trim()}\n${endMark(snippet.title)}\n`;
}

/** Offset of the `end` that closes the global start-up function, or null where there is none. */
function startupEnd(source: string, startup: string): number | null {
  const found = parseLua(source).functions.find((f) => f.name === startup);
  return found ? found.to - 'end'.length : null;
}

/** Inserts a whole line before the line on which `offset` stands, or before it where the line holds more. */
function insertBefore(source: string, offset: number, line: string): string {
  const lineStart = source.lastIndexOf('\n', offset - 1) + 1;
  if (source.slice(lineStart, offset).trim() === '') return source.slice(0, lineStart) + line + source.slice(lineStart);
  return `${source.slice(0, offset)}\n${line}${source.slice(offset)}`;
}

/** The snippets that a script holds, as their marks say. */
export function snippetsIn(source: string): Pick<Snippet, 'title' | 'author' | 'licence'>[] {
  return [...source.matchAll(/^-- snippet: (.+)\n-- by (.+), ([^\n]+)$/gm)].map(([, title, author, licence]) => ({ title, author, licence }));
}

/** The script without a snippet: its block, its call, and a start-up function that was made for it alone. */
export function removeSnippet(source: string, title: string, startup: string): string {
  const lines = source.split('\n');
  const from = lines.indexOf(mark(title));
  const to = lines.indexOf(endMark(title), from);
  if (from < 0 || to < 0) return source;
  lines.splice(from, to - from + 1);
  // The empty line that was put before the block.
  if (from > 0 && lines[from - 1] === '') lines.splice(from - 1, 1);
  const kept = lines.filter((line) => !line.endsWith(callMark(title))).join('\n');
  return kept.replace(`\nfunction ${startup}()\nend\n`, '');
}
