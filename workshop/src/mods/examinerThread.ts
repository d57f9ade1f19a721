/** Reads packages beside the workshop's event loop: a large one takes a second to verify and to write. */

import { readFileSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { RELEASE_FILE } from '@violet-crate/core/release/manifest';
import { openRelease } from '@violet-crate/core/release/pack';
import { SIGNATURE_FILE, signerOf } from '@violet-crate/core/release/signature';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { verifySignature } from '@violet-crate/host/authorKey';
import { BlobStore } from '@violet-crate/host/blobStore';
import type { Examined, Order, Reply } from './examiner.ts';

const blobs = new BlobStore(workerData as string);
const textOf = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes);

function examine({ path, store }: Order): Examined {
  const zip = new Uint8Array(readFileSync(path));
  const { manifest, tree } = openRelease(zip, 'The package');
  const [sha256] = store ? blobs.putAll([zip, ...manifest.files.map((file) => tree.get(file.path)!)]) : [''];
  return {
    manifest,
    key: signerOf(tree, verifySignature),
    document: textOf(tree.get(RELEASE_FILE)),
    signature: textOf(tree.get(SIGNATURE_FILE)),
    bytes: zip.length,
    sha256,
  };
}

parentPort!.on('message', (order: Order) => {
  let reply: Reply;
  try {
    reply = { id: order.id, examined: examine(order) };
  } catch (error) {
    const { message, code } = error as Error & { code?: string };
    reply = { id: order.id, failed: { message, code, unreadable: error instanceof UnreadableInput } };
  }
  parentPort!.postMessage(reply);
});
