/** Whole numbers of 1 to 8 bytes in either order. */

import type { ByteOrder } from './layout.ts';

/** @returns two's complement where signed */
export function readInteger(bytes: Uint8Array, at: number, count: number, order: ByteOrder, signed = false): bigint {
  let value = 0n;
  for (let i = 0; i < count; i++) value = (value << 8n) | BigInt(bytes[order === 'big' ? at + i : at + count - 1 - i]);
  return signed ? BigInt.asIntN(count * 8, value) : value;
}

/** The same for up to 6 bytes, which a number holds exactly. */
export function readUnsigned(bytes: Uint8Array, at: number, count: number, order: ByteOrder): number {
  let value = 0;
  for (let i = 0; i < count; i++) value = value * 256 + bytes[order === 'big' ? at + i : at + count - 1 - i];
  return value;
}

export function writeInteger(bytes: Uint8Array, at: number, count: number, order: ByteOrder, value: bigint): void {
  let rest = BigInt.asUintN(count * 8, value);
  for (let i = 0; i < count; i++) {
    bytes[order === 'big' ? at + count - 1 - i : at + i] = Number(rest & 255n);
    rest >>= 8n;
  }
}

/** Least and greatest that fit. */
export const integerRange = (count: number, signed: boolean): [bigint, bigint] => {
  const bits = BigInt(count * 8);
  return signed ? [-(1n << (bits - 1n)), (1n << (bits - 1n)) - 1n] : [0n, (1n << bits) - 1n];
};
