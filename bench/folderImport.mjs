/** A folder of 200 mixed files with one thread and with two: how well both cores are used, by the clock. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { encode } from 'fast-png';
import { writeWav } from '@violet-crate/core/asset/sound/writeWav';
import { planImport } from '@violet-crate/core/importing/importPlan';
import { loadProfile } from '@violet-crate/core/profile/load';
import { Converter } from '@violet-crate/host/converter';
import { sphereObj } from './sphere.mjs';

const EMPTY = {
  format: 1,
  name: 'bench',
  title: 'Bench',
  description: '',
  version: '1.0.0',
  profile: 'brinewick',
  mainMap: 'bench',
  authors: [],
  credits: [],
  materials: [],
  assets: {},
};

function files() {
  const tree = new Map();
  for (let i = 0; i < 80; i++) {
    const data = Uint8Array.from({ length: 256 * 256 * 3 }, (_, k) => (Math.imul(k + i, 2654435761) >>> 24) & 127);
    tree.set(`mixed/picture_${i}.png`, encode({ width: 256, height: 256, data, channels: 3, depth: 8 }));
  }
  for (let i = 0; i < 80; i++) tree.set(`mixed/model_${i}.obj`, new TextEncoder().encode(sphereObj(30 + i, 30)));
  for (let i = 0; i < 40; i++)
    tree.set(
      `mixed/sound_${i}.wav`,
      writeWav({ sampleRate: 48000, channels: [Float32Array.from({ length: 48000 }, (_, k) => Math.sin(k / (20 + i)) * 0.4)] }),
    );
  return tree;
}

async function seconds(profile, units, threads) {
  const converter = new Converter(threads);
  // Threads load their code once; that belongs to starting, not to the folder.
  await Promise.all(Array.from({ length: threads }, (_, i) => converter.convert(profile, units[i])));
  const start = performance.now();
  await Promise.all(units.map((unit) => converter.convert(profile, unit)));
  const taken = (performance.now() - start) / 1000;
  await converter.close();
  return taken;
}

export async function folderImport(rounds) {
  const profile = loadProfile(
    readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'),
    'brinewick.json',
  );
  const { units } = planImport(profile, EMPTY, files());
  const ratios = [];
  let last = [];
  for (let i = 0; i < rounds; i++) {
    last = [await seconds(profile, units, 1), await seconds(profile, units, 2)];
    ratios.push(last[0] / last[1]);
  }
  ratios.sort((a, b) => a - b);
  console.log(
    `Folder of ${units.length} mixed files: two threads are ${ratios[Math.floor(ratios.length / 2)].toFixed(2)} times as fast as one (${last.map((s) => s.toFixed(1)).join(' s and ')} s)`,
  );
}
