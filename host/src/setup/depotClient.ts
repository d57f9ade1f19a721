/** Asks a depot what it has, and fetches an archive of it block by block. */

import { createHash } from 'node:crypto';
import { closeSync, existsSync, fstatSync, fsyncSync, ftruncateSync, mkdirSync, openSync, readSync, statfsSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { Value } from '@sinclair/typebox/value';
import { blockLength, DepotIndexSchema, type DepotIndex, type DepotVersion } from '@violet-crate/core/setup/depot';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { diskFull } from '../diskFull.ts';

/** Bytes of an index, milliseconds without a byte, and attempts after a connection broke off. */
const INDEX_BYTES = 64 << 20;
const SILENCE = 20_000;
const ATTEMPTS = 5;

/** An address without what is not wanted in one. @throws UnreadableInput where it is none */
function base(depot: string): string {
  try {
    const url = new URL(depot);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') throw new Error();
    return url.href.replace(/\/$/, '');
  } catch {
    throw new UnreadableInput('depot-address', `"${depot}" is not a web address.`, {}, 'It looks like http://127.0.0.1:4281/depot.');
  }
}

const wrong = (code: string, message: string, hint?: string) => new UnreadableInput(code, message, {}, hint);

interface Call {
  response: Response;
  pieces(): AsyncGenerator<Uint8Array>;
  /** Lets go of the connection; needed where the pieces are not read. */
  end(): void;
}

/** A request that is given up when nothing comes for a while, or when `signal` says so. Redirects are refused. */
async function call(url: string, headers: Record<string, string>, signal?: AbortSignal, silence = SILENCE): Promise<Call> {
  const abort = new AbortController();
  const stop = () => abort.abort();
  signal?.addEventListener('abort', stop);
  if (signal?.aborted) stop();
  let timer: NodeJS.Timeout | undefined;
  const wait = () => {
    clearTimeout(timer);
    timer = setTimeout(stop, silence);
  };
  const leave = () => {
    clearTimeout(timer);
    signal?.removeEventListener('abort', stop);
  };
  const { origin } = new URL(url);
  const cut = () =>
    wrong(
      'depot-cut',
      abort.signal.aborted && !signal?.aborted
        ? `The depot at ${origin} said nothing for ${silence / 1000} seconds.`
        : `The connection to the depot at ${origin} broke off.`,
    );
  wait();
  let response: Response;
  try {
    response = await fetch(url, { headers, signal: abort.signal, redirect: 'manual' });
  } catch {
    leave();
    if (abort.signal.aborted) throw cut();
    throw wrong('depot-unreachable', `The depot at ${origin} does not answer.`, 'Check its address in the preferences, and that it runs.');
  }
  if (response.status >= 300 && response.status < 400 && response.status !== 304) {
    leave();
    abort.abort();
    throw wrong(
      'depot-redirect',
      `The depot at ${origin} sends on to another place, which is refused.`,
      'Ask whoever runs it for its right address.',
    );
  }
  const end = () => {
    leave();
    abort.abort();
  };
  return {
    response,
    end,
    async *pieces() {
      try {
        const reader = response.body?.getReader();
        for (let next = await reader?.read(); next && !next.done; next = await reader!.read()) {
          wait();
          yield next.value;
        }
      } catch {
        throw cut();
      } finally {
        end();
      }
    },
  };
}

/** What a depot has. @throws UnreadableInput where it does not answer, or with something else */
export async function fetchDepotIndex(depot: string, signal?: AbortSignal): Promise<DepotIndex> {
  const url = `${base(depot)}/index.json`;
  const { origin } = new URL(url);
  const { response, pieces } = await call(url, {}, signal);
  let length = 0;
  const chunks: Uint8Array[] = [];
  for await (const piece of pieces()) {
    length += piece.length;
    if (length > INDEX_BYTES) throw wrong('depot-answer', `The depot at ${origin} answered with more than ${INDEX_BYTES} bytes.`);
    chunks.push(piece);
  }
  if (!response.ok)
    throw wrong('depot-refused', `The depot at ${origin} answered with status ${response.status}.`, 'Check its address in the preferences.');
  let answer: unknown;
  try {
    answer = JSON.parse(Buffer.concat(chunks).toString('utf8'));
  } catch {
    throw wrong('depot-answer', `The depot at ${origin} answered with something that is no JSON.`, 'Check its address in the preferences.');
  }
  const error = Value.Errors(DepotIndexSchema, answer).First();
  if (error) throw wrong('depot-answer', `The depot at ${origin} answered with a list whose ${error.path.slice(1) || 'form'} is not right.`);
  const index = answer as DepotIndex;
  for (const { id, versions } of index.items)
    for (const one of versions)
      if (one.blocks.length !== Math.ceil(one.bytes / one.blockBytes))
        throw wrong(
          'depot-answer',
          `The depot lists ${one.blocks.length} blocks for ${id} ${one.version}, which cannot be right for ${one.bytes} bytes.`,
        );
  return index;
}

export interface Fetching {
  /** Address of the archive, and the file that it is written into; what of that is good already is not fetched again. */
  url: string;
  file: string;
  version: DepotVersion;
  signal?: AbortSignal;
  /** Bytes that are there and right. */
  onProgress?(bytes: number): void;
  /** Milliseconds without a byte after which the other side counts as gone. */
  silence?: number;
  /** Milliseconds before the first new attempt; each waits twice as long as the one before. */
  wait?: number;
}

export const archiveUrl = (depot: string, id: string, version: string): string => `${base(depot)}/items/${id}/${version}`;

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/**
 * Fetches an archive onto disk. Every block is compared with its hash before it counts; a connection that breaks off is taken up again
 * behind the last good block, with a range that holds only while the archive is the same (RFC 9110, 13.1.5 and 14.2).
 *
 * @throws UnreadableInput `depot-…`, `disk-full`; the good blocks stay for the next time
 */
export async function fetchArchive(order: Fetching): Promise<void> {
  const { file, version } = order;
  mkdirSync(dirname(file), { recursive: true });
  const handle = openSync(file, existsSync(file) ? 'r+' : 'w+');
  try {
    let at = checkedBlocks(handle, version);
    needSpace(dirname(file), version.bytes - at * version.blockBytes, 'the archive');
    let etag: string | null = null;
    for (let attempt = 0; at < version.blocks.length;) {
      order.onProgress?.(at * version.blockBytes);
      try {
        const from = at * version.blockBytes;
        const headers: Record<string, string> = from > 0 ? { range: `bytes=${from}-`, ...(etag ? { 'if-range': etag } : {}) } : {};
        const { response, pieces, end } = await call(order.url, headers, order.signal, order.silence);
        if (!response.ok) end();
        if (response.status === 416) throw wrong('depot-range', 'The depot’s archive is shorter than it says.', 'Tell whoever runs it.');
        if (!response.ok) throw wrong('depot-refused', `The depot refused the archive: status ${response.status}.`);
        etag = response.headers.get('etag');
        // A whole answer where a part was asked for: the archive changed, or the depot knows no ranges. It begins anew.
        if (from > 0 && response.status !== 206) at = 0;
        const next = await takeBlocks(order, handle, at, pieces());
        if (next > at) attempt = 0;
        at = next;
        if (at < version.blocks.length) throw wrong('depot-cut', 'The connection to the depot broke off.');
      } catch (error) {
        if (!(error instanceof UnreadableInput) || error.code !== 'depot-cut' || order.signal?.aborted || ++attempt >= ATTEMPTS) throw error;
        at = Math.max(at, checkedBlocks(handle, version));
        await new Promise((done) => setTimeout(done, (order.wait ?? 400) * 2 ** (attempt - 1)));
      }
    }
    ftruncateSync(handle, version.bytes);
    fsyncSync(handle);
    order.onProgress?.(version.bytes);
  } catch (error) {
    throw diskFull(error, dirname(file), version.bytes) ?? error;
  } finally {
    closeSync(handle);
  }
}

/** Writes blocks as they become whole, from block `at` on; answers the first that is not there yet. */
async function takeBlocks({ version, onProgress }: Fetching, handle: number, at: number, pieces: AsyncGenerator<Uint8Array>): Promise<number> {
  let block = at;
  let held = Buffer.alloc(0);
  for await (const piece of pieces) {
    held = held.length === 0 ? Buffer.from(piece) : Buffer.concat([held, piece]);
    while (block < version.blocks.length && held.length >= blockLength(version, block)) {
      const length = blockLength(version, block);
      const bytes = held.subarray(0, length);
      if (sha256(bytes) !== version.blocks[block])
        throw wrong(
          'depot-hash',
          `Block ${block + 1} of ${version.blocks.length} is not what the depot's list says.`,
          'Try again. If it happens again, the depot’s archive is damaged or was exchanged; do not use it.',
        );
      for (let done = 0; done < length;) done += writeSync(handle, bytes, done, length - done, block * version.blockBytes + done);
      held = held.subarray(length);
      block++;
      onProgress?.(Math.min(version.bytes, block * version.blockBytes));
    }
    if (block === version.blocks.length && held.length > 0) throw wrong('depot-size', 'The depot sends more than it says.');
  }
  return block;
}

/** How many blocks from the beginning are right. What lies behind them is cut off. */
function checkedBlocks(handle: number, version: DepotVersion): number {
  const { size } = fstatSync(handle);
  const buffer = Buffer.alloc(version.blockBytes);
  let good = 0;
  for (; good < version.blocks.length; good++) {
    const length = blockLength(version, good);
    if (good * version.blockBytes + length > size) break;
    if (readSync(handle, buffer, 0, length, good * version.blockBytes) < length || sha256(buffer.subarray(0, length)) !== version.blocks[good]) break;
  }
  ftruncateSync(handle, Math.min(version.bytes, good * version.blockBytes));
  return good;
}

/** @throws UnreadableInput where a folder's disk has too little room, with how much is missing */
export function needSpace(folder: string, bytes: number, what: string): void {
  const { bavail, bsize } = statfsSync(folder);
  const missing = bytes - bavail * bsize;
  if (missing > 0)
    throw wrong(
      'disk-space',
      `There is too little room for ${what}: ${Math.ceil(missing / (1 << 20)).toLocaleString('en')} MiB are missing.`,
      `Free space on the disk of ${folder}.`,
    );
}
