/**
 * Editing a generated map of n solids and n/5 objects: one edit, one undo, one pick, and what a thousand steps
 * of undo take up; at several sizes, with the exponent of growth. The figures are milliseconds of this run.
 */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { newObject } from '@violet-crate/core/profile/newObject';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import { applyEdit, diffByIdentity, invertEdit } from '@violet-crate/core/document/edit';
import { pickSolids } from '@violet-crate/core/map/pick';
import { loadProfile } from '@violet-crate/core/profile/load';
import { block, cylinder, wedge } from '@violet-crate/core/solid/primitives';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { moveSolid } from '@violet-crate/core/solid/solid';
import { seeded } from './measure.mjs';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');

export function generatedMap(count) {
  const random = seeded(count);
  const side = Math.ceil(Math.sqrt(count)) * 96;
  const grid = (v) => Math.round(v / 16) * 16;
  const map = emptyMap(profile);
  for (let i = 1; i <= count; i++) {
    const at = [grid(random() * side), grid(random() * side), grid(random() * 256)];
    const box = { min: at, max: at.map((v) => v + 16 + grid(random() * 64)) };
    const kind = i % 4;
    map.solids[`s${i}`] = kind === 0 ? cylinder(box, 8, 'brick') : kind === 1 ? wedge(box, 0, 1, 'slate') : block(box, 'brick');
  }
  for (let i = 1; i <= count / 5; i++) map.objects[`o${i}`] = newObject(profile, 'lamp', `lamp_${i}`, [random() * side, random() * side, 96]);
  return map;
}

const at = (times, share) => [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))];
const timed = (work) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};

function measure(count) {
  let map = generatedMap(count);
  let last = map;
  const random = seeded(7);
  const opened = timed(() => Object.values(map.solids).forEach(shapeOf));
  const edits = [];
  const undos = [];
  const picks = [];
  const diffs = [];
  const steps = [];
  globalThis.gc?.();
  const before = process.memoryUsage().heapUsed;
  for (let i = 0; i < 1000; i++) {
    const id = `s${1 + Math.floor(random() * count)}`;
    edits.push(
      timed(() => {
        const edit = { name: 'move solid', changes: [{ of: 'solids', id, to: moveSolid(map.solids[id], [16, 0, 0]) }] };
        steps.push({ edit, inverse: invertEdit(map, edit) });
        const next = applyEdit(map, edit);
        last = map;
        map = next;
      }),
    );
    diffs.push(timed(() => diffByIdentity(last, map)));
  }
  globalThis.gc?.();
  const memory = (process.memoryUsage().heapUsed - before) / 1048576;
  for (let i = 0; i < 300; i++) undos.push(timed(() => (map = applyEdit(map, steps.pop().inverse))));
  const side = Math.ceil(Math.sqrt(count)) * 96;
  for (let i = 0; i < 300; i++) picks.push(timed(() => pickSolids(map.solids, [random() * side, -100, 400], [random() - 0.5, 1, -0.3])));
  return { count, opened, edit: at(edits, 0.95), undo: at(undos, 0.95), pick: at(picks, 0.95), diff: at(diffs, 0.95), memory };
}

export function mapEdits() {
  measure(200);
  const rows = [1000, 5000, 10000].map(measure);
  console.log('Editing a generated map (95th percentile, ms; shapes of all solids once; memory of 1,000 steps of undo)');
  for (const r of rows)
    console.log(
      `  ${r.count} solids: edit ${r.edit.toFixed(3)}, undo ${r.undo.toFixed(3)}, what to check again ${r.diff.toFixed(3)}, pick ${r.pick.toFixed(3)}, all shapes ${r.opened.toFixed(0)}, undo memory ${r.memory.toFixed(1)} MiB`,
    );
  const exponent = (key) => (Math.log(rows[2][key] / rows[0][key]) / Math.log(10)).toFixed(2);
  console.log(
    `  growth from 1,000 to 10,000: edit n^${exponent('edit')}, undo n^${exponent('undo')}, pick n^${exponent('pick')}, shapes n^${exponent('opened')}`,
  );
}
