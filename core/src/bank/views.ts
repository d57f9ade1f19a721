/** What the application says of a crate's banks. */

import type { Piece } from './bankMap.ts';
import type { Difference } from './differences.ts';
import type { BankDocument } from './document.ts';
import type { BankLayout } from './layout.ts';
import type { BankWritten } from './write.ts';

export interface BankEntry {
  id: string;
  title: string;
  /** Path in the install. */
  file: string;
  /** Whether it lies there; the version that it is known to be; and whether the crate changes it. */
  there: boolean;
  version: string | null;
  changed: boolean;
}

export interface BankView extends BankEntry {
  layout: BankLayout;
  document: BankDocument;
  pieces: Piece[];
  bytes: number;
  /** What the crate changes of the original, in words. */
  differences: Difference[];
}

export type BankReport = Omit<BankWritten, 'bytes'> & { differences: Difference[] };
