/**
 * ZIP archives (PKWARE APPNOTE 6.3). Packing and unpacking are `fflate`'s; this file reads the directory
 * first, so that nothing is unpacked that would write outside its folder or is larger than allowed.
 */

import { inflateSync, Zip, zipSync, type ZipInputFile, type Zippable } from 'fflate';
import { nativeZlib } from '../../native.ts';
import { UnreadableInput } from '../../unreadable.ts';
import type { FileTree } from '../../crate/fileTree.ts';

export interface ZipLimits {
  /** Bytes of one entry and of all together, unpacked. */
  maxEntry: number;
  maxTotal: number;
  maxEntries: number;
}

export const ZIP_LIMITS: ZipLimits = { maxEntry: 256 << 20, maxTotal: 2 ** 29, maxEntries: 10000 };

/** Above so many bytes an archive may not unpack to more than so many times its size: pictures of one colour do, games' folders do not. */
const RATIO_FROM = 64 << 20;
const MAX_RATIO = 200;

const END_SIGNATURE = 0x06054b50;
const ENTRY_SIGNATURE = 0x02014b50;
const LOCAL_SIGNATURE = 0x04034b50;

export interface ZipEntry {
  path: string;
  bytes: number;
  packedBytes: number;
  method: number;
  crc: number;
  /** Offset of the local header. */
  offset: number;
}

/** CRC-32 as in ISO 3309 and ITU-T V.42, reflected, polynomial 0xEDB88320. */
export const crc32 = (data: Uint8Array): number => nativeZlib?.crc32?.(data) ?? crc32InScript(data);

/** Where the platform has none. */
export function crc32InScript(data: Uint8Array): number {
  let crc = ~0;
  for (let i = 0; i < data.length; i++) crc = CRC_TABLE[(crc ^ data[i]) & 255] ^ (crc >>> 8);
  return ~crc >>> 0;
}

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

/** Reads the central directory and refuses what is not safe to unpack. Nothing is unpacked yet. */
export function listZip(bytes: Uint8Array, file: string, limits: ZipLimits = ZIP_LIMITS): ZipEntry[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fail = (message: string, byte: number, hint?: string): never => {
    throw new UnreadableInput('zip-invalid', `${file}: ${message} (byte ${byte}).`, { file, byte }, hint);
  };
  let end = -1;
  for (let i = bytes.length - 22; i >= Math.max(0, bytes.length - 22 - 65535); i--) {
    if (view.getUint32(i, true) === END_SIGNATURE) {
      end = i;
      break;
    }
  }
  if (end < 0) fail('not a ZIP archive, or its end is missing', bytes.length, 'Fetch or copy the file again; it may be cut off.');
  const count = view.getUint16(end + 10, true);
  let at = view.getUint32(end + 16, true);
  if (count > limits.maxEntries) fail(`${count} entries; at most ${limits.maxEntries} are taken`, end);
  const entries: ZipEntry[] = [];
  const seen = new Set<string>();
  let total = 0;
  for (let i = 0; i < count; i++) {
    if (at + 46 > bytes.length || view.getUint32(at, true) !== ENTRY_SIGNATURE) fail('the directory of the archive is damaged', at);
    const nameLength = view.getUint16(at + 28, true);
    const path = new TextDecoder().decode(bytes.subarray(at + 46, at + 46 + nameLength)).replaceAll('\\', '/');
    const entry: ZipEntry = {
      path,
      method: view.getUint16(at + 10, true),
      crc: view.getUint32(at + 16, true),
      packedBytes: view.getUint32(at + 20, true),
      bytes: view.getUint32(at + 24, true),
      offset: view.getUint32(at + 42, true),
    };
    if (path.startsWith('/') || /^[A-Za-z]:/.test(path) || path.split('/').includes('..') || path.includes('\0')) {
      throw new UnreadableInput(
        'zip-path',
        `${file}: entry "${path}" would be written outside the folder (byte ${at}).`,
        { file, byte: at },
        'Nothing was unpacked. Do not trust this archive.',
      );
    }
    total += entry.bytes;
    if (entry.bytes > limits.maxEntry || total > limits.maxTotal) {
      throw new UnreadableInput(
        'zip-too-large',
        `${file}: entry "${path}" brings the unpacked size to ${total} bytes; at most ${limits.maxTotal} are taken (byte ${at}).`,
        { file, byte: at },
        'Nothing was unpacked.',
      );
    }
    if (total > RATIO_FROM && total > MAX_RATIO * bytes.length) {
      throw new UnreadableInput(
        'zip-too-large',
        `${file}: ${bytes.length} bytes would unpack to more than ${MAX_RATIO} times their size (byte ${at}).`,
        { file, byte: at },
        'Nothing was unpacked. Do not trust this archive.',
      );
    }
    if (!path.endsWith('/')) {
      if (seen.has(path)) fail(`entry "${path}" is there twice`, at);
      seen.add(path);
      entries.push(entry);
    }
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  const blocked = fileAndFolder([...seen]);
  if (blocked) fail(`"${blocked}" is a file and a folder`, end);
  return entries;
}

/** The first of some paths that is a file and, by another path, a folder: no disk can hold both. */
function fileAndFolder(paths: readonly string[]): string | null {
  const files = new Set(paths);
  for (const path of paths)
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) if (files.has(path.slice(0, at))) return path.slice(0, at);
  return null;
}

/** DEFLATE (RFC 1951) of a known size. @throws where it is damaged or would be longer */
function inflated(packed: Uint8Array, bytes: number): Uint8Array {
  if (!nativeZlib || bytes === 0) return inflateSync(packed, { out: new Uint8Array(bytes) });
  const { buffer, byteOffset, byteLength } = nativeZlib.inflateRawSync(packed, { maxOutputLength: bytes });
  return new Uint8Array(buffer, byteOffset, byteLength);
}

export function readZip(bytes: Uint8Array, file: string, limits: ZipLimits = ZIP_LIMITS): FileTree {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tree: FileTree = new Map();
  for (const entry of listZip(bytes, file, limits)) {
    const fail = (message: string): never => {
      throw new UnreadableInput('zip-entry', `${file}: entry "${entry.path}" ${message} (byte ${entry.offset}).`, { file, byte: entry.offset });
    };
    if (entry.offset + 30 > bytes.length || view.getUint32(entry.offset, true) !== LOCAL_SIGNATURE) fail('has no local header');
    const start = entry.offset + 30 + view.getUint16(entry.offset + 26, true) + view.getUint16(entry.offset + 28, true);
    if (start + entry.packedBytes > bytes.length) fail('is cut off');
    const packed = bytes.subarray(start, start + entry.packedBytes);
    let data: Uint8Array;
    if (entry.method === 0) data = packed.slice();
    else if (entry.method === 8) {
      try {
        // The output buffer is as large as declared, so a lying entry cannot grow beyond it.
        data = inflated(packed, entry.bytes);
      } catch {
        return fail('is damaged');
      }
    } else return fail(`is packed by method ${entry.method}; only 0 and 8 are read`);
    if (data.length !== entry.bytes || crc32(data) !== entry.crc) fail('does not match its checksum');
    tree.set(entry.path, data);
  }
  return tree;
}

/** Already packed data does not shrink again. */
const STORED = /\.(png|jpe?g|ktx2|ogg|mp3)$/i;
/** The earliest time that a ZIP can carry, for reproducible archives. */
const EPOCH = new Date(1980, 0, 1, 0, 0, 0);

/** Rights of a program for whoever unpacks it: rwxr-xr-x of a regular file, in the upper half of the attributes (APPNOTE 4.4.15). */
const RUNNABLE = 0o100755 << 16;

/** Packs a tree, paths in code-unit order, fixed times: equal trees give equal bytes. `runs` says which files are programs. */
export const writeZip = (tree: FileTree, runs: (path: string) => boolean = () => false): Uint8Array => zipSync(zippable(tree, runs));

/** The same files, packed beside each other by the platform's own deflate (RFC 1951). Equal trees give equal bytes on one platform. */
export async function writeZipApart(tree: FileTree): Promise<Uint8Array> {
  const files = await Promise.all(
    [...tree.keys()].sort().map(async (filename) => {
      const bytes = tree.get(filename)!;
      const stored = STORED.test(filename);
      return { filename, bytes, compression: stored ? 0 : 8, packed: stored ? bytes : await deflated(bytes) };
    }),
  );
  const chunks: BlobPart[] = [];
  const archive = new Zip((error, chunk) => {
    if (error) throw error;
    chunks.push(chunk as BlobPart);
  });
  for (const { filename, bytes, compression, packed } of files) {
    const file: ZipInputFile = { filename, size: bytes.length, crc: crc32(bytes), compression, mtime: EPOCH };
    archive.add(file);
    file.ondata!(null, packed as Uint8Array<ArrayBuffer>, true);
  }
  archive.end();
  return new Uint8Array(await new Blob(chunks).arrayBuffer());
}

const deflated = async (bytes: Uint8Array): Promise<Uint8Array> =>
  new Uint8Array(await new Response(new Blob([bytes as BlobPart]).stream().pipeThrough(new CompressionStream('deflate-raw'))).arrayBuffer());

function zippable(tree: FileTree, runs: (path: string) => boolean) {
  const content: Zippable = {};
  for (const path of [...tree.keys()].sort())
    content[path] = [tree.get(path)!, { level: STORED.test(path) ? 0 : 6, mtime: EPOCH, ...(runs(path) ? { os: 3, attrs: RUNNABLE } : {}) }];
  return content;
}
