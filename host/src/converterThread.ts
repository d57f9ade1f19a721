/** One thread of the converter: takes a file, answers the asset or why it cannot be read. */

import { parentPort, type TransferListItem } from 'node:worker_threads';
import { importAsset, type ImportInput } from '@violet-crate/core/crate/importAsset';
import { UnreadableInput } from '@violet-crate/core/finding';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { ConverterMessage } from './converter.ts';

parentPort!.on('message', (task: { profile: Profile; input: ImportInput }) => {
  void convert(task).then(({ message, transfer }) => parentPort!.postMessage(message, transfer));
});

async function convert({
  profile,
  input,
}: {
  profile: Profile;
  input: ImportInput;
}): Promise<{ message: ConverterMessage; transfer: TransferListItem[] }> {
  try {
    const asset = await importAsset(profile, input);
    // Results leave without copying; buffers that are part of a larger one (wasm memory, inputs) are copied.
    const transfer = new Set<ArrayBuffer>();
    for (const bytes of asset.files.values())
      if (bytes.buffer instanceof ArrayBuffer && bytes.byteLength === bytes.buffer.byteLength) transfer.add(bytes.buffer);
    return { message: { ok: true, asset }, transfer: [...transfer] };
  } catch (error) {
    const known = error instanceof UnreadableInput;
    const finding = known
      ? error.toFinding('assets')
      : {
          code: 'internal',
          severity: 'blocker' as const,
          stage: 'assets' as const,
          message: `${input.file}: the conversion failed unexpectedly: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}`,
        };
    return { message: { ok: false, finding, bug: !known }, transfer: [] };
  }
}
