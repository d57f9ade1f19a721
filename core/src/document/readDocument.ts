import type { Static, TSchema } from '@sinclair/typebox';
import { Value } from '@sinclair/typebox/value';
import { UnreadableInput } from '../unreadable.ts';
import { isTooDeep, MOST_DEPTH } from '../jsonDepth.ts';

/**
 * Reads a JSON document that must match `schema`. Throws `UnreadableInput` naming the line of a syntax
 * error, or the path of the first member that does not match.
 */
export function readDocument<T extends TSchema>(text: string, schema: T, file: string): Static<T> {
  if (isTooDeep(text))
    throw new UnreadableInput(
      'document-deep',
      `${file} is nested more than ${MOST_DEPTH} levels deep.`,
      { file },
      'Nothing of ours writes such a file.',
    );
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    const position = /position (\d+)/.exec(String(error))?.[1];
    const offset = position === undefined ? text.length : Number(position);
    const line = text.slice(0, offset).split('\n').length;
    throw new UnreadableInput(
      'document-syntax',
      `${file} is not valid JSON at line ${line}.`,
      { file, line, byte: offset },
      'Undo the last change to this file, or restore it from the history.',
    );
  }
  const first = Value.Errors(schema, value).First();
  if (first) {
    throw new UnreadableInput(
      'document-schema',
      `${file}: ${first.path || 'the document'}: ${first.message}.`,
      { file },
      'The expected form is in docs/formats.md.',
    );
  }
  return value as Static<T>;
}
