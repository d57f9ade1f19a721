/** A full conversion of an OBJ of a million triangles against `obj2gltf`, each in a process of its own. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sphereObj } from './sphere.mjs';

/** Time and greatest memory of a child that prints `{ seconds, megabytes }`. */
function child(script, file) {
  const result = spawnSync(process.execPath, ['--max-old-space-size=8192', join(import.meta.dirname, script), file], { encoding: 'utf8' });
  if (result.status !== 0) throw new Error(result.stderr.slice(0, 2000));
  return JSON.parse(result.stdout.trim().split('\n').at(-1));
}

const median = (list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];

export async function bigObj(rounds) {
  const folder = mkdtempSync(join(tmpdir(), 'violet-bench-'));
  const file = join(folder, 'sphere.obj');
  writeFileSync(file, sphereObj(707, 707));
  const runs = { ours: [], theirs: [] };
  for (let i = 0; i < rounds; i++) {
    runs.ours.push(child('children/ours.mjs', file));
    runs.theirs.push(child('children/obj2gltf.mjs', file));
  }
  rmSync(folder, { recursive: true });
  const [ours, theirs] = [runs.ours, runs.theirs].map((list) => ({
    seconds: median(list.map((r) => r.seconds)),
    megabytes: median(list.map((r) => r.megabytes)),
    triangles: list[0].triangles,
  }));
  console.log(
    `OBJ of ${ours.triangles} triangles to GLB (reference: obj2gltf): time ${(ours.seconds / theirs.seconds).toFixed(2)} (${(theirs.seconds / ours.seconds).toFixed(1)} times as fast), peak memory ${(ours.megabytes / theirs.megabytes).toFixed(2)}`,
  );
  console.log(
    `  ours ${ours.seconds.toFixed(1)} s, ${Math.round(ours.megabytes)} MiB; reference ${theirs.seconds.toFixed(1)} s, ${Math.round(theirs.megabytes)} MiB`,
  );
}
