/**
 * The set-up: hashing an install against `sha256sum` on the same files, the doctor without hashing, and a folder that is bound: one
 * changed file into the crate, and thousands of files with how the time grows.
 */
import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { loadProfile } from '@violet-crate/core/profile/load';
import { hashFiles } from '@violet-crate/host/setup/hashFiles';
import { readFacts } from '@violet-crate/host/setup/readFacts';
import { dataFolder, cleanUp, Server, sleep } from './attack/target.mjs';

const elapsed = async (work) => {
  const start = performance.now();
  await work();
  return performance.now() - start;
};

export async function setup(rounds = 5) {
  const folder = mkdtempSync(join(tmpdir(), 'violet-bench-'));
  try {
    const files = Array.from({ length: 24 }, (_, i) => join(folder, `f${i}.bin`));
    for (const file of files) writeFileSync(file, randomBytes(16 << 20));
    const ratios = [];
    for (let i = 0; i < rounds; i++) {
      // Remembered hashes would take no time at all: every round meets files with another time.
      for (const file of files) utimesSync(file, new Date(), new Date(Date.now() - 10_000 - i * 1000));
      const ours = await elapsed(() => hashFiles(files));
      const theirs = await elapsed(() => execFileSync('sha256sum', files));
      ratios.push(theirs / ours);
    }
    ratios.sort((a, b) => a - b);
    console.log(
      `Hashing 384 MiB (reference: sha256sum): ${ratios[Math.floor(rounds / 2)].toFixed(2)} × its speed (${ratios[0].toFixed(2)} to ${ratios.at(-1).toFixed(2)})`,
    );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }

  const data = await dataFolder();
  const profile = loadProfile(
    readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'),
    'brinewick.json',
  );
  const doctor = await elapsed(() => readFacts({ profile, folder: join(data, 'games/brinewick') }, { hash: false, ask: true }));
  console.log(`The doctor without hashing: ${Math.round(doctor)} ms`);

  const server = await Server.start(data);
  try {
    await changedFile(server, join(data, 'bound-one'));
    await manyFiles(server, data);
  } finally {
    await server.stop();
    cleanUp();
  }
}

/** Milliseconds from writing a map's file in its folder to the edit being in the crate, middle and worst of ten. */
async function changedFile(server, folder) {
  const { id } = await server.newCrate('one');
  await server.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } });
  const file = join(folder, 'maps/one.map.json');
  const times = [];
  for (let i = 1; i <= 10; i++) {
    await sleep(700);
    const map = JSON.parse(readFileSync(file, 'utf8'));
    map.objects[Object.keys(map.objects)[0]].position[0] = i * 8;
    const { revision } = await server.json(`/api/crates/${id}/maps/one`);
    const start = performance.now();
    writeFileSync(file, JSON.stringify(map));
    while ((await server.json(`/api/crates/${id}/maps/one`)).revision === revision) await sleep(5);
    times.push(performance.now() - start);
  }
  times.sort((a, b) => a - b);
  console.log(`One changed map from its folder into the crate: ${Math.round(times[5])} ms, at worst ${Math.round(times[9])} ms`);
}

/** A folder of thousands of files bound for the first time; `n^x` is how the time grows from one size to the next. */
async function manyFiles(server, data) {
  const sizes = [1250, 2500, 5000, 10_000];
  const times = [];
  for (const size of sizes) {
    const name = `many_${size}`;
    const { id } = await server.newCrate(name);
    const folder = join(data, name);
    await server.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } });
    await server.json(`/api/crates/${id}/folder`, { method: 'DELETE' });
    mkdirSync(join(folder, 'sources'), { recursive: true });
    for (let i = 0; i < size; i++)
      writeFileSync(join(folder, `sources/f${i}.txt`), createHash('sha256').update(`${size} ${i}`).digest('hex').repeat(8));
    times.push(await elapsed(() => server.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } })));
  }
  const growth = times.slice(1).map((time, i) => Math.log2(time / times[i]));
  console.log(
    `Binding ${sizes.join(', ')} files: ${times.map((time) => `${(time / 1000).toFixed(1)} s`).join(', ')}; growth n^${growth.map((x) => x.toFixed(2)).join(', n^')}`,
  );
}

if (import.meta.filename === process.argv[1]) await setup();
