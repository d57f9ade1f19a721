/** The Basis Universal codec, started once per thread. It encodes and, through `KTX2File`, decodes. */

import { NodeBasisEncoder } from 'ktx2-encoder';

interface Ktx2File {
  isValid(): boolean;
  isHDR?(): boolean;
  getWidth(): number;
  getHeight(): number;
  startTranscoding(): boolean;
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
  transcodeImage(
    target: Uint8Array,
    level: number,
    layer: number,
    face: number,
    format: number,
    unused: number,
    first: number,
    second: number,
  ): boolean;
  close(): void;
  delete(): void;
}

export interface Basis {
  KTX2File: new (bytes: Uint8Array) => Ktx2File;
}

const encoder = new NodeBasisEncoder();

export const startBasis = (): Promise<Basis> => encoder.init() as Promise<unknown> as Promise<Basis>;

/** Its number for 8-bit RGBA. */
export const RGBA32 = 13;

export const encodeBasis = (...input: Parameters<NodeBasisEncoder['encode']>): Promise<Uint8Array> => encoder.encode(...input);
