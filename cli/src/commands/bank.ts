import { existsSync } from 'node:fs';
import { bankUse, mapOfBank } from '@violet-crate/core/bank/bankMap';
import { bankDocument, dataOf, readBankDocument } from '@violet-crate/core/bank/document';
import { compareBanks, withBytes } from '@violet-crate/core/bank/editBytes';
import { knownVersion, needKnown } from '@violet-crate/core/bank/known';
import { readLayout, type BankLayout } from '@violet-crate/core/bank/layout';
import { readBank } from '@violet-crate/core/bank/read';
import { writeBank } from '@violet-crate/core/bank/write';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { UsageError, type Command, type Options, type Outcome } from '../command.ts';
import { profileById } from '../folder.ts';
import { readInput } from '../readInput.ts';
import { needFree, writeOutput } from '../output.ts';

const ACTS = ['inspect', 'read', 'write', 'diff'] as const;
type Act = (typeof ACTS)[number];

/** Differences and pieces that are told as text; the document has all. */
const SHOWN = 200;

export const bankCommand: Command = {
  summary: 'Look into a game’s binary bank, read it as a document, write a changed one beside it, or tell two apart.',
  usage: 'crate bank inspect|read|write|diff FILE [OTHER] --layout LAYOUT [--data FILE.json] [--out FILE]',
  options: {
    layout: { value: 'LAYOUT', summary: 'a file with the layout, or PROFILE:BANK for one of a profile', required: true },
    out: { value: 'FILE', summary: 'read: where the document goes; write: where the changed bank goes, never the original' },
    data: { value: 'FILE.json', summary: 'write: the document as changed' },
    place: { value: 'ID=BYTE', summary: 'write: where one thing is to lie; several with commas between' },
    unknown: { summary: 'also where the layout does not know the bank; it is only read then' },
  },
  arguments: [2, 3],
  run([word, file, other], options) {
    if (!(ACTS as readonly string[]).includes(word)) throw new UsageError(`"${word}" is not known; use ${ACTS.join(', ')}.`);
    const act = word as Act;
    if ((act === 'diff') !== (other !== undefined))
      throw new UsageError(act === 'diff' ? 'crate bank diff needs two banks.' : `crate bank ${act} takes one bank.`);
    const layout = layoutOf(options.layout!);
    const bytes = readInput(file);
    if (options.unknown === undefined) needKnown(bytes, layout, file);
    const outcome = { inspect, read, write, diff }[act](bytes, layout, file, other, options);
    return Promise.resolve(outcome);
  },
};

function layoutOf(given: string): BankLayout {
  const [, profile, bank] = /^([a-z][a-z0-9_]*):([a-z][a-z0-9_]*)$/.exec(given) ?? [];
  if (!profile || existsSync(given)) return readLayout(new TextDecoder().decode(readInput(given)), given);
  const found = (profileById(profile).banks ?? []).find(({ layout }) => layout.id === bank);
  if (!found) throw new UnreadableInput('bank-unknown', `The profile ${profile} has no bank ${bank}.`, {}, 'Look with "crate profile".');
  return found.layout;
}

function inspect(bytes: Uint8Array, layout: BankLayout, file: string): Outcome {
  const read = readBank(bytes, layout);
  const pieces = mapOfBank(bytes, layout, read);
  const use = bankUse(pieces);
  const version = knownVersion(bytes, layout);
  const largest = Math.max(0, ...pieces.filter(({ kind }) => kind === 'free').map(({ from, to }) => to - from));
  const rows = Object.entries(read.data.sections).map(([name, section]) => ({
    name,
    at: section.at,
    bytes: section.bytes,
    rows: section.rows.length,
  }));
  return {
    code: 0,
    result: { file, version, bytes: bytes.length, use, largestFree: largest, sections: rows, pieces, pointers: read.pointers.length },
    text: [
      `${file}: ${layout.title}, ${version ?? 'a version that is not known'}, ${bytes.length} bytes`,
      ...rows.map((one) => `  ${one.name}: ${one.rows} rows at byte ${one.at}`),
      `  ${use.section + use.block + use.pointer + use.count + use.checksum} bytes known, ${use.free} free (${largest} in one piece), ${use.unknown} unknown`,
      ...pieces.slice(0, SHOWN).map(({ from, to, what }) => `  ${String(from).padStart(8)} ${String(to - from).padStart(7)}  ${what}`),
    ].join('\n'),
  };
}

function read(bytes: Uint8Array, layout: BankLayout, file: string, _other: string | undefined, options: Options): Outcome {
  const document = bankDocument(layout, readBank(bytes, layout).data);
  if (options.out !== undefined) writeOutput(options.out, Buffer.from(JSON.stringify(document, null, 1)), [file], options);
  const rows = Object.values(document.sections).reduce((sum, list) => sum + list.length, 0);
  return {
    code: 0,
    result: options.out === undefined ? { document } : { out: options.out, rows },
    text: options.out === undefined ? JSON.stringify(document, null, 1) : `${options.out}: ${rows} rows of ${file}.`,
  };
}

function write(bytes: Uint8Array, layout: BankLayout, file: string, _other: string | undefined, options: Options): Outcome {
  const { data, out } = options;
  if (data === undefined || out === undefined)
    throw new UsageError('crate bank write needs --data with the document, and --out for the changed bank.');
  if (options.unknown !== undefined) throw new UsageError('A bank that its layout does not know is only read.');
  needFree(out, [file, data], options);
  const document = readBankDocument(new TextDecoder().decode(readInput(data)), data);
  const base = withBytes(bytes, layout, document);
  const before = readBank(base, layout);
  const next = dataOf(layout, before.data, document, data);
  const places = Object.fromEntries(
    (options.place ?? '')
      .split(',')
      .filter((one) => one !== '')
      .map((one) => {
        const [, id, place] = /^(.+)=(\d+)$/.exec(one) ?? [];
        if (!id) throw new UsageError(`"${one}" is no place; write ID=BYTE.`);
        return [id, Number(place)];
      }),
  );
  const { bytes: made, ...report } = writeBank(base, layout, next, places, before);
  writeOutput(out, made, [file, data], options);
  return {
    code: 0,
    result: { out, bytes: made.length, ...report },
    text: [
      `${out}: ${made.length} bytes.`,
      ...report.moved.map(
        ({ what, from, to, bytes: size }) => `  ${what}: ${size} bytes at ${to}${from === null ? ', new' : `, moved from ${from}`}`,
      ),
      ...report.pointers.map(({ at, what, from, to }) => `  pointer at ${at} (${what}): ${from ?? 'nowhere'} → ${to ?? 'nowhere'}`),
      ...report.freed.map(({ from, to }) => `  ${to - from} bytes from ${from} on are free now`),
      ...report.checksums.map(({ at, kind, to }) => `  ${kind} at ${at}: ${to.toString(16)}`),
    ].join('\n'),
  };
}

/** The second may be a changed one, which no layout knows. */
function diff(bytes: Uint8Array, layout: BankLayout, file: string, other: string | undefined): Outcome {
  const second = readInput(other!);
  const found = compareBanks(layout, bytes, second);
  return {
    code: 0,
    result: { from: file, to: other, differences: found },
    text:
      found
        .slice(0, SHOWN)
        .map(
          ({ where, before, after }) =>
            `${where}: ${before === null ? `new: ${after}` : after === null ? `gone: ${before}` : `${before} → ${after}`}`,
        )
        .join('\n') || 'They hold the same.',
  };
}
