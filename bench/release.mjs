/**
 * Links and releases: the graph after an edit of a large map; packing against `zip -r -6` on the same files; an upload against `curl`
 * to a bare Express route; search over ten thousand releases.
 */
import { execFile, execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { createWriteStream, mkdtempSync, rmSync, writeFileSync, mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import express from 'express';
import { writeZip, writeZipApart } from '@violet-crate/core/asset/archive/zip';
import { applyEdit } from '@violet-crate/core/document/edit';
import { sha256Hex } from '@violet-crate/core/hash';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { reportOf } from '@violet-crate/core/link/report';
import { block } from '@violet-crate/core/solid/primitives';
import { testWorld } from '@violet-crate/core/testing/world';
import { publishRelease } from '@violet-crate/host/workshopClient';
import SQLite from 'better-sqlite3';
import { cleanUp, Server } from './attack/target.mjs';

const elapsed = async (work) => {
  const start = performance.now();
  await work();
  return performance.now() - start;
};
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
const run = promisify(execFile);

function links(solids = 5000) {
  let world = testWorld('blank');
  const materials = ['brick', 'plank', 'iron', 'tile'];
  const changes = Array.from({ length: solids }, (_, i) => {
    const [x, y] = [(i % 100) * 32, Math.floor(i / 100) * 32];
    return { of: 'solids', id: `s${i + 1}`, to: block({ min: [x, y, 0], max: [x + 16, y + 16, 16] }, materials[i % 4]) };
  });
  const edited = (name, some) => ({
    ...world,
    crate: { ...world.crate, maps: { ...world.crate.maps, hall: applyEdit(world.crate.maps.hall, { name, changes: some }) } },
  });
  world = edited('many', changes);
  const graph = new LinkGraph(world);
  const times = Array.from({ length: 40 }, (_, i) => {
    const id = `s${i * 7 + 1}`;
    const solid = world.crate.maps.hall.solids[id];
    world = edited('one', [
      { of: 'solids', id, to: { ...solid, faces: solid.faces.map((face) => ({ ...face, material: materials[(i + 1) % 4] })) } },
    ]);
    const start = performance.now();
    graph.update(world);
    reportOf(graph, world, 'hall');
    return performance.now() - start;
  });
  const anew = performance.now();
  reportOf(new LinkGraph(world), world, 'hall');
  console.log(
    `Links after an edit of ${solids} solids: ${median(times).toFixed(1)} ms, worst ${Math.max(...times).toFixed(1)} (anew ${(performance.now() - anew).toFixed(0)} ms)`,
  );
}

async function packing(folder, rounds) {
  const tree = new Map();
  // What a package is made of: texts that compress, and textures that do not.
  for (let i = 0; i < 40; i++)
    tree.set(
      `maps/m${i}/map.json`,
      new TextEncoder().encode(JSON.stringify(Array.from({ length: 20_000 }, (_, k) => ({ id: k, at: [k % 97, i, k % 13] })))),
    );
  for (let i = 0; i < 40; i++) tree.set(`textures/t${i}.ktx2`, new Uint8Array(randomBytes(1 << 20)));
  for (const [path, bytes] of tree) {
    mkdirSync(dirname(join(folder, 'tree', path)), { recursive: true });
    writeFileSync(join(folder, 'tree', path), bytes);
  }
  const ratios = [];
  let [ours, theirs] = [0, 0];
  for (let i = 0; i < rounds; i++) {
    const a = await elapsed(async () => (ours = (await writeZipApart(tree)).length));
    const out = join(folder, `z${i}.zip`);
    const b = await elapsed(() => execFileSync('zip', ['-r', '-6', '-q', out, '.'], { cwd: join(folder, 'tree') }));
    theirs = Number(execFileSync('stat', ['-c', '%s', out]));
    ratios.push(a / b);
  }
  console.log(`Packing (reference: zip -r -6): ${median(ratios).toFixed(2)} × its time; ${ours} bytes, zip ${theirs}`);
}

async function uploading(folder, rounds) {
  mkdirSync(join(folder, 'data'));
  const workshop = await Server.workshop(join(folder, 'data'));
  const { url } = workshop;
  const bare = express();
  bare.put('/', (request, response) => {
    request.pipe(createWriteStream(join(folder, 'bare.bin'))).on('finish', () => response.end());
  });
  const server = bare.listen(0, '127.0.0.1');
  await new Promise((done) => server.once('listening', done));
  const at = `http://127.0.0.1:${server.address().port}/`;
  const ratios = [];
  for (let round = 0; round < rounds; round++) {
    const files = new Map([
      ['thumbnail.png', new Uint8Array([0x89, 0x50, 0x4e, 0x47])],
      ['noise.bin', new Uint8Array(randomBytes(100 << 20))],
    ]);
    const manifest = {
      format: 1,
      name: 'noise',
      title: 'Noise',
      description: '',
      version: `1.0.${round}`,
      profile: 'brinewick',
      mainMap: 'x',
      authors: [],
      credits: [],
      thumbnail: 'thumbnail.png',
      files: [...files].map(([path, bytes]) => ({ path, bytes: bytes.length, sha256: sha256Hex(bytes) })),
    };
    const zip = writeZip(new Map([...files, ['release.json', new TextEncoder().encode(JSON.stringify(manifest))]]));
    const file = join(folder, 'noise.zip');
    writeFileSync(file, zip);
    let sent = 0;
    const start = performance.now();
    // The last request also waits until the package was looked at: the others are measured, and scaled to the whole.
    await publishRelease(url, 'token', zip, {
      onProgress: (bytes) => bytes < zip.length * 0.995 && (sent = ((performance.now() - start) * zip.length) / bytes),
    });
    const whole = performance.now() - start;
    const curl = await elapsed(() => run('curl', ['-s', '-T', file, at]));
    ratios.push(curl / sent);
    console.log(`  100 MiB: sent in ${Math.round(sent)} ms, verified and stored after ${Math.round(whole)} ms; curl ${Math.round(curl)} ms`);
  }
  console.log(`Upload (reference: curl to a bare Express route): ${median(ratios).toFixed(2)} × its throughput`);
  server.close();
  await search(join(folder, 'data/workshop.sqlite'), url);
  await workshop.stop();
}

async function search(file, url) {
  const database = new SQLite(file);
  const words = ['tide', 'lamp', 'marsh', 'weir', 'stair', 'moss', 'tallow', 'kite', 'ridge', 'frost', 'crank', 'gull', 'reed', 'brine', 'ember'];
  const pick = (n) => Array.from({ length: n }, (_, i) => words[(i * 7 + n * 3 + Math.floor(Math.random() * 15)) % 15]).join(' ');
  const mod = database.prepare(
    "INSERT INTO mods (name, organisation, profile, visibility, current, created_at, updated_at) VALUES (?, 1, 'brinewick', 'listed', NULL, ?, ?)",
  );
  const version = database.prepare(
    "INSERT INTO versions (mod, version, share_code, manifest, document, signature, notes, sha256, bytes, key, published_at) VALUES (?, '1.0.0', ?, ?, '', '', '', '0', 1, '', ?)",
  );
  const current = database.prepare('UPDATE mods SET current = ? WHERE id = ?');
  const index = database.prepare('INSERT INTO mods_search (rowid, name, title, description, people, tags) VALUES (?, ?, ?, ?, ?, ?)');
  database.transaction(() => {
    for (let i = 0; i < 10_000; i++) {
      const at = new Date(1.7e12 + i * 60_000).toISOString();
      const [title, description] = [pick(3), pick(60)];
      const { lastInsertRowid: id } = mod.run(`m${i}`, at, at);
      const manifest = {
        name: `m${i}`,
        title,
        description,
        version: '1.0.0',
        profile: 'brinewick',
        authors: ['Ada'],
        credits: [],
        files: [],
        about: { tags: ['short'] },
      };
      const { lastInsertRowid: v } = version.run(id, `C${i}`, JSON.stringify(manifest), at);
      current.run(v, id);
      index.run(id, `m${i}`, title, description, 'Ada', 'short');
    }
  })();
  database.close();
  const times = [];
  for (const query of ['tide', 'lamp mar', 'q', 'frost reed ember', 'tallow', 'm77', 'gull stair', 'kite ridge weir moss']) {
    await fetch(`${url}/api/mods?q=${encodeURIComponent(query)}`);
    times.push(await elapsed(async () => (await fetch(`${url}/api/mods?q=${encodeURIComponent(query)}&sort=new`)).text()));
  }
  console.log(`Search over 10,000 releases: ${median(times).toFixed(1)} ms, worst ${Math.max(...times).toFixed(1)}`);
}

export async function release(rounds = 3) {
  const folder = mkdtempSync(join(tmpdir(), 'violet-bench-'));
  try {
    links();
    await packing(folder, rounds);
    await uploading(folder, rounds);
  } finally {
    rmSync(folder, { recursive: true, force: true });
    cleanUp();
  }
}

if (process.argv[1] === import.meta.filename) await release();
