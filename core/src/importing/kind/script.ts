import { sha256Hex } from '../../hash.ts';
import { UnreadableInput } from '../../unreadable.ts';
import type { ImportKind } from './made.ts';

export const script: ImportKind = {
  options: [],
  convert(_profile, { file, bytes, name, fromPack }) {
    const path = `scripts/${name}.lua`;
    let text: string;
    try {
      text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    } catch {
      throw new UnreadableInput('text-encoding', `${file} is not UTF-8 text.`, { file }, 'Save the file as UTF-8.');
    }
    // A syntax error is no reason to refuse it: the editor is where it gets mended, and the tray names it.
    const content = text.replaceAll('\r\n', '\n');
    return Promise.resolve({
      path,
      files: new Map([[path, new TextEncoder().encode(content)]]),
      record: null,
      scriptOrigin: { path: file, sha256: sha256Hex(content), ...(fromPack ? { pack: fromPack } : {}) },
      findings: [],
    });
  },
};
