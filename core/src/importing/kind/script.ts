import { sha256Hex } from '../../hash.ts';
import { UnreadableInput } from '../../unreadable.ts';
import type { ImportInput, ImportKind, Made } from './made.ts';

/** What lies in a crate as the text that it is: with line ends of one character, and where it came from. */
export function madeOfText({ file, bytes, fromPack }: ImportInput, path: string): Made & { text: string } {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes).replaceAll('\r\n', '\n');
  } catch {
    throw new UnreadableInput('text-encoding', `${file} is not UTF-8 text.`, { file }, 'Save the file as UTF-8.');
  }
  return {
    text,
    path,
    files: new Map([[path, new TextEncoder().encode(text)]]),
    record: null,
    scriptOrigin: { path: file, sha256: sha256Hex(text), ...(fromPack ? { pack: fromPack } : {}) },
    findings: [],
  };
}

export const script: ImportKind = {
  options: [],
  // A syntax error is no reason to refuse it: the editor is where it gets mended, and the tray names it.
  convert: (_profile, input) => Promise.resolve(madeOfText(input, `scripts/${input.name}.lua`)),
};
