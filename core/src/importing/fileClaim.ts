/**
 * What a file says of its author and licence: `asset.copyright` and `extras` of glTF (2.0, 3.2), texts of PNG (PNG 3rd edition,
 * 11.3.3), EXIF and XMP of photographs, Vorbis comments of FLAC and Ogg (Vorbis I, chapter 5). Whatever cannot be read says nothing.
 */

import ExifReader from 'exifreader';
import type { Claim } from '../crate/manifest.ts';
import { meantLicence, readLicence } from '../release/licence/expression.ts';

/** Characters of one statement; files in the wild carry whole essays. */
const LONGEST = 200;

export function fileClaim(file: string, bytes: Uint8Array): Claim | undefined {
  const ending = /\.([^.]+)$/.exec(file)?.[1].toLowerCase() ?? '';
  const read = READERS[ending];
  if (!read) return undefined;
  try {
    return tidied(read(bytes));
  } catch {
    return undefined;
  }
}

const READERS: Record<string, (bytes: Uint8Array) => Claim> = {
  glb: (bytes) => {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (view.getUint32(0, true) !== 0x46546c67 || view.getUint32(16, true) !== 0x4e4f534a) return {};
    return ofGltf(new TextDecoder().decode(bytes.subarray(20, 20 + view.getUint32(12, true))));
  },
  gltf: (bytes) => ofGltf(new TextDecoder().decode(bytes)),
  png: ofPicture,
  jpg: ofPicture,
  jpeg: ofPicture,
  webp: ofPicture,
  tif: ofPicture,
  tiff: ofPicture,
  flac: (bytes) => ofComments(flacComments(bytes)),
  ogg: (bytes) => ofComments(oggComments(bytes)),
};

function ofGltf(text: string): Claim {
  const { asset } = JSON.parse(text) as { asset?: { copyright?: unknown; extras?: Record<string, unknown> } };
  const { author, license, source, title } = asset?.extras ?? {};
  const copyright = asset?.copyright;
  return {
    author: words(author) || ownerIn(words(copyright)),
    work: words(title),
    source: words(source),
    licence: words(license) || licenceIn(words(copyright)),
  };
}

function ofPicture(bytes: Uint8Array): Claim {
  const tags = ExifReader.load(bytes.slice().buffer, { includeUnknown: false }) as Record<string, { description?: unknown } | undefined>;
  const tag = (...names: string[]) => names.map((name) => words(tags[name]?.description)).find((value) => value !== '') ?? '';
  const copyright = tag('Copyright', 'rights', 'CopyrightNotice');
  return {
    author: tag('Author', 'Artist', 'creator', 'By-line') || ownerIn(copyright),
    work: tag('Title', 'title'),
    source: tag('Source', 'WebStatement'),
    licence: tag('License', 'license', 'UsageTerms') || licenceIn(copyright),
  };
}

function ofComments(comments: ReadonlyMap<string, string>): Claim {
  const of = (name: string) => comments.get(name) ?? '';
  return {
    author: of('ARTIST') || ownerIn(of('COPYRIGHT')),
    work: of('TITLE'),
    source: of('CONTACT') || of('WEBSITE'),
    licence: of('LICENSE') || licenceIn(of('COPYRIGHT')),
  };
}

function flacComments(bytes: Uint8Array): Map<string, string> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(0) !== 0x664c6143) return new Map();
  for (let at = 4; at + 4 <= bytes.length;) {
    const head = view.getUint32(at);
    const [last, type, length] = [head >>> 31, (head >>> 24) & 0x7f, head & 0xffffff];
    if (type === 4) return comments(bytes.subarray(at + 4, at + 4 + length));
    if (last === 1) break;
    at += 4 + length;
  }
  return new Map();
}

/** The second packet of the stream (RFC 3533); one that goes on over more than a few pages holds a picture, which nobody needs. */
function oggComments(bytes: Uint8Array): Map<string, string> {
  const parts: Uint8Array[] = [];
  let packet = 0;
  for (let at = 0, pages = 0; at + 27 <= bytes.length && pages < 8; pages++) {
    if (bytes[at] !== 0x4f || bytes[at + 1] !== 0x67 || bytes[at + 2] !== 0x67 || bytes[at + 3] !== 0x53) break;
    const count = bytes[at + 26];
    let body = at + 27 + count;
    for (let i = 0; i < count; i++) {
      const length = bytes[at + 27 + i];
      if (packet === 1) parts.push(bytes.subarray(body, body + length));
      body += length;
      if (length < 255 && ++packet === 2) {
        const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
        parts.reduce((offset, part) => (whole.set(part, offset), offset + part.length), 0);
        // Vorbis: a byte 3 and "vorbis"; Opus (RFC 7845): "OpusTags".
        return comments(whole.subarray(whole[0] === 3 ? 7 : 8));
      }
    }
    at = body;
  }
  return new Map();
}

function comments(bytes: Uint8Array): Map<string, string> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const found = new Map<string, string>();
  let at = 4 + view.getUint32(0, true);
  const count = Math.min(view.getUint32(at, true), 1000);
  at += 4;
  for (let i = 0; i < count; i++) {
    const length = view.getUint32(at, true);
    const text = new TextDecoder().decode(bytes.subarray(at + 4, at + 4 + Math.min(length, LONGEST * 4)));
    at += 4 + length;
    const equals = text.indexOf('=');
    const name = text.slice(0, equals).toUpperCase();
    if (equals > 0 && !found.has(name)) found.set(name, text.slice(equals + 1));
  }
  return found;
}

const words = (value: unknown): string => (typeof value === 'string' ? value.slice(0, LONGEST).replace(/\s+/g, ' ').trim() : '');

/** "© 2024 Ada Reed, CC BY 4.0": who. */
const ownerIn = (copyright: string): string =>
  (/^(?:copyright|\(c\)|©|\s|\d{4}(?:-\d{4})?|,)*(?:by )?(.*)$/i.exec(copyright)?.[1] ?? '').split(/,|;| - |\. /)[0].trim();

/** And under what. */
const licenceIn = (copyright: string): string =>
  copyright
    .split(/,|;|\(|\)/)
    .map((part) => part.trim())
    .find((part) => readLicence(part) !== null || meantLicence(part) !== null) ?? '';

function tidied({ author = '', work = '', source = '', licence = '' }: Claim): Claim | undefined {
  const known = licence !== '' && !readLicence(licence) ? (meantLicence(licence) ?? licence) : licence;
  const claim = Object.fromEntries(Object.entries({ author, work, source, licence: known }).filter(([, value]) => value !== ''));
  return claim.author || claim.licence ? claim : undefined;
}
