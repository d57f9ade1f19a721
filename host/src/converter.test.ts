import { afterAll, describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { encode } from 'fast-png';
import { loadProfile } from '@violet-crate/core/profile/load';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { Converter } from './converter.ts';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');
const png = (level: number, size = 8) =>
  encode({ width: size, height: size, data: new Uint8Array(size * size * 3).fill(level), channels: 3, depth: 8 });
const input = (name: string, bytes: Uint8Array) => ({ file: `${name}.png`, name, bytes });

describe('the converter', () => {
  const converter = new Converter(2);
  afterAll(() => converter.close());

  it('answers every file by itself, the bad ones with their message', async () => {
    const files = [input('a', png(10)), input('b', new Uint8Array(40)), input('c', png(20)), input('d', png(30))];
    const results = await Promise.allSettled(files.map((file) => converter.convert(profile, file)));
    expect(results.map((result) => result.status)).toEqual(['fulfilled', 'rejected', 'fulfilled', 'fulfilled']);
    expect((results[1] as PromiseRejectedResult).reason).toMatchObject({
      name: 'UnreadableInput',
      code: 'image-kind',
      message: expect.stringContaining('b.png is not a PNG file'),
    });
    const [first, , third] = results as PromiseFulfilledResult<{ path: string; files: Map<string, Uint8Array> }>[];
    expect([first.value.path, third.value.path]).toEqual(['textures/a.ktx2', 'textures/c.ktx2']);
    expect(first.value.files.get('sources/textures/a.png')).toEqual(png(10));
  });

  it('a cancelled file is dropped at once, and others go on', async () => {
    const abort = new AbortController();
    const slow = converter.convert(profile, input('slow', png(5, 1024)), abort.signal);
    const other = converter.convert(profile, input('other', png(6)));
    abort.abort();
    await expect(slow).rejects.toMatchObject({ name: 'AbortError' });
    await expect(converter.convert(profile, input('late', png(7)), abort.signal)).rejects.toMatchObject({ name: 'AbortError' });
    expect((await other).path).toBe('textures/other.ktx2');
  });

  it('plans batches and opens archives in its threads', async () => {
    const manifest = {
      format: 1,
      name: 'x',
      title: 'x',
      description: '',
      version: '1.0.0',
      profile: 'brinewick',
      mainMap: 'x',
      authors: [],
      credits: [],
      materials: [],
      assets: {},
    } as const;
    const files = new Map([['moor.zip', writeZip(new Map([['a.png', png(1)]]))]]);
    const plan = await converter.plan(profile, structuredClone(manifest) as never, files);
    expect(plan.units.map((unit) => [unit.file, unit.name])).toEqual([['moor/a.png', 'a']]);
    const archive = writeZip(new Map([['inner.zip', Uint8Array.of(1)]]));
    expect([...(await converter.open('x.zip', archive)).keys()]).toEqual(['inner.zip']);
    await expect(converter.open('x.zip', Uint8Array.of(1, 2, 3))).rejects.toMatchObject({ name: 'UnreadableInput', code: 'zip-invalid' });
  });

  it('what makes the process grow is ended and refused, and its neighbours are converted all the same', async () => {
    // 8192 × 8192 pixels are 256 MiB as RGBA; the others take next to nothing.
    const large = encode({ width: 8192, height: 8192, data: new Uint8Array(8192 * 8192), channels: 1, depth: 8 });
    const small = new Converter(2, { time: 120_000, memory: 120 });
    const [first, second, third] = await Promise.allSettled(
      [input('large', large), input('small', png(1)), input('tiny', png(2))].map((file) => small.convert(profile, file)),
    );
    await small.close();
    expect(first).toMatchObject({
      status: 'rejected',
      reason: { code: 'convert-failed', message: expect.stringContaining('large.png: converting took more memory') },
    });
    expect([second.status, third.status]).toEqual(['fulfilled', 'fulfilled']);
  });

  it('a file that takes too long is ended with its thread, and the next one gets a new thread', async () => {
    const hurried = new Converter(1, { time: 30, memory: 1024 });
    await expect(hurried.convert(profile, input('large', png(1, 1024)))).rejects.toMatchObject({
      code: 'convert-time',
      message: expect.stringContaining('large.png'),
    });
    await hurried.close();
    expect((await converter.convert(profile, input('next', png(2)))).path).toBe('textures/next.ktx2');
  });
});
