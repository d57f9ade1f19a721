import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { listFolder, readTree } from './folderTree.ts';
import { readRegular } from './inside.ts';

const folder = () => {
  const at = mkdtempSync(join(tmpdir(), 'violet-tree-'));
  writeFileSync(join(at, 'a.txt'), 'a');
  return at;
};

const LINK = 'it is a link, and links are not followed';

describe('folders of strangers', () => {
  it('links in a circle, links to files, pipes and devices are named and left out', () => {
    const at = folder();
    symlinkSync('self', join(at, 'self'));
    symlinkSync('..', join(at, 'up'));
    symlinkSync('a.txt', join(at, 'link.txt'));
    symlinkSync('/dev/zero', join(at, 'zero.png'));
    symlinkSync('nowhere', join(at, 'gone'));
    execFileSync('mkfifo', [join(at, 'pipe.obj')]);
    const left: Record<string, string> = {};
    const tree = readTree(at, { leftOut: (path, reason) => void (left[path] = reason) });
    expect([...tree.keys()]).toEqual(['a.txt']);
    expect(left).toEqual({
      gone: LINK,
      'link.txt': LINK,
      'pipe.obj': 'it is neither a file nor a folder',
      self: LINK,
      up: LINK,
      'zero.png': LINK,
    });
    expect(readRegular(join(at, 'pipe.obj'))).toBeNull();
  });

  it('beyond its limits of number, size and depth it is refused', () => {
    const at = folder();
    mkdirSync(join(at, 'b/c/d'), { recursive: true });
    writeFileSync(join(at, 'b/c/d/e.txt'), '12345');
    const limits = { files: 2, bytes: 6, depth: 3 };
    expect(listFolder(at, { limits })).toHaveLength(2);
    expect(() => listFolder(at, { limits: { ...limits, files: 1 } })).toThrow(/more than 1 files/);
    expect(() => listFolder(at, { limits: { ...limits, bytes: 5 } })).toThrow(/too large/);
    expect(() => listFolder(at, { limits: { ...limits, depth: 2 } })).toThrow(/3 folders deep/);
    expect(() => listFolder(join(at, 'a.txt'))).toThrow(/is a file, not a folder/);
  });

  it('hidden files are read only where they are asked for', () => {
    const at = folder();
    writeFileSync(join(at, '.hidden'), 'x');
    expect([...readTree(at).keys()]).toEqual(['a.txt']);
    expect([...readTree(at, { hidden: true }).keys()]).toEqual(['.hidden', 'a.txt']);
  });
});
