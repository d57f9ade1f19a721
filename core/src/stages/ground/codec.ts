/** Results of the ground's stages as they lie in the cache: a head as JSON, then all arrays of numbers one after the other. */

import type { DaylightOutput } from './daylight.ts';
import type { GroundOutput } from './stage.ts';

type Numbers = Float32Array | Uint32Array | Uint8Array;

const MAKE = {
  f: (buffer: ArrayBuffer) => new Float32Array(buffer),
  i: (buffer: ArrayBuffer) => new Uint32Array(buffer),
  b: (buffer: ArrayBuffer) => new Uint8Array(buffer),
} as const;

const kindOf = (value: Numbers): keyof typeof MAKE => (value instanceof Float32Array ? 'f' : value instanceof Uint32Array ? 'i' : 'b');

/** u32 length of the head, the head, then the bytes of the arrays that it names. */
function encode(value: unknown): Uint8Array {
  const parts: Uint8Array[] = [];
  const head = new TextEncoder().encode(
    JSON.stringify(value, (_key, member: unknown) => {
      if (!(member instanceof Float32Array || member instanceof Uint32Array || member instanceof Uint8Array)) return member;
      parts.push(new Uint8Array(member.buffer, member.byteOffset, member.byteLength));
      return { $: kindOf(member), bytes: member.byteLength };
    }),
  );
  const out = new Uint8Array(4 + head.length + parts.reduce((sum, part) => sum + part.length, 0));
  new DataView(out.buffer).setUint32(0, head.length, true);
  out.set(head, 4);
  let at = 4 + head.length;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

function decode<T>(bytes: Uint8Array): T {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  let at = 4 + length;
  // A reviver goes from within outwards, but keeps the order of members that hold no others, which these do not.
  return JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length)), (_key, member: unknown) => {
    const told = member as { $?: keyof typeof MAKE; bytes: number } | null;
    if (typeof told !== 'object' || told === null || told.$ === undefined) return member;
    const part = bytes.slice(at, (at += told.bytes));
    return MAKE[told.$](part.buffer);
  }) as T;
}

export const encodeGround = (value: GroundOutput): Uint8Array => encode(value);
export const decodeGround = (bytes: Uint8Array): GroundOutput => decode(bytes);
export const encodeDaylight = (value: DaylightOutput): Uint8Array => encode(value);
export const decodeDaylight = (bytes: Uint8Array): DaylightOutput => decode(bytes);
