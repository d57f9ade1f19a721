import { open } from 'node:fs/promises';
import type { Response } from 'express';

type Check = (head: Buffer) => boolean;

const starts =
  (...marks: string[]): Check =>
  (head) =>
    marks.some((mark) => head.subarray(0, mark.length).toString('latin1') === mark);
const riff =
  (form: string): Check =>
  (head) =>
    starts('RIFF')(head) && head.subarray(8, 12).toString('latin1') === form;

/** What pages show of files of users, games, packs and depots: by ending, with how such a file begins. All else is bytes. */
const SHOWN: Record<string, [type: string, check: Check]> = {
  png: ['image/png', starts('\x89PNG\r\n\x1a\n')],
  jpg: ['image/jpeg', starts('\xff\xd8\xff')],
  jpeg: ['image/jpeg', starts('\xff\xd8\xff')],
  webp: ['image/webp', riff('WEBP')],
  gif: ['image/gif', starts('GIF8')],
  ktx2: ['image/ktx2', starts('\xabKTX 20\xbb\r\n\x1a\n')],
  glb: ['model/gltf-binary', starts('glTF')],
  wav: ['audio/wav', riff('WAVE')],
  ogg: ['audio/ogg', starts('OggS')],
  flac: ['audio/flac', starts('fLaC')],
  lua: ['text/plain; charset=utf-8', (head) => !head.includes(0)],
  mp3: ['audio/mpeg', (head) => starts('ID3')(head) || (head[0] === 0xff && (head[1] & 0xe0) === 0xe0)],
};

/** Bytes that tell what a file is. */
const HEAD = 16;

/**
 * Says of an answer what it is, so that no browser takes a file of somebody else for a page or a script of this application: a type that
 * nothing runs, checked by its first bytes, to be saved where it is opened by itself, and in a sandbox where it is shown all the same.
 */
export function asStrangersFile(response: Response, path: string, head: Uint8Array): Response {
  const ending = path.split('.').at(-1)!.toLowerCase();
  const known = Object.hasOwn(SHOWN, ending) ? SHOWN[ending] : undefined;
  const first = Buffer.from(head.buffer, head.byteOffset, Math.min(HEAD, head.length));
  return response
    .setHeader('content-security-policy', "default-src 'none'; sandbox")
    .setHeader('x-content-type-options', 'nosniff')
    .setHeader('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(path.split('/').at(-1)!).replace(/['()*]/g, escape)}`)
    .type(known?.[1](first) ? known[0] : 'application/octet-stream');
}

export const sendStrangersFile = (response: Response, path: string, bytes: Uint8Array): void =>
  void asStrangersFile(response, path, bytes).send(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength));

/** Sends a file of the disk; a part of it where that is asked for. */
export async function streamStrangersFile(response: Response, path: string, file: string): Promise<void> {
  const handle = await open(file);
  const head = Buffer.alloc(HEAD);
  try {
    await handle.read(head, 0, HEAD, 0);
  } finally {
    await handle.close();
  }
  asStrangersFile(response, path, head);
  // Express would ask the ending again what it is.
  const type = response.getHeader('content-type') as string;
  response.sendFile(file, { maxAge: 60_000, dotfiles: 'allow', headers: { 'content-type': type } });
}
