/** Findings of a generated map: all of them once, and again after each edit of one solid, of one object; milliseconds of this run. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { applyEdit } from '@violet-crate/core/document/edit';
import { loadProfile } from '@violet-crate/core/profile/load';
import { moveSolid } from '@violet-crate/core/solid/solid';
import { generatedMap } from './mapEdits.mjs';
import { seeded } from './measure.mjs';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');
const material = (name) => ({ name, type: 'lit', colour: '#808080', unitsPerRepeat: 64 });
const base = { format: 1, title: 'Bench', version: '1.0.0', materials: ['brick', 'slate'].map(material), assets: {}, files: [] };
const crate = newCrateContents(profile, { name: 'bench', title: 'Bench', template: 'blank' });
const worldOf = (map) => ({ profile, base, crate: { ...crate, maps: { bench: map } } });

function timed(work) {
  const start = performance.now();
  work();
  return performance.now() - start;
}

function measure(count) {
  let map = generatedMap(count);
  const first = timed(() => checkCrate(worldOf(map)));
  const random = seeded(11);
  const rounds = { solid: [], object: [] };
  const edit = (kind, changes) => {
    map = applyEdit(map, { name: 'bench', changes });
    rounds[kind].push(timed(() => checkCrate(worldOf(map))));
  };
  for (let i = 0; i < 20; i++) {
    const id = `s${1 + Math.floor(random() * count)}`;
    edit('solid', [{ of: 'solids', id, to: moveSolid(map.solids[id], [16, 0, 0]) }]);
    const lamp = `o${1 + Math.floor((random() * count) / 5)}`;
    edit('object', [{ of: 'objects', id: lamp, to: { ...map.objects[lamp], turn: i } }]);
  }
  const worst = (list) => list.sort((a, b) => a - b)[Math.floor(list.length * 0.95)];
  return { count, first, solid: worst(rounds.solid), object: worst(rounds.object) };
}

export function mapChecks() {
  measure(300);
  const rows = [1000, 5000].map(measure);
  for (const { count, first, solid, object } of rows)
    console.log(
      `Findings of ${count} solids: all ${first.toFixed(0)} ms; after a solid moved ${solid.toFixed(0)} ms, after an object turned ${object.toFixed(0)} ms (95th percentile)`,
    );
  const growth = Math.log(rows[1].solid / rows[0].solid) / Math.log(rows[1].count / rows[0].count);
  console.log(`  growth of one after an edit n^${growth.toFixed(2)}`);
}
