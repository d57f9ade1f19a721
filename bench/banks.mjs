/**
 * Banks and patches: reading and writing a bank of 16 MiB, free room in 64 MiB, and a patch of 16 MiB with one byte in a hundred changed
 * against `xdelta3 -3` on the same files.
 */
import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readBank } from '@violet-crate/core/bank/read';
import { freeRuns, Ledger } from '@violet-crate/core/bank/room';
import { writeBank } from '@violet-crate/core/bank/write';
import { makePatch } from '@violet-crate/core/patch/makePatch';

const SIZE = 16 << 20;
const pointer = { bytes: 4, none: 0 };
const LAYOUT = {
  format: 1,
  id: 'large',
  title: 'A large bank',
  order: 'little',
  known: [{ version: '1', bytes: SIZE }],
  texts: { plain: { runs: { 61: 'abcdefghijklmnopqrstuvwxyz' }, end: '00' } },
  records: {
    person: {
      fields: [
        { name: 'name', is: 'text', text: 'plain', bytes: 16 },
        { name: 'level', is: 'number', bytes: 2 },
        { name: 'size', is: 'number', bytes: 2 },
        { name: 'party', is: 'pointer', pointer, to: { is: 'list', record: 'member', count: { field: 'size' } } },
        { name: 'says', is: 'pointer', pointer, to: { is: 'text', text: 'plain' } },
      ],
    },
    member: {
      fields: [
        { name: 'kind', is: 'number', bytes: 2 },
        { name: 'power', is: 'number', bytes: 2 },
      ],
    },
  },
  sections: [{ name: 'people', record: 'person', by: { at: 4, pointer }, count: { at: 0, bytes: 4 } }],
  free: { fill: 255, regions: [[64, SIZE]], align: 4, margin: 4 },
  checksums: [{ at: 8, kind: 'CRC-32/ISO-HDLC', over: [[16, SIZE]] }],
};

/** Twenty thousand people with parties and words; the rest of it is of no known kind. */
function largeBank(people = 20_000) {
  const bytes = new Uint8Array(SIZE).fill(255);
  bytes.fill(0, 0, 64);
  bytes.set(randomBytes(12 << 20), 2 << 20);
  const { data } = readBank(bytes, LAYOUT);
  data.sections.people.rows = Array.from({ length: people }, (_, n) => {
    const rows = Array.from({ length: 1 + (n % 4) }, (__, k) => ({ at: -1, values: { kind: k, power: n % 999 } }));
    data.blocks[`p${n}`] = { at: -1, bytes: 0, to: LAYOUT.records.person.fields[3].to, rows };
    data.blocks[`t${n}`] = {
      at: -1,
      bytes: 0,
      to: LAYOUT.records.person.fields[4].to,
      text: 'the tide is out again today'.replaceAll(' ', '').slice(n % 9),
    };
    return { at: -1, values: { name: 'lamplighter', level: n % 100, size: rows.length, party: { block: `p${n}` }, says: { block: `t${n}` } } };
  });
  return writeBank(bytes, LAYOUT, data).bytes;
}

const elapsed = (work) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];

export function banks(rounds = 3) {
  const folder = mkdtempSync(join(tmpdir(), 'violet-banks-'));
  try {
    const bytes = largeBank();
    const times = Array.from({ length: rounds }, () =>
      elapsed(() => {
        const before = readBank(bytes, LAYOUT);
        const { data } = before;
        const next = { ...data, blocks: { ...data.blocks } };
        for (let n = 0; n < 50; n++) {
          const { block } = next.sections.people.rows[n * 7].values.party;
          const { rows } = next.blocks[block];
          next.blocks[block] = { ...next.blocks[block], rows: [...rows, { at: -1, values: { kind: 9, power: 9 } }] };
        }
        writeBank(bytes, LAYOUT, next, {}, before);
      }),
    );
    console.log(`Reading and writing a bank of 16 MiB, 20,000 people, 50 parties moved: ${median(times).toFixed(0)} ms`);
    const wide = new Uint8Array(64 << 20).fill(255);
    for (let at = 0; at < wide.length; at += 4096) wide.set(bytes.subarray(0, 512), at);
    const taken = new Ledger();
    const room = Array.from({ length: rounds }, () =>
      elapsed(() => freeRuns(wide, { free: { fill: 255, regions: [[0, wide.length]], margin: 8 } }, taken)),
    );
    console.log(`Free room in 64 MiB: ${median(room).toFixed(0)} ms`);
    const old = new Uint8Array(randomBytes(SIZE));
    const next = old.slice();
    for (let n = 0; n < SIZE / 100; n++) next[(n * 7919 * 13) % SIZE] ^= 1 + (n % 255);
    const [from, to, patch] = ['old', 'next', 'patch'].map((name) => join(folder, name));
    writeFileSync(from, old);
    writeFileSync(to, next);
    const ratios = [];
    let ours = 0;
    for (let round = 0; round < rounds; round++) {
      const mine = elapsed(() => (ours = makePatch(old, next).length));
      ratios.push(mine / elapsed(() => execFileSync('xdelta3', ['-3', '-e', '-f', '-q', '-S', 'none', '-s', from, to, patch])));
    }
    console.log(
      `A patch of 16 MiB (reference: xdelta3 -3): ${median(ratios).toFixed(2)} × its time, ${(ours / statSync(patch).size).toFixed(2)} × its size`,
    );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

if (process.argv[1] === import.meta.filename) banks(5);
