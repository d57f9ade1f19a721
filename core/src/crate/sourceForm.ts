/** Whether a file is what its name says, by its first bytes: before it is handed to whatever opens such files on a machine. */

import { ASSETS, type AssetKind } from './assetKind.ts';

type Form = (head: Uint8Array) => boolean;

const word = (head: Uint8Array, from: number, length: number): string => String.fromCharCode(...head.subarray(from, from + length));
const starts =
  (...marks: string[]): Form =>
  (head) =>
    marks.some((mark) => word(head, 0, mark.length) === mark);
const riff =
  (form: string): Form =>
  (head) =>
    starts('RIFF')(head) && word(head, 8, 4) === form;
/** Text that no system takes for a program: no bytes of zero, no line that names an interpreter. */
const text: Form = (head) => !head.includes(0) && !starts('#!', 'MZ', '\xef\xbb\xbf#!')(head);
const textFrom =
  (first: RegExp): Form =>
  (head) =>
    text(head) && first.test(word(head, 0, 64).replace(/^\xef\xbb\xbf/, ''));
/** Truevision TGA 2.0: no mark at its beginning; a kind of map and of image that there are, and 8 to 32 bits a pixel. */
const tga: Form = (head) => head[1] <= 1 && [1, 2, 3, 9, 10, 11].includes(head[2]) && [8, 15, 16, 24, 32].includes(head[16]);

/** Signatures: PNG 3rd edition 5.2; ITU-T T.81 B.2; RFC 9649; TIFF 6.0; KTX 2.0 3.1; glTF 2.0 4.4; RFC 3533; RFC 9639; WebVTT 4.1. */
const FORMS: Record<string, Form> = {
  png: starts('\x89PNG\r\n\x1a\n'),
  jpg: starts('\xff\xd8\xff'),
  jpeg: starts('\xff\xd8\xff'),
  webp: riff('WEBP'),
  tga,
  bmp: starts('BM'),
  gif: starts('GIF8'),
  tif: starts('II*\0', 'MM\0*', 'II+\0', 'MM\0+'),
  tiff: starts('II*\0', 'MM\0*', 'II+\0', 'MM\0+'),
  hdr: starts('#?R'),
  exr: starts('\x76\x2f\x31\x01'),
  ktx2: starts('\xabKTX 20\xbb\r\n\x1a\n'),
  wav: (head) => riff('WAVE')(head) || starts('RF64')(head),
  ogg: starts('OggS'),
  flac: starts('fLaC'),
  mp3: (head) => starts('ID3')(head) || (head[0] === 0xff && (head[1] & 0xe0) === 0xe0),
  glb: starts('glTF'),
  gltf: textFrom(/^\s*\{/),
  obj: text,
  stl: (head) => !starts('MZ', '#!', '\x7fELF')(head),
  ply: starts('ply'),
  dae: textFrom(/^\s*</),
  fbx: (head) => starts('Kaydara FBX Binary')(head) || text(head),
  vtt: textFrom(/^WEBVTT/),
  lua: text,
  'effect.json': textFrom(/^\s*\{/),
};

/** Bytes that are looked at. */
export const FORM_BYTES = 512;

/** @param head the file’s first bytes, `FORM_BYTES` of them or all */
export function isSourceOf(kind: AssetKind, name: string, head: Uint8Array): boolean {
  const ending = ASSETS[kind].endings.find((one) => name.toLowerCase().endsWith(`.${one}`));
  return ending !== undefined && FORMS[ending](head.subarray(0, FORM_BYTES));
}
