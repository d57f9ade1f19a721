import { encode as encodePng } from 'fast-png';
import { writeWav } from '../asset/sound/writeWav.ts';
import type { AssetKind } from '../crate/assetKind.ts';
import { newEffect, writeEffect } from '../effect/document.ts';

const text = (...lines: string[]) => new TextEncoder().encode(`${lines.join('\n')}\n`);

/** A small file of each kind, for trying whether a program opens it: 64 × 64 squares, a cube of one metre, half a second of 440 Hz. */
const SAMPLES: Record<AssetKind, () => { name: string; bytes: Uint8Array }> = {
  texture: () => {
    const data = Uint8Array.from({ length: 64 * 64 * 4 }, (_, i) => (i % 4 === 3 ? 255 : ((i >> 5) + (i >> 11)) % 2 ? 150 : 90 + 30 * (i % 4)));
    return { name: 'sample.png', bytes: encodePng({ width: 64, height: 64, data, channels: 4 }) };
  },
  model: () => ({
    name: 'sample.obj',
    bytes: text(
      'o cube',
      ...[0, 1].flatMap((z) => ['0 0', '1 0', '1 1', '0 1'].map((xy) => `v ${xy} ${z}`)),
      ...['4 3 2 1', '5 6 7 8', '1 2 6 5', '2 3 7 6', '3 4 8 7', '4 1 5 8'].map((face) => `f ${face}`),
    ),
  }),
  sound: () => {
    const channel = Float32Array.from({ length: 22050 }, (_, i) => 0.3 * Math.sin((2 * Math.PI * 440 * i) / 44100));
    return { name: 'sample.wav', bytes: writeWav({ sampleRate: 44100, channels: [channel] }) };
  },
  subtitle: () => ({
    name: 'sample.vtt',
    bytes: text('WEBVTT', '', '00:00.000 --> 00:02.000', 'If you can read this, the program is the right one.'),
  }),
  effect: () => ({ name: 'sample.effect.json', bytes: new TextEncoder().encode(writeEffect(newEffect('Sample', 1))) }),
  script: () => ({ name: 'sample.lua', bytes: text('-- If you can read this, the program is the right one.', 'print("hello")') }),
};

export const sampleOf = (kind: AssetKind): { name: string; bytes: Uint8Array } => SAMPLES[kind]();
