/** What is done with a bank's bytes, apart from the server's event loop: layouts and banks are strangers' data. */

import { mapOfBank } from '@violet-crate/core/bank/bankMap';
import { bankDocument, dataOf, type BankDocument } from '@violet-crate/core/bank/document';
import { compareBanks, withBytes } from '@violet-crate/core/bank/editBytes';
import type { BankLayout } from '@violet-crate/core/bank/layout';
import { readBank } from '@violet-crate/core/bank/read';
import type { BankReport, BankView } from '@violet-crate/core/bank/views';
import { writeBank } from '@violet-crate/core/bank/write';

export type BankOrder =
  | { act: 'open'; layout: BankLayout; original: Uint8Array; bytes: Uint8Array; changed: boolean }
  | { act: 'write'; layout: BankLayout; bytes: Uint8Array; document: BankDocument; places: Record<string, number>; title: string };

export type Opened = Pick<BankView, 'document' | 'pieces' | 'differences'>;
export type Written = { made: Uint8Array; report: BankReport };

export function doBankWork(order: BankOrder): Opened | Written {
  const { layout, bytes } = order;
  if (order.act === 'open') {
    const now = readBank(bytes, layout);
    return {
      document: bankDocument(layout, now.data),
      pieces: mapOfBank(bytes, layout, now),
      differences: order.changed ? compareBanks(layout, order.original, bytes) : [],
    };
  }
  const base = withBytes(bytes, layout, order.document);
  const before = readBank(base, layout);
  const next = dataOf(layout, before.data, order.document, order.title);
  const { bytes: made, ...report } = writeBank(base, layout, next, order.places, before);
  return { made, report: { ...report, differences: compareBanks(layout, bytes, made) } };
}
