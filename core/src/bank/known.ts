import { sha256Hex } from '../hash.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { BankLayout } from './layout.ts';

/** The version that a bank is known to be; null for one that its layout does not know, which may only be looked at. */
export const knownVersion = (bytes: Uint8Array, { known }: BankLayout): string | null => {
  const hash = known.some(({ sha256 }) => sha256 !== undefined) ? sha256Hex(bytes) : '';
  return known.find((one) => one.bytes === bytes.length && (one.sha256 === undefined || one.sha256 === hash))?.version ?? null;
};

/** @throws UnreadableInput `bank-unknown` which says what is known */
export function needKnown(bytes: Uint8Array, layout: BankLayout, file: string): string {
  const version = knownVersion(bytes, layout);
  if (version !== null) return version;
  throw new UnreadableInput(
    'bank-unknown',
    `${file} has ${bytes.length} bytes and is none of the banks that "${layout.title}" is known to be of: ${layout.known.map((one) => `${one.version} (${one.bytes} bytes)`).join(', ')}.`,
    { file },
    'Look at it read-only, with your confirmation; or take the layout of its version.',
  );
}
