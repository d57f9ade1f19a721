/**
 * Writes a changed bank: what kept its size where it was, what grew to free room, with every pointer to it. Never over anything that is
 * known, and never over the original, which is only read.
 */

import { UnreadableInput } from '../unreadable.ts';
import { CHECKSUMS, checksum, type ChecksumKind } from './checksum.ts';
import { encodeRows, type Encoded } from './encode.ts';
import { readUnsigned, writeInteger } from './integers.ts';
import { plainTarget, recordBytes, type BankLayout, type PointerSpec } from './layout.ts';
import { pack } from './packing.ts';
import { withCounts } from './counts.ts';
import { follow, readBank, type BankData, type BankRead, type Block, type Claim, type Link, type Row } from './read.ts';
import { freeRuns, Ledger, placeFor, type Span } from './room.ts';
import { sameData } from './same.ts';
import { unhex, writeText } from './texts.ts';

export interface Moved {
  /** Id of a block, or `section:NAME`. */
  id: string;
  /** In words, as it was read: `people 3, party`. */
  what: string;
  /** Null for what is new. */
  from: number | null;
  to: number;
  bytes: number;
}

export interface BankWritten {
  bytes: Uint8Array;
  moved: Moved[];
  /** Pointers whose value is another one. */
  pointers: { at: number; what: string; from: number | null; to: number | null }[];
  /** What is filled now and was used before. */
  freed: Span[];
  checksums: { at: number; kind: ChecksumKind; from: number; to: number }[];
}

interface Piece {
  id: string;
  what: string;
  old: Span | null;
  content: Encoded;
  at: number;
  movable: boolean;
}

/**
 * @param next what `readBank` answered of the original, changed
 * @param places where something is to lie instead of where it would be put, by id
 * @param before what was read of the original, where it was read already
 * @throws UnreadableInput with what does not fit, how much room is missing, or which chosen place is not free
 */
export function writeBank(
  original: Uint8Array,
  layout: BankLayout,
  next: BankData,
  places: Readonly<Record<string, number>> = {},
  before = readBank(original, layout),
): BankWritten {
  return new Writer(original, layout, next, places, before).write();
}

const sectionId = (name: string): string => `section:${name}`;

/** The piece that a claim is of; null for what is no piece: pointers, counts, checksums. */
const pieceIn = ({ block, kind, section }: Claim): string | null => block ?? (kind === 'section' ? sectionId(section!) : null);

/** Ids of what lies over nothing else: only that may be changed in its place. */
function aloneIn(claims: readonly Claim[]): Set<string> {
  const sorted = [...claims].sort((a, b) => a.from - b.from || a.to - b.to);
  const shared = new Set<Claim>();
  let far: Claim | null = null;
  for (const claim of sorted) {
    if (far && claim.from < far.to) shared.add(claim).add(far);
    if (!far || claim.to > far.to) far = claim;
  }
  return new Set(sorted.flatMap((claim) => (shared.has(claim) ? [] : (pieceIn(claim) ?? []))));
}

class Writer {
  private readonly out: Uint8Array;
  private readonly next: BankData;
  private readonly alone: ReadonlySet<string>;
  private readonly pieces = new Map<string, Piece>();
  /** By id: what the pointers to a block can reach, and the windows that it may not lie across. */
  private readonly reaches = new Map<string, { below: number; window: number }>();
  private readonly words = new Map<string, string>();
  private readonly moved: Moved[] = [];
  private readonly pointers: BankWritten['pointers'] = [];

  constructor(
    private readonly original: Uint8Array,
    private readonly layout: BankLayout,
    given: BankData,
    private readonly places: Readonly<Record<string, number>>,
    private readonly before: BankRead,
  ) {
    this.out = original.slice();
    this.next = withCounts(layout, given);
    this.alone = aloneIn(this.before.claims);
    for (const { to, what } of this.before.pointers) if (!this.words.has(to)) this.words.set(to, what);
  }

  write(): BankWritten {
    const packed = this.gather();
    const freed = this.settle();
    this.allocate([...this.pieces.values()], freed);
    this.placePacked(packed, freed);
    for (const piece of this.pieces.values()) this.out.set(piece.content.bytes, piece.at);
    this.point();
    this.counts();
    const checksums = this.checksums();
    const again = readBank(this.out, this.layout);
    if (!sameData(this.next, again.data))
      throw new UnreadableInput(
        'bank-verify',
        'What would be written does not read as what was meant; nothing was written.',
        {},
        'Please report it with the layout.',
      );
    return { bytes: this.out, moved: this.moved, pointers: this.pointers, freed: freed.filter(({ from, to }) => this.changed(from, to)), checksums };
  }

  private changed(from: number, to: number): boolean {
    for (let i = from; i < to; i++) if (this.out[i] !== this.original[i]) return true;
    return false;
  }

  /** Everything that there will be, as bytes, but for what is packed: that depends on where the rest comes to lie. */
  private gather(): { id: string; block: Block }[] {
    const open: Link[] = [];
    const follow = (rows: readonly Row[]): void => {
      for (const { values } of rows)
        for (const value of Object.values(values))
          if (Array.isArray(value)) follow(value);
          else if (value !== null && typeof value === 'object') open.push(value);
    };
    for (const section of this.layout.sections) {
      const { name, record, count, by, most } = section;
      const now = this.next.sections[name];
      const was = this.before.data.sections[name];
      if (typeof count === 'number' && now.rows.length !== count)
        throw new UnreadableInput('bank-count', `${name} has ${count} rows in this game, neither more nor fewer; there are ${now.rows.length}.`);
      if (most !== undefined && now.rows.length > most)
        throw new UnreadableInput('bank-count', `${name} has at most ${most} rows in this game; there are ${now.rows.length}.`);
      if (was.at < 0 && now.rows.length === 0) continue;
      const content = encodeRows(this.layout, record, now.rows, this.original, name);
      if (typeof count === 'object' && 'end' in count) content.bytes = joined(content.bytes, count.end);
      const mark = content.bytes.length - now.rows.length * recordBytes(this.layout, record);
      // Room that the game keeps for rows to come is the section's own.
      const reserved = !by && most !== undefined ? most * recordBytes(this.layout, record) + mark : was.bytes;
      const old = was.at < 0 ? null : { from: was.at, to: was.at + Math.max(was.bytes, reserved) };
      if (!by && content.bytes.length > old!.to - old!.from)
        throw new UnreadableInput(
          'bank-room',
          `${name} needs ${content.bytes.length} bytes where it lies, and has ${old!.to - old!.from}: ${content.bytes.length - old!.to + old!.from} are missing, and nothing leads to it, so that it cannot be moved.`,
          { byte: old!.from },
          'Take rows out of it.',
        );
      this.pieces.set(sectionId(name), { id: sectionId(name), what: name, old, content, at: -1, movable: by !== undefined });
      if (by) this.limit(sectionId(name), by.pointer);
      follow(now.rows);
    }
    const packed: { id: string; block: Block }[] = [];
    const seen = new Set<string>();
    for (let link = open.pop(); link; link = open.pop()) {
      const { block: id } = link;
      if (seen.has(id)) continue;
      seen.add(id);
      if (!Object.hasOwn(this.next.blocks, id)) throw new UnreadableInput('bank-link', `Something leads to ${id}, which is not there.`);
      const block = this.next.blocks[id];
      if (block.rows) follow(block.rows);
      const content = this.plain(block, id);
      for (const { spec, link: to } of content.links) if (to) this.limit(to.block, spec);
      if (block.to.is === 'packed') packed.push({ id, block });
      else this.pieces.set(id, this.pieceOf(id, block, content));
    }
    for (const { content } of this.pieces.values()) for (const { spec, link } of content.links) if (link) this.limit(link.block, spec);
    this.reached = seen;
    return packed;
  }
  private reached = new Set<string>();

  private limit(id: string, spec: PointerSpec): void {
    const known = this.reaches.get(id) ?? { below: Infinity, window: 0 };
    const most = spec.window ? spec.window.size * 256 : spec.from === 'field' ? Infinity : 256 ** spec.bytes - (spec.base ?? 0);
    this.reaches.set(id, { below: Math.min(known.below, most), window: spec.window?.size ?? known.window });
  }

  private pieceOf(id: string, block: Block, content: Encoded): Piece {
    return {
      id,
      what: this.words.get(id) ?? 'something new',
      old: block.at < 0 ? null : { from: block.at, to: block.at + block.bytes },
      content,
      at: -1,
      movable: true,
    };
  }

  /** A block's content before it is packed. */
  private plain(block: Block, id: string): Encoded {
    const to = plainTarget(block.to);
    const { texts } = this.layout;
    if (to.is === 'text') return { bytes: joined(Uint8Array.from(writeText(block.text ?? '', texts[to.text])), texts[to.text].end), links: [] };
    const content = encodeRows(this.layout, to.record, block.rows ?? [], block.unpacked ?? this.original, this.words.get(id) ?? id);
    if (typeof to.count === 'object' && 'end' in to.count) content.bytes = joined(content.bytes, to.count.end);
    if (typeof to.count === 'number' && block.rows?.length !== to.count)
      throw new UnreadableInput('bank-count', `${this.words.get(id) ?? id} has ${to.count} rows in this game; there are ${block.rows?.length ?? 0}.`);
    return content;
  }

  /** Decides what stays where it is, and fills the places of what does not. Answers what became free. */
  private settle(): Span[] {
    const stays: Span[] = [];
    const { alone } = this;
    for (const piece of this.pieces.values()) {
      const { old, content } = piece;
      if (!old) continue;
      const chosen = Object.hasOwn(this.places, piece.id) && this.places[piece.id] !== old.from;
      const same = content.bytes.length <= old.to - old.from && this.equal(content.bytes, old.from);
      const fits = content.bytes.length <= old.to - old.from && (alone.has(piece.id) || !piece.movable);
      if (!chosen && (same || fits)) {
        piece.at = old.from;
        stays.push(old);
      }
    }
    // Packed ones stay if they can; that is seen when they are packed.
    const waits = (id: string) => this.reached.has(id) && this.next.blocks[id].to.is === 'packed';
    const goes = new Set(
      this.before.claims.filter((claim) => {
        const id = pieceIn(claim);
        return id !== null && !waits(id) && !((this.pieces.get(id)?.at ?? -1) >= 0);
      }),
    );
    for (const claim of this.before.claims) if (!goes.has(claim)) stays.push(claim);
    const here = Ledger.of(stays);
    const freed = [...goes].flatMap(({ from, to }) => this.fillBut(here, from, to));
    // What stays and became shorter leaves fill behind it.
    for (const piece of this.pieces.values())
      if (piece.at >= 0 && piece.old && piece.movable && alone.has(piece.id) && piece.content.bytes.length < piece.old.to - piece.old.from) {
        this.out.fill(this.layout.free.fill, piece.at + piece.content.bytes.length, piece.old.to);
        freed.push({ from: piece.at + piece.content.bytes.length, to: piece.old.to });
      }
    this.kept = here;
    return freed;
  }
  private kept = new Ledger();

  private equal(bytes: Uint8Array, at: number): boolean {
    return bytes.every((byte, i) => this.original[at + i] === byte);
  }

  private fillBut(taken: Ledger, from: number, to: number): Span[] {
    const spans: Span[] = [];
    for (let at = from; at < to;) {
      const next = Math.min(to, taken.nextTaken(at));
      if (next > at) {
        this.out.fill(this.layout.free.fill, at, next);
        spans.push({ from: at, to: next });
        at = next;
      } else {
        at = taken.endOf(at);
      }
    }
    return spans;
  }

  private allocate(pieces: readonly Piece[], freed: readonly Span[]): void {
    const wanting = pieces.filter((piece) => piece.at < 0);
    if (wanting.length === 0) return;
    const { free } = this.layout;
    const take = (piece: Piece, at: number): void => {
      const size = piece.content.bytes.length;
      piece.at = at;
      this.kept.takeOver(at, at + size);
      this.moved.push({ id: piece.id, what: piece.what, from: piece.old?.from ?? null, to: at, bytes: size });
    };
    for (const piece of wanting) if (Object.hasOwn(this.places, piece.id)) take(piece, this.chosen(piece));
    const runs = freeRuns(this.out, this.layout, this.kept);
    const left = wanting.filter((piece) => piece.at < 0);
    for (const [n, piece] of left.entries()) {
      const size = piece.content.bytes.length;
      const at = size === 0 ? (runs[0]?.from ?? 0) : placeFor(runs, size, { align: free.align, ...this.reaches.get(piece.id) });
      if (at === null) throw this.noRoom(piece, left.slice(n), runs, freed);
      take(piece, at);
    }
  }

  private chosen(piece: Piece): number {
    const at = this.places[piece.id];
    const to = at + piece.content.bytes.length;
    const { regions, fill, align = 1 } = this.layout.free;
    const not = (why: string) =>
      new UnreadableInput('bank-place', `${piece.what} cannot lie at byte ${at}: ${why}.`, { byte: at }, 'Choose another place, or none.');
    if (!regions.some(([from, end]) => at >= from && to <= end) || to > this.out.length)
      throw not('it would lie outside the regions that the layout allows');
    if (at % align !== 0) throw not(`places are multiples of ${align}`);
    if (!this.kept.isFree(at, to)) throw not('something else lies there');
    for (let i = at; i < to; i++) if (this.out[i] !== fill) throw not(`byte ${i} is not free`);
    return at;
  }

  private noRoom(piece: Piece, left: readonly Piece[], runs: readonly Span[], freed: readonly Span[]): UnreadableInput {
    const need = left.reduce((sum, { content }) => sum + content.bytes.length, 0);
    const largest = Math.max(0, ...runs.map(({ from, to }) => to - from));
    const size = piece.content.bytes.length;
    const room = runs.reduce((sum, { from, to }) => sum + to - from, 0);
    const most = Object.entries(this.next.blocks)
      .filter(([, block]) => block.at >= 0)
      .sort(([, a], [, b]) => b.bytes - a.bytes)
      .slice(0, 3)
      .map(([id, block]) => `${this.words.get(id) ?? id} (${block.bytes})`);
    return new UnreadableInput(
      'bank-room',
      `There is no room for ${piece.what}: it needs ${size} bytes in one piece, the largest free one has ${largest}; ${Math.max(size - largest, need - room)} are missing.`,
      {},
      `Free some: the largest things are ${most.join(', ')}.${freed.length > 0 ? ' What you made free already is counted in.' : ''}`,
    );
  }

  private placePacked(packed: { id: string; block: Block }[], freed: Span[]): void {
    let open = packed;
    while (open.length > 0) {
      const waiting: typeof open = [];
      for (const one of open) {
        const content = this.plain(one.block, one.id);
        if (content.links.some(({ link }) => link !== null && !((this.pieces.get(link.block)?.at ?? -1) >= 0))) {
          waiting.push(one);
          continue;
        }
        this.packedPiece(one, content, freed);
      }
      if (waiting.length === open.length)
        throw new UnreadableInput(
          'bank-packed',
          `${waiting.map(({ id }) => this.words.get(id) ?? id).join(' and ')} are packed and lead to each other, so that neither can be packed first.`,
        );
      open = waiting;
    }
  }

  private packedPiece({ id, block }: { id: string; block: Block }, content: Encoded, freed: Span[]): void {
    if (block.to.is !== 'packed') return;
    for (const { offset, spec, link, what, known } of content.links) this.putPointer(content.bytes, offset, null, spec, link, what, known);
    const same =
      block.unpacked !== undefined && block.unpacked.length === content.bytes.length && content.bytes.every((byte, i) => block.unpacked![i] === byte);
    const small = same ? this.original.slice(block.at + 8, block.at + block.bytes) : pack(block.to.by, content.bytes);
    const bytes = new Uint8Array(8 + small.length);
    writeInteger(bytes, 0, 4, this.layout.order, BigInt(content.bytes.length));
    writeInteger(bytes, 4, 4, this.layout.order, BigInt(small.length));
    bytes.set(small, 8);
    const piece = this.pieceOf(id, block, { bytes, links: [] });
    this.pieces.set(id, piece);
    const { old } = piece;
    if (old && bytes.length <= old.to - old.from && (same || this.alone.has(id)) && !Object.hasOwn(this.places, id)) {
      piece.at = old.from;
      this.out.fill(this.layout.free.fill, old.from + bytes.length, old.to);
      return;
    }
    this.allocate([piece], freed);
    if (old && this.alone.has(id)) {
      this.out.fill(this.layout.free.fill, old.from, old.to);
      freed.push(old);
    }
  }

  /** Sets every pointer to where its target came to lie. */
  private point(): void {
    for (const { content, at } of this.pieces.values())
      for (const { offset, spec, link, what, known } of content.links) this.putPointer(this.out, at + offset, at + offset, spec, link, what, known);
    for (const { name, by } of this.layout.sections) {
      if (!by) continue;
      const piece = this.pieces.get(sectionId(name));
      this.putPlace(this.out, by.at, by.at, by.pointer, piece ? piece.at : null, `the pointer to ${name}`, true);
    }
  }

  private putPointer(bytes: Uint8Array, offset: number, at: number | null, spec: PointerSpec, link: Link | null, what: string, known: boolean): void {
    this.putPlace(bytes, offset, at, spec, link && this.pieces.get(link.block)!.at, what, known);
  }

  /** @param at its place in the file; null for one within what is packed. @param known whether its old value stands in the bytes */
  private putPlace(
    bytes: Uint8Array,
    offset: number,
    at: number | null,
    spec: PointerSpec,
    place: number | null,
    what: string,
    known: boolean,
  ): void {
    const before = spec.window?.number === 'before' ? 1 : 0;
    if (known) {
      const led = follow(this.layout, bytes, offset, spec);
      // Many values may lead to one place: one that does is left as it is.
      if (led === place) return;
    }
    const from = known ? follow(this.layout, bytes, offset, spec) : null;
    const order = spec.order ?? this.layout.order;
    let value: number;
    if (place === null) {
      if (spec.none === undefined) throw new UnreadableInput('bank-pointer', `${what} has to lead somewhere: this game has no value for nowhere.`);
      value = spec.none;
    } else if (spec.window) {
      const number = Math.floor(place / spec.window.size);
      if (number > 255) throw new UnreadableInput('bank-pointer', `${what} cannot reach byte ${place}: windows are numbered up to 255.`);
      value = (place % spec.window.size) + (spec.base ?? 0);
      bytes[before ? offset : offset + spec.bytes] = number;
    } else value = (spec.from === 'field' ? place - (at ?? 0) : place) + (spec.base ?? 0);
    if (value < 0 || value >= 256 ** spec.bytes)
      throw new UnreadableInput(
        'bank-pointer',
        `${what} cannot reach byte ${place}: its ${spec.bytes} bytes hold 0 to ${256 ** spec.bytes - 1}.`,
        {},
        'Allow regions that it reaches in the layout, or choose another place.',
      );
    if (place !== null && value === spec.none)
      throw new UnreadableInput('bank-pointer', `${what} cannot lead to byte ${place}: that value means nowhere.`);
    writeInteger(bytes, offset + before, spec.bytes, order, BigInt(value));
    if (at !== null) this.pointers.push({ at, what, from, to: place });
  }

  private counts(): void {
    for (const { name, count } of this.layout.sections) {
      if (typeof count !== 'object' || !('at' in count)) continue;
      const rows = this.next.sections[name].rows.length;
      if (rows >= 256 ** count.bytes) throw new UnreadableInput('bank-count', `${name} has ${rows} rows; its count holds ${256 ** count.bytes - 1}.`);
      writeInteger(this.out, count.at, count.bytes, this.layout.order, BigInt(rows));
    }
  }

  private checksums(): BankWritten['checksums'] {
    // A bank that nobody changed stays as it is, whatever its checksums are.
    return this.changed(0, this.out.length) ? makeChecksums(this.out, this.layout) : [];
  }
}

/** Makes all checksums anew, in place. Answers those that are others now. */
export function makeChecksums(bytes: Uint8Array, layout: BankLayout): BankWritten['checksums'] {
  const made: BankWritten['checksums'] = [];
  for (const { at, kind, over, order = layout.order } of layout.checksums ?? []) {
    const size = CHECKSUMS[kind];
    const from = readUnsigned(bytes, at, size, order);
    const to = checksum(kind, bytes, over);
    writeInteger(bytes, at, size, order, BigInt(to));
    if (from !== to) made.push({ at, kind, from, to });
  }
  return made;
}

function joined(bytes: Uint8Array, hex: string): Uint8Array {
  const mark = unhex(hex);
  const out = new Uint8Array(bytes.length + mark.length);
  out.set(bytes);
  out.set(mark, bytes.length);
  return out;
}
