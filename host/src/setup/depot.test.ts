/** Downloads against a server that does as it is told: every way in which a depot can go wrong. */

import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import type { DepotVersion } from '@violet-crate/core/setup/depot';
import { offersFor, updateFindings } from '@violet-crate/core/setup/packUpdates';
import { fetchArchive, fetchDepotIndex, needSpace } from './depotClient.ts';
import { unpackInto, unpackWhole } from './unpack.ts';

const BLOCK = 4096;
const archive = randomBytes(BLOCK * 7 + 100);
const hash = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const described = (bytes: Uint8Array): DepotVersion => ({
  version: '1.0.0',
  notes: '',
  bytes: bytes.length,
  unpacked: 0,
  sha256: hash(bytes),
  blockBytes: BLOCK,
  blocks: Array.from({ length: Math.ceil(bytes.length / BLOCK) }, (_, i) => hash(bytes.subarray(i * BLOCK, (i + 1) * BLOCK))),
});

let server: Server;
let url: string;
let answer: (request: IncomingMessage, response: ServerResponse) => void;
const asked: IncomingMessage[] = [];
let folder: string;
let file: string;

/** Bytes from where the request wants them on, as RFC 9110, section 14.2, has it. */
function send(
  request: IncomingMessage,
  response: ServerResponse,
  { until = archive.length, etag = '"a"', bytes = archive as Uint8Array } = {},
): void {
  const from = Number(/^bytes=(\d+)-$/.exec(request.headers.range ?? '')?.[1] ?? 0);
  const whole = request.headers['if-range'] !== undefined && request.headers['if-range'] !== etag;
  const start = whole ? 0 : from;
  response.writeHead(start > 0 ? 206 : 200, {
    etag,
    'content-length': bytes.length - start,
    ...(start > 0 ? { 'content-range': `bytes ${start}-${bytes.length - 1}/${bytes.length}` } : {}),
  });
  response.write(bytes.subarray(start, Math.max(start, until)), () => (until < bytes.length ? response.destroy() : response.end()));
}

beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(request);
    answer(request, response);
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => new Promise((done) => server.close(done)));
beforeEach(() => {
  asked.length = 0;
  folder = mkdtempSync(join(tmpdir(), 'violet-depot-test-'));
  file = join(folder, 'a.zip');
});

const fetched = (change: Partial<Parameters<typeof fetchArchive>[0]> = {}) =>
  fetchArchive({ url, file, version: described(archive), silence: 300, wait: 5, ...change });

describe('an archive', () => {
  it('comes block by block, and says how far it is', async () => {
    answer = (request, response) => send(request, response);
    const seen: number[] = [];
    await fetched({ onProgress: (bytes) => seen.push(bytes) });
    expect(readFileSync(file).equals(archive)).toBe(true);
    expect(seen).toEqual([...seen].sort((a, b) => a - b));
    expect(seen.at(-1)).toBe(archive.length);
  });

  it('goes on behind the last good block when the connection breaks off, with If-Range', async () => {
    answer = (request, response) => send(request, response, { until: asked.length === 1 ? BLOCK * 3 + 77 : archive.length });
    await fetched();
    expect(readFileSync(file).equals(archive)).toBe(true);
    expect(asked.map(({ headers }) => [headers.range, headers['if-range']])).toEqual([
      [undefined, undefined],
      [`bytes=${BLOCK * 3}-`, '"a"'],
    ]);
  });

  it('goes on after its program ended, and what was damaged on disk meanwhile is fetched again', async () => {
    const half = Buffer.from(archive.subarray(0, BLOCK * 4 + 9));
    half[BLOCK * 2 + 5] ^= 1;
    writeFileSync(file, half);
    answer = (request, response) => send(request, response);
    await fetched();
    expect(readFileSync(file).equals(archive)).toBe(true);
    expect(asked[0].headers.range).toBe(`bytes=${BLOCK * 2}-`);
  });

  it('begins anew where it was exchanged meanwhile, and is refused where it is another one', async () => {
    const other = randomBytes(archive.length);
    answer = (request, response) =>
      asked.length === 1 ? send(request, response, { until: BLOCK * 2 }) : send(request, response, { etag: '"b"', bytes: other });
    await expect(fetched()).rejects.toThrow(/Block 1 of 8 is not what the depot's list says/);
    expect(readFileSync(file).length % BLOCK).toBe(0);
  });

  it('that lies about a block is refused, and the good blocks stay', async () => {
    const lie = Buffer.from(archive);
    lie[BLOCK * 5] ^= 1;
    answer = (request, response) => send(request, response, { bytes: lie });
    await expect(fetched()).rejects.toMatchObject({ code: 'depot-hash' });
    expect(statSync(file).size).toBeGreaterThanOrEqual(BLOCK * 5);
    answer = (request, response) => send(request, response);
    await fetched();
    expect(readFileSync(file).equals(archive)).toBe(true);
    expect(asked.at(-1)!.headers.range).toBe(`bytes=${BLOCK * 5}-`);
  });

  it.each<[string, (request: IncomingMessage, response: ServerResponse) => void, string]>([
    ['sends on to elsewhere', (_, response) => response.writeHead(302, { location: 'http://127.0.0.1:1/' }).end(), 'depot-redirect'],
    ['refuses', (_, response) => response.writeHead(503).end(), 'depot-refused'],
    ['has no such range', (_, response) => response.writeHead(416).end(), 'depot-range'],
    ['sends more than it says', (_, response) => void response.end(Buffer.concat([archive, archive])), 'depot-size'],
    ['says nothing', () => undefined, 'depot-cut'],
  ])(
    'of a depot that %s ends in a sentence',
    async (_, how, code) => {
      answer = how;
      await expect(fetched()).rejects.toMatchObject({ code });
    },
    20_000,
  );

  it('stops when it is told to, and its blocks stay', async () => {
    const abort = new AbortController();
    answer = (_, response) => {
      response.writeHead(200, { 'content-length': archive.length });
      response.write(archive.subarray(0, BLOCK * 2));
    };
    await expect(fetched({ signal: abort.signal, onProgress: (bytes) => bytes >= BLOCK * 2 && abort.abort() })).rejects.toMatchObject({
      code: 'depot-cut',
    });
    expect(statSync(file).size).toBe(BLOCK * 2);
  });

  it('that does not fit is said before, with how much is missing', () => {
    expect(() => needSpace(folder, 2 ** 60, 'the archive')).toThrow(/There is too little room for the archive: [\d,]+ MiB are missing/);
  });
});

describe('the list of a depot', () => {
  const index = {
    format: 1,
    title: 'D',
    items: [{ id: 'ropes', kind: 'pack', profile: 'brinewick', title: 'Ropes', brings: '', author: '', licence: '', versions: [described(archive)] }],
  };

  it('is read, and one that cannot be right is refused', async () => {
    answer = (_, response) => void response.end(JSON.stringify(index));
    expect((await fetchDepotIndex(url)).items[0].id).toBe('ropes');
    answer = (_, response) => void response.end('<html>');
    await expect(fetchDepotIndex(url)).rejects.toThrow(/something that is no JSON/);
    answer = (_, response) =>
      void response.end(JSON.stringify({ ...index, items: [{ ...index.items[0], versions: [{ ...described(archive), bytes: 3 }] }] }));
    await expect(fetchDepotIndex(url)).rejects.toThrow(/lists 8 blocks/);
    answer = (_, response) => void response.end(JSON.stringify({ ...index, items: [{ ...index.items[0], kind: 'toaster' }] }));
    await expect(fetchDepotIndex(url)).rejects.toThrow(/items\/0/);
    await expect(fetchDepotIndex('http://127.0.0.1:1')).rejects.toThrow(/does not answer/);
    await expect(fetchDepotIndex('nowhere')).rejects.toThrow(/is not a web address/);
  });

  it('says what can be had, brought up to date and taken back', () => {
    const version = (number: string, game?: string) => ({
      ...described(archive),
      version: number,
      notes: `New in ${number}.`,
      ...(game ? { game } : {}),
    });
    const item = {
      ...index.items[0],
      kind: 'tool' as const,
      versions: [version('2.4.0', '2.4.x'), version('2.5.0', '>=2.5.0'), version('2.4.10', '2.4.x'), version('2.4.2', '2.4.x')],
    };
    const [offer] = offersFor([item], 'brinewick', '2.4.1', { ropes: '2.4.2' });
    expect(offer.versions.map((one) => one.version)).toEqual(['2.4.10', '2.4.2', '2.4.0']);
    expect([offer.update, offer.before]).toEqual(['2.4.10', '2.4.0']);
    expect(updateFindings([offer])[0]).toMatchObject({
      code: 'depot-update',
      message: 'Ropes 2.4.10 is out; 2.4.2 is installed.',
      hint: 'New in 2.4.10.',
    });
    expect(offersFor([item], 'skarrow', null, {})).toEqual([]);
  });
});

describe('unpacking', () => {
  const limits = { entries: 100, bytes: 1 << 20 };
  const zip = (tree: Record<string, string>, runs?: (path: string) => boolean) => {
    writeFileSync(file, writeZip(new Map(Object.entries(tree).map(([path, text]) => [path, new TextEncoder().encode(text)])), runs));
  };

  it('puts all of it there at once, programs with their rights, in the place of what was there', async () => {
    const target = join(folder, 'pack');
    mkdirSync(target);
    writeFileSync(join(target, 'old.txt'), 'old');
    zip({ 'a/b.txt': 'hello', 'bin/run.sh': '#!/bin/sh' }, (path) => path.startsWith('bin/'));
    expect(await unpackWhole(file, target, limits)).toEqual({ files: 2, bytes: 14 });
    expect(readFileSync(join(target, 'a/b.txt'), 'utf8')).toBe('hello');
    expect(statSync(join(target, 'bin/run.sh')).mode & 0o111).toBe(0o111);
    expect(existsSync(join(target, 'old.txt'))).toBe(false);
    expect(readdirSync(folder).sort()).toEqual(['a.zip', 'pack']);
  });

  /** Another value in every entry's place in the directory (APPNOTE 4.3.12), by its offset there. */
  const patched = (at: number, value: number) => {
    const bytes = readFileSync(file);
    for (let i = 0; i + 46 < bytes.length; i++) if (bytes.readUInt32LE(i) === 0x02014b50) bytes.writeUInt32LE(value >>> 0, i + at);
    writeFileSync(file, bytes);
  };

  it.each<[string, () => void, RegExp]>([
    ['leads outside', () => zip({ 'aa/bb.txt': 'x' }), /outside the folder/],
    ['is a link', () => zip({ 'a.txt': '/etc/passwd' }, () => true), /a link or a device/],
    ['is a device', () => zip({ 'a.txt': '' }, () => true), /a link or a device/],
    ['says that it is enormous', () => zip({ 'a.txt': 'x'.repeat(100) }), /more than 1048576 bytes|not as long as it says/],
    ['is larger than it may be', () => zip({ 'a.txt': '0'.repeat(2 << 20) }), /more than 1048576 bytes/],
    ['is no archive', () => writeFileSync(file, 'PK nothing'), /no ZIP archive/],
    ['is cut off', () => (zip({ 'a.txt': 'x'.repeat(5000) }), writeFileSync(file, readFileSync(file).subarray(0, 40))), /no ZIP archive/],
    ['has too many entries', () => zip(Object.fromEntries(Array.from({ length: 101 }, (_, i) => [`${i}`, '']))), /101 entries/],
  ])('of an archive that %s leaves nothing behind', async (what, make, reason) => {
    make();
    if (what === 'leads outside')
      writeFileSync(file, Buffer.from(readFileSync(file).toString('latin1').replaceAll('aa/bb.txt', '../bb.txt'), 'latin1'));
    if (what === 'is a link') patched(38, 0o120777 << 16);
    if (what === 'is a device') patched(38, 0o020666 << 16);
    if (what === 'says that it is enormous') patched(24, 3 << 20);
    const target = join(folder, 'pack');
    mkdirSync(target);
    writeFileSync(join(target, 'old.txt'), 'old');
    await expect(unpackWhole(file, target, limits)).rejects.toThrow(reason);
    expect(readdirSync(target)).toEqual(['old.txt']);
    expect(readdirSync(folder).sort()).toEqual(['a.zip', 'pack']);
    expect(existsSync(join(folder, '../bb.txt'))).toBe(false);
  });

  it('ten gigabytes of zeros end at the limit, not on the disk', async () => {
    // 10 MiB of zeros per entry stand for the rest: what counts is that it stops when the limit is met.
    zip({ 'zeros.bin': '\0'.repeat(10 << 20) });
    patched(24, 1000);
    await expect(unpackInto(file, join(folder, 'out'), limits)).rejects.toThrow(/cannot be unpacked|more than/);
    rmSync(join(folder, 'out'), { recursive: true, force: true });
  });
});
