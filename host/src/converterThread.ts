/** One thread of the converter: takes an order, answers its result or why the file cannot be read. */

import { parentPort, type TransferListItem } from 'node:worker_threads';
import { readZip } from '@violet-crate/core/asset/archive/zip';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { importAsset } from '@violet-crate/core/importing/importAsset';
import { planImport, unpackArchives } from '@violet-crate/core/importing/importPlan';
import { unreadableFinding } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { ConverterMessage, ThreadOrder } from './converter.ts';

parentPort!.on('message', (order: ThreadOrder) => {
  void answer(order).then(({ message, transfer }) => parentPort!.postMessage(message, transfer));
});

interface Answer {
  message: ConverterMessage;
  transfer: TransferListItem[];
}

async function answer(order: ThreadOrder): Promise<Answer> {
  try {
    switch (order.do) {
      case 'convert': {
        const asset = await importAsset(order.profile, order.input);
        return done(asset, asset.files);
      }
      case 'plan':
        return done(planImport(order.profile, order.manifest, order.files, order.options), order.files);
      case 'unpack': {
        const unpacked = unpackArchives(order.files);
        return done(unpacked, unpacked.files);
      }
      case 'open': {
        const tree = readZip(order.bytes, order.file);
        return done(tree, tree);
      }
    }
  } catch (error) {
    const known = error instanceof UnreadableInput;
    const file = order.do === 'convert' ? order.input.file : 'the files';
    const finding = known
      ? unreadableFinding(error, 'assets')
      : {
          code: 'internal',
          severity: 'blocker' as const,
          stage: 'assets' as const,
          message: `${file}: the conversion failed unexpectedly: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`,
        };
    return { message: { ok: false, finding, bug: !known }, transfer: [] };
  }
}

/** Results leave without copying; buffers that are part of a larger one (wasm memory, inputs) are copied. */
function done(output: unknown, files: FileTree): Answer {
  const transfer = new Set<ArrayBuffer>();
  for (const bytes of files.values())
    if (bytes.buffer instanceof ArrayBuffer && bytes.byteLength === bytes.buffer.byteLength) transfer.add(bytes.buffer);
  return { message: { ok: true, output }, transfer: [...transfer] };
}
