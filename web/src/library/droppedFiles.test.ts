import { describe, expect, it } from '@jest/globals';
import { droppedFiles } from './droppedFiles.ts';

/** A dropped entry as browsers describe it. */
const file = (name: string) => ({ name, isFile: true, file: (done: (file: File) => void) => done(new File(['x'], name)) });
const folder = (name: string, children: object[], portion = 2) => ({
  name,
  isFile: false,
  createReader() {
    let at = 0;
    return { readEntries: (done: (entries: object[]) => void) => done(children.slice(at, (at += portion))) };
  },
});
const transfer = (entries: object[]) =>
  ({ items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })), files: [] }) as unknown as DataTransfer;

describe('dropping', () => {
  it('a folder gives all its files with their paths, however many portions it comes in, hidden ones not', async () => {
    const names = ['a.png', 'b.png', 'c.png', '.hidden'].map(file);
    const dropped = await droppedFiles(transfer([folder('moor', [...names, folder('deep', [file('d.obj')])]), file('lone.wav')]));
    expect(dropped.map((f) => f.name)).toEqual(['moor/a.png', 'moor/b.png', 'moor/c.png', 'moor/deep/d.obj', 'lone.wav']);
  });

  it('where a browser tells no entries its plain files are taken', async () => {
    const plain = { items: [{}], files: [new File(['x'], 'a.png')] } as unknown as DataTransfer;
    expect((await droppedFiles(plain)).map((f) => f.name)).toEqual(['a.png']);
  });
});
