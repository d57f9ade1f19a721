import { mkdtempSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from '@jest/globals';
import { BlobStore } from './blobStore.ts';

it('what is read is what was stored, or an error; storing it again mends it', () => {
  const store = new BlobStore(mkdtempSync(join(tmpdir(), 'violet-blobs-')));
  const content = new TextEncoder().encode('function startup() end\n');
  const sha256 = store.put(content);
  expect(store.read(sha256)).toEqual(content);
  expect([store.look(sha256, content.length), store.damageOf(sha256)]).toEqual([null, null]);
  const harm: [string, () => void][] = [
    ['damaged', () => truncateSync(store.pathOf(sha256), 0)],
    // As long as it was, and another one.
    ['damaged', () => writeFileSync(store.pathOf(sha256), 'function startup() enD\n')],
    ['missing', () => rmSync(store.pathOf(sha256))],
  ];
  for (const [what, damage] of harm) {
    damage();
    expect(() => store.read(sha256)).toThrow(new RegExp(`is ${what} on the disk`));
    expect([store.damageOf(sha256), store.look(sha256, content.length)]).toEqual([what, what]);
    store.put(content);
    expect([store.read(sha256), store.look(sha256, content.length)]).toEqual([content, null]);
  }
});
