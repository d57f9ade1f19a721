/**
 * Tables of 100,000 rows: reading them against `JSON.parse` alone, all findings, filtering, and CSV against papaparse alone; and what
 * is seen by somebody among 2,000 walls against the one test that it has to be, a ray to each end of each wall.
 */
import Papa from 'papaparse';
import { cellProblems, cellWords } from '@violet-crate/core/table/cell';
import { readTable, valueAt, writeTable } from '@violet-crate/core/table/document';
import { exportCsv, planImport } from '@violet-crate/core/table/exchange';
import { Tables } from '@violet-crate/core/table/tables';
import { visiblePolygon } from '@violet-crate/core/sight/visible';

const KIT = {
  id: 'kit',
  label: 'Kit',
  key: 'id',
  columns: [
    { id: 'id', label: 'Key', type: 'text' },
    { id: 'weight', label: 'Weight', type: 'number' },
  ],
};
const PEOPLE = {
  id: 'people',
  label: 'People',
  key: 'id',
  columns: [
    { id: 'id', label: 'Key', type: 'text', most: 20 },
    { id: 'name', label: 'Name', type: 'text', most: 14, letters: 'abcdefghijklmnopqrstuvwxyz ' },
    { id: 'wits', label: 'Wits', type: 'number', least: 0, most: 99, whole: true },
    { id: 'kit', label: 'Kit', type: 'rows', table: 'kit', most: 4 },
    { id: 'load', label: 'Load', type: 'formula', formula: 'sum(kit.weight) + wits' },
  ],
};
const rows = Array.from({ length: 100_000 }, (_, n) => ({
  id: `person_${n}`,
  name: 'somebody',
  wits: n % 100,
  kit: [`kit_${n % 50}`, `kit_${n % 7}`],
}));
const document = { format: 1, table: 'people', rows };
const kit = { format: 1, table: 'kit', rows: Array.from({ length: 50 }, (_, n) => ({ id: `kit_${n}`, weight: n })) };

function best(work, times = 5) {
  let least = Infinity;
  for (let n = 0; n < times; n++) {
    const from = performance.now();
    work();
    least = Math.min(least, performance.now() - from);
  }
  return least;
}
const tell = (what, own, reference) =>
  console.log(
    `${what.padEnd(46)} ${own.toFixed(1).padStart(8)} ms${reference === undefined ? '' : `   ${(own / reference).toFixed(2)} of ${reference.toFixed(1)} ms`}`,
  );

export function tables() {
  const text = writeTable(PEOPLE, document);
  tell(
    'read 100,000 rows, of JSON.parse',
    best(() => readTable(text, 'records/people.json'), 3),
    best(() => JSON.parse(text), 3),
  );
  const all = new Tables([KIT, PEOPLE], { 'records/kit.json': writeTable(KIT, kit) }, document);
  tell(
    'every cell checked',
    best(() => rows.forEach((row) => PEOPLE.columns.forEach((column) => cellProblems(column, valueAt(column, row)))), 3),
  );
  tell(
    'every formula',
    best(() => rows.forEach((row) => all.computed(PEOPLE, row, PEOPLE.columns[4])), 3),
  );
  tell(
    'filtered by a word (100 ms at most)',
    best(() => rows.filter((row) => PEOPLE.columns.some((column) => cellWords(valueAt(column, row)).includes('99'))), 5),
  );
  const csv = exportCsv(all, PEOPLE, document);
  tell(
    'CSV read and planned, of papaparse',
    best(() => planImport(PEOPLE, document, csv, 'people.csv'), 3),
    best(() => Papa.parse(csv), 3),
  );

  const random = (() => {
    let a = 7;
    return () => ((a = (a * 16807) % 2147483647) / 2147483647) * 1000;
  })();
  const walls = Array.from({ length: 2000 }, () => {
    const [x, y] = [random(), random()];
    return [
      [x, y],
      [x + random() / 50 - 10, y + random() / 50 - 10],
    ];
  });
  const rays = () => {
    let met = 0;
    for (const [end] of walls) for (const [a, b] of walls) if ((b[0] - a[0]) * (end[1] - a[1]) - (b[1] - a[1]) * (end[0] - a[0]) > 0) met++;
    return met;
  };
  tell(
    'seen among 2,000 walls, of a side test each',
    best(() => visiblePolygon(walls, { from: [500, 500], radius: 800 }), 5),
    best(rays, 5),
  );
}

if (process.argv[1] === import.meta.filename) tables();
