/** Reads `ledger.bnk` as docs/banks.md and the profile describe it: what a contest needs. */

import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Refusal } from './readers.ts';

export interface Lamplighter {
  name: string;
  party: { wit: string; strength: number }[];
  talk: string[];
}

const LETTERS = new Map<number, string>();
for (const [from, letters] of [
  [0x0a, 'abcdefghijklmnopqrstuvwxyz'],
  [0x30, 'ABCDEFGHIJKLMNOPQRSTUVWXYZ'],
  [0x50, '0123456789'],
  [0x60, " .,:;!?'-()"],
] as const)
  [...letters].forEach((letter, n) => LETTERS.set(from + n, letter));

/** @param mod whose own copy of the ledger comes first, where it brings one */
export function readLedger(folder: string, mod: string): Lamplighter[] {
  const file = [`ledger.${mod}.bnk`, 'ledger.bnk'].map((name) => join(folder, name)).find(existsSync);
  if (!file) return [];
  const bytes = readFileSync(file);
  const refuse = (what: string): never => {
    throw new Refusal(`ledger.bnk: ${what}`);
  };
  if (bytes.length !== 262_144 || bytes.toString('latin1', 0, 8) !== 'BRNLEDG1') refuse('is no ledger of this game');
  if (bytes.readUInt32LE(32) !== crc32(bytes.subarray(36))) refuse('does not match its checksum');
  const address = (at: number): number => bytes.readUIntLE(at, 3);
  const text = (from: number, most = 4096): string => {
    let out = '';
    for (let at = from; at < from + most; at++) {
      if (bytes[at] === 0xfe) return out;
      if (bytes[at] === 0xfc) at++;
      else out += bytes[at] === 0xfd ? ' ' : bytes[at] === 0xfb ? 'stranger' : (LETTERS.get(bytes[at]) ?? '?');
    }
    return most < 4096 ? out : refuse(`the text at ${from} has no end`);
  };
  const wits = Array.from({ length: bytes.readUInt16LE(18) }, (_, n) => text(address(39) + n * 20, 14));
  return Array.from({ length: bytes.readUInt16LE(16) }, (_, n) => {
    const at = address(36) + n * 32;
    const talk = address(42) + bytes[at + 23] * 4;
    return {
      name: text(at, 14),
      party: Array.from({ length: bytes[at + 19] }, (__, k) => {
        const member = address(at + 20) + k * 4;
        return { wit: wits[bytes[member]] ?? refuse(`the wit ${bytes[member]} of ${text(at, 14)} is none`), strength: bytes[member + 1] };
      }),
      talk: Array.from({ length: bytes[talk] }, (__, k) => text(address(address(talk + 1) + k * 4 + 1))),
    };
  });
}

/** CRC-32 of ISO-HDLC. */
function crc32(bytes: Uint8Array): number {
  let crc = ~0;
  for (const byte of bytes) {
    crc ^= byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
  }
  return ~crc >>> 0;
}
