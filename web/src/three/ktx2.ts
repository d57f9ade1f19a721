/** three's loader of KTX2 textures, with its worker as a file of ours instead of one that it writes into a blob. */

import type { WebGLRenderer } from 'three';
import { KTX2Loader } from 'three/examples/jsm/loaders/KTX2Loader.js';

interface Inside {
  transcoderPending: Promise<void> | null;
  workerConfig: unknown;
  workerPool: { setWorkerCreator(create: () => Worker): void };
}

/**
 * The transcoder makes functions from texts, which pages here may not. A worker from a blob would be bound by the same
 * rule as its page; one that is loaded as a file has the rule that the server gives that file.
 */
class OwnWorkerLoader extends KTX2Loader {
  override init(): Promise<void> {
    const inside = this as unknown as Inside;
    inside.transcoderPending ??= fetch('/basis/basis_transcoder.wasm')
      .then((response) => response.arrayBuffer())
      .then((binary) =>
        inside.workerPool.setWorkerCreator(() => {
          const worker = new Worker('/basis/worker.js');
          const transcoderBinary = binary.slice(0);
          worker.postMessage({ type: 'init', config: inside.workerConfig, transcoderBinary }, [transcoderBinary]);
          return worker;
        }),
      );
    return inside.transcoderPending;
  }
}

export const ktx2Loader = (renderer: WebGLRenderer): KTX2Loader => new OwnWorkerLoader().detectSupport(renderer);
