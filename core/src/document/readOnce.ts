import { UnreadableInput } from '../unreadable.ts';

/** Files that are kept as they were read. */
const KEPT = 500;

/** A reader that reads a file again only when its text is another one: checks ask for all of them at every edit. */
export function readOnce<T>(read: (text: string, path: string) => T): (text: string, path: string) => T | UnreadableInput {
  const known = new Map<string, { text: string; value: T | UnreadableInput }>();
  return (text, path) => {
    const before = known.get(path);
    if (before?.text === text) return before.value;
    let value: T | UnreadableInput;
    try {
      value = read(text, path);
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      value = error;
    }
    if (known.size >= KEPT) known.clear();
    known.set(path, { text, value });
    return value;
  };
}
