/** Reads damaged files one after another and tells before each, so that a hang is noticed from outside. */
import { parentPort, workerData } from 'node:worker_threads';
import fc from 'fast-check';
import { readZip } from '@violet-crate/core/asset/archive/zip';
import { readModel } from '@violet-crate/core/asset/mesh/read/readModel';
import { readSound } from '@violet-crate/core/asset/sound/readSound';
import { readImage } from '@violet-crate/core/asset/texture/readImage';
import { isExr, isHdr, readLight } from '@violet-crate/core/asset/texture/readLight';
import { assetKindOf } from '@violet-crate/core/crate/assetKind';
import { mapOfBank } from '@violet-crate/core/bank/bankMap';
import { readBank } from '@violet-crate/core/bank/read';
import { LAYOUT, smallBank } from '@violet-crate/core/bank/testing';
import { writeBank } from '@violet-crate/core/bank/write';
import { applyPatch } from '@violet-crate/core/patch/applyPatch';
import { cellProblems } from '@violet-crate/core/table/cell';
import { readTable, valueAt } from '@violet-crate/core/table/document';
import { planImport } from '@violet-crate/core/table/exchange';
import { Tables } from '@violet-crate/core/table/tables';
import { readTalk, writeTalk } from '@violet-crate/core/talk/document';
import { pathsThrough } from '@violet-crate/core/talk/paths';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readScript } from '@violet-crate/core/script/check';

const { file, bytes, cases, seed } = workerData;

const KIT = {
  id: 'kit',
  label: 'Kit',
  key: 'id',
  columns: [
    { id: 'id', label: 'Key', type: 'text', most: 20 },
    { id: 'name', label: 'Name', type: 'text', letters: 'abcdef' },
    { id: 'weight', label: 'Weight', type: 'number', least: 0, most: 50 },
    { id: 'parts', label: 'Parts', type: 'rows', table: 'kit', most: 3 },
    { id: 'of', label: 'Of', type: 'reference', table: 'kit' },
    { id: 'load', label: 'Load', type: 'formula', formula: 'sum(parts.load) + of.weight + weight * 2' },
  ],
};

async function read(damaged) {
  if (file.endsWith('.zip')) return readZip(damaged, file, { maxEntry: 1 << 24, maxTotal: 1 << 25, maxEntries: 100 });
  if (file.endsWith('.bnk')) {
    const bank = readBank(damaged, LAYOUT);
    mapOfBank(damaged, LAYOUT, bank);
    // What reads is written, and nobody changed it.
    return writeBank(damaged, LAYOUT, bank.data);
  }
  const text = () => new TextDecoder().decode(damaged);
  if (file.endsWith('.talk.json')) {
    const talk = readTalk(text(), 'talk/a.json');
    pathsThrough(talk, new Set(['met', 'won']));
    // What was read is written as what reads the same.
    if (JSON.stringify(readTalk(writeTalk(talk), 'talk/a.json')) !== JSON.stringify(talk)) throw new Error('another one after writing');
    return talk;
  }
  if (file.endsWith('.table.json')) {
    const document = readTable(text(), 'records/kit.json');
    const tables = new Tables([KIT], {}, document);
    for (const row of document.rows)
      for (const column of KIT.columns) {
        cellProblems(column, valueAt(column, row));
        if (column.type === 'formula') tables.computed(KIT, row, column);
        else tables.referencesOf(KIT, row);
      }
    return document;
  }
  if (file.endsWith('.csv')) return planImport(KIT, { format: 1, table: 'kit', rows: [] }, text(), file);
  if (file.endsWith('.vcdiff')) return applyPatch(smallBank(), damaged, file, 1 << 24);
  switch (assetKindOf(file)) {
    case 'model':
      return readModel(damaged, file, new Map([['a.mtl', new TextEncoder().encode('newmtl red\nKd 1 0 0\n')]]));
    case 'texture':
      return isHdr(damaged) || isExr(damaged) ? readLight(damaged, file) : readImage(damaged, file);
    case 'sound':
      return readSound(damaged, file);
    default:
      return readScript(file, new TextDecoder().decode(damaged));
  }
}

/** What transfer errors, bad disks and hand editing do: bytes changed, numbers made large, pieces cut, doubled or moved. */
const change = fc.oneof(
  fc.record({ kind: fc.constant('set'), at: fc.nat(), value: fc.nat(255) }),
  fc.record({
    kind: fc.constant('number'),
    at: fc.nat(),
    value: fc.constantFrom(0, 1, 0x7f, 0xff, 0x7fff, 0xffff, 0x7fffffff, 0xffffffff, 0x80000000),
  }),
  fc.record({ kind: fc.constant('cut'), at: fc.nat() }),
  fc.record({ kind: fc.constant('drop'), at: fc.nat(), value: fc.integer({ min: 1, max: 16 }) }),
  fc.record({ kind: fc.constant('double'), at: fc.nat(), value: fc.integer({ min: 1, max: 64 }) }),
);

function damage(source, changes) {
  let out = source;
  for (const { kind, at: anywhere, value } of changes) {
    const at = anywhere % Math.max(1, out.length);
    if (kind === 'cut') out = out.slice(0, at);
    else if (kind === 'drop') out = new Uint8Array([...out.subarray(0, at), ...out.subarray(at + value)]);
    else if (kind === 'double') out = new Uint8Array([...out.subarray(0, at + value), ...out.subarray(at)]);
    else {
      out = out.slice();
      if (kind === 'set' && out.length > 0) out[at] = value;
      if (kind === 'number') for (let k = 0; k < 4 && at + k < out.length; k++) out[at + k] = (value >>> (8 * k)) & 255;
    }
  }
  return out;
}

let done = 0;
let refused = 0;
const faults = [];
// The file as it is has to be read, or the damage would prove nothing.
try {
  await read(bytes);
} catch (error) {
  faults.push(`the undamaged file: ${error.stack ?? error}`);
}
for (const changes of fc.sample(fc.array(change, { minLength: 1, maxLength: 4 }), { numRuns: cases, seed })) {
  parentPort.postMessage({ begin: done, changes });
  try {
    await read(damage(bytes, changes));
  } catch (error) {
    if (error instanceof UnreadableInput && error.message.length > 10) refused++;
    else faults.push(`case ${done}, ${JSON.stringify(changes)}: ${error?.stack ?? error}`);
  }
  done++;
}
parentPort.postMessage({ end: true, done, refused, faults });
