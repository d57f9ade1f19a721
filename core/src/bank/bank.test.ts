import { describe, expect, it } from '@jest/globals';
import { checksum } from './checksum.ts';
import { withCounts } from './counts.ts';
import { readLayout, type BankLayout } from './layout.ts';
import { readBank, type BankData, type Row } from './read.ts';
import { freeRuns, Ledger, placeFor } from './room.ts';
import { sameData } from './same.ts';
import { LAYOUT, smallBank } from './testing.ts';
import { writeBank } from './write.ts';

const copy = (data: BankData): BankData => structuredClone(data);
const partyOf = (data: BankData, n: number): Row[] => data.blocks[(data.sections.people.rows[n].values.party as { block: string }).block].rows!;
const nameOf = (data: BankData, n: number): string => data.blocks[(data.sections.people.rows[n].values.name as { block: string }).block].text!;
const read = (bytes = smallBank()) => readBank(bytes, LAYOUT).data;
const member = (kind: number): Row => ({ at: -1, values: { kind, level: 20, kit: 258 } });

describe('a bank is read', () => {
  it('to rows with their places, and what pointers lead to', () => {
    const { data, claims } = readBank(smallBank(), LAYOUT);
    expect(data.sections.people.rows.map(({ at }) => at)).toEqual([16, 32, 48]);
    expect(data.sections.people.rows[0].values).toMatchObject({ turn: 2, sees: 5, size: 3, speed: 1.5, tag: 'ab' });
    expect([0, 1, 2].map((n) => nameOf(data, n))).toEqual(['Old Ada', 'Ada', 'Wil']);
    expect(partyOf(data, 0).map(({ values }) => values)).toEqual([
      { kind: 1, level: 10, kit: 5 },
      { kind: 2, level: 12, kit: 256 },
      { kind: 3, level: 14, kit: 9 },
    ]);
    expect(data.sections.people.rows[2].values.party).toBeNull();
    const scene = data.sections.scenes.rows[1].values as Record<string, { block: string }>;
    expect(data.blocks[scene.steps.block].rows!.map(({ values }) => values)).toEqual([
      { does: 3, far: 1 },
      { does: 4, far: 2 },
    ]);
    expect(data.blocks[scene.lines.block].rows).toHaveLength(12);
    expect(claims.find(({ what }) => what === 'people 1, party')).toMatchObject({ from: 240, to: 252 });
  });

  it('and written without a change it is the same to the byte', () => {
    const bytes = smallBank();
    const written = writeBank(bytes, LAYOUT, read());
    expect(Buffer.from(written.bytes).equals(Buffer.from(bytes))).toBe(true);
    expect([written.moved, written.pointers, written.checksums]).toEqual([[], [], []]);
  });

  it('damage is told with its byte: pointers outside, counts of thousands of millions, no end mark, packed rubbish', () => {
    const damaged = (at: number, ...values: number[]) => {
      const bytes = smallBank();
      bytes.set(values, at);
      return () => readBank(bytes, LAYOUT);
    };
    expect(damaged(20, 0xff, 0xff)).toThrow('people 1, party leads to byte 65535; the bank has 2048.');
    expect(damaged(4, 0xff, 0xff)).toThrow('people, 65535 rows of 16 bytes, would lie at bytes 16 to 1048576; the bank ends at 2048.');
    expect(damaged(332, 1, 1)).toThrow(/scenes 3, lines leads to byte|scenes.*end mark|leads to byte/);
    expect(damaged(408, 255)).toThrow('What is packed at byte 408 is damaged.');
    expect(damaged(400, 255, 255, 255, 255)).toThrow(/would come to 4294967295 bytes/);
    expect(() => readBank(smallBank().slice(0, 300), LAYOUT)).toThrow(/the bank ends at 300|the bank has 300/);
    const huge: BankLayout = { ...LAYOUT, sections: [{ name: 'people', record: 'person', at: 16, count: 4_000_000_000 }] };
    expect(() => readBank(smallBank(), huge)).toThrow(/4000000000 rows of 16 bytes/);
  });

  it('circles of pointers end', () => {
    const ring: BankLayout = {
      ...LAYOUT,
      records: {
        ...LAYOUT.records,
        ring: { fields: [{ name: 'next', is: 'pointer', pointer: { bytes: 2 }, to: { is: 'list', record: 'ring', count: 1 } }] },
      },
      sections: [{ name: 'rings', record: 'ring', at: 100, count: 1 }],
    };
    const bytes = smallBank();
    bytes.set([104, 0], 100);
    bytes.set([100, 0], 104);
    const { data } = readBank(bytes, ring);
    expect(Object.keys(data.blocks)).toHaveLength(2);
    expect(Buffer.from(writeBank(bytes, ring, data).bytes).equals(Buffer.from(bytes))).toBe(true);
  });
});

describe('a changed bank', () => {
  it('a party that grows is moved to free room, its pointer and count are changed, its old place filled, the checksum right', () => {
    const bytes = smallBank();
    const next = copy(read(bytes));
    partyOf(next, 0).push(member(9));
    const { bytes: out, moved, pointers, freed, checksums } = writeBank(bytes, LAYOUT, next);
    expect(moved).toEqual([{ id: '0000f0.list.member.3', what: 'people 1, party', from: 240, to: 1024, bytes: 16 }]);
    expect(pointers).toEqual([{ at: 20, what: 'people 1, party', from: 240, to: 1024 }]);
    expect(freed).toEqual([{ from: 240, to: 252 }]);
    expect([...out.subarray(240, 252)]).toEqual(new Array(12).fill(255));
    expect([...out.subarray(252, 256)]).toEqual([7, 40, 0, 0]);
    expect([...out.subarray(1024, 1040)]).toEqual([1, 10, 0, 5, 2, 12, 1, 0, 3, 14, 0, 9, 9, 20, 1, 2]);
    expect(out[19]).toBe(4);
    expect(checksums).toHaveLength(1);
    expect(out[12] | (out[13] << 8)).toBe(checksum('CRC-16/ARC', out, [[16, 2048]]));
    // What nobody knows is as it was.
    for (const at of [0, 6, 7, 10, 26, 31, 700, 702, 710, 1500, 2047]) expect([at, out[at]]).toEqual([at, bytes[at]]);
  });

  it('texts that share their ends are not changed in place: the other keeps what it had', () => {
    const bytes = smallBank();
    const next = copy(read(bytes));
    next.blocks['0000cc.text.plain'].text = 'Ida';
    const { bytes: out, moved, freed } = writeBank(bytes, LAYOUT, next);
    expect(moved.map(({ what, from }) => [what, from])).toEqual([['people 2, name', 204]]);
    expect(freed).toEqual([]);
    expect([nameOf(read(out), 0), nameOf(read(out), 1)]).toEqual(['Old Ada', 'Ida']);
  });

  it('what shrinks stays, and leaves fill behind it', () => {
    const next = copy(read());
    partyOf(next, 0).splice(0, 2);
    const { bytes: out, moved, freed } = writeBank(smallBank(), LAYOUT, next);
    expect([moved, freed]).toEqual([[], [{ from: 244, to: 252 }]]);
    expect([...out.subarray(240, 252)]).toEqual([3, 14, 0, 9, ...new Array<number>(8).fill(255)]);
  });

  it('rows come into room that the game keeps for them, and no further; what is led to is moved', () => {
    const next = copy(read());
    const { rows } = next.sections.people;
    rows.push({ at: -1, values: { ...rows[2].values, tag: 'new' } });
    next.sections.scenes.rows.push({ at: -1, values: { ...next.sections.scenes.rows[0].values } });
    const { bytes: out, moved } = writeBank(smallBank(), LAYOUT, next);
    expect(read(out).sections.people.rows.map(({ values }) => values.tag)).toEqual(['ab', 'ab', 'ab', 'new']);
    expect(moved.map(({ id, from }) => [id, from])).toEqual([['section:scenes', 320]]);
    expect(read(out).sections.scenes.rows).toHaveLength(3);
    for (let n = 0; n < 3; n++) rows.push({ at: -1, values: { ...rows[2].values } });
    expect(() => writeBank(smallBank(), LAYOUT, next)).toThrow('people has at most 6 rows in this game; there are 7.');
  });

  it('what is packed is unpacked, changed and packed again', () => {
    const next = copy(read());
    const { block } = next.sections.scenes.rows[1].values.lines as { block: string };
    for (const [n, { values }] of next.blocks[block].rows!.entries()) values.kit = n * 999;
    const { bytes: out, moved } = writeBank(smallBank(), LAYOUT, next);
    expect(moved).toHaveLength(1);
    const after = read(out);
    const { block: there } = after.sections.scenes.rows[1].values.lines as { block: string };
    expect(after.blocks[there].rows!.map(({ values }) => values.kit)).toEqual(Array.from({ length: 12 }, (_, n) => n * 999));
  });

  it('values that do not fit are told with row, field and range; letters that the game lacks too', () => {
    const change = (does: (data: BankData) => void) => () => {
      const next = copy(read());
      does(next);
      return writeBank(smallBank(), LAYOUT, next);
    };
    expect(change((data) => (partyOf(data, 0)[1].values.level = 300))).toThrow(
      'people 1, party 2, level: 300 does not fit; whole numbers from 0 to 255 do.',
    );
    expect(change((data) => (data.sections.people.rows[1].values.sees = 16))).toThrow('people 2, looks, sees: 16 does not fit; 0 to 15.');
    expect(change((data) => (data.sections.people.rows[1].values.speed = 200))).toThrow(
      'people 2, speed: 200 does not fit; -128 to 127.99609375 do.',
    );
    expect(change((data) => (data.sections.people.rows[1].values.tag = 'lantern'))).toThrow('people 2, tag: "lantern" takes 7 bytes; 4 are there.');
    expect(change((data) => (data.blocks['0000d0.text.plain'].text = 'W1l'))).toThrow(`"1" at letter 2 of "W1l" is none of the game's.`);
    expect(change((data) => (data.sections.people.rows[0].values.party = { block: 'nowhere' }))).toThrow(
      'Something leads to nowhere, which is not there.',
    );
  });

  it('where there is no room, it says how much is missing and what is large', () => {
    const next = copy(read());
    for (let n = 0; n < 200; n++) partyOf(next, 0).push(member(n % 250));
    expect(() => writeBank(smallBank(), LAYOUT, next)).toThrow(
      'There is no room for people 1, party: it needs 812 bytes in one piece, the largest free one has 497; 315 are missing.',
    );
  });

  it('a chosen place is taken if it is free, and refused with the reason if not', () => {
    const grown = () => {
      const next = copy(read());
      partyOf(next, 0).push(member(1));
      return next;
    };
    const id = '0000f0.list.member.3';
    expect(writeBank(smallBank(), LAYOUT, grown(), { [id]: 1600 }).moved[0].to).toBe(1600);
    expect(() => writeBank(smallBank(), LAYOUT, grown(), { [id]: 1496 })).toThrow('people 1, party cannot lie at byte 1496: byte 1500 is not free.');
    expect(() => writeBank(smallBank(), LAYOUT, grown(), { [id]: 800 })).toThrow(/outside the regions/);
    expect(() => writeBank(smallBank(), LAYOUT, grown(), { [id]: 1601 })).toThrow(/multiples of 4/);
  });

  it('whatever is changed at random: it reads as it was meant, unknown bytes stay, and nothing lies over anything', () => {
    let seed = 7;
    const random = (below: number): number => {
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      return (seed >>> 8) % below;
    };
    let [bytes, writes] = [smallBank(), 0];
    for (let round = 0; round < 300; round++) {
      const before = bytes;
      const next = copy(read(bytes));
      for (let n = 0; n <= random(3); n++) {
        const who = random(next.sections.people.rows.length);
        const row = next.sections.people.rows[who];
        const what = random(5);
        if (what === 0 && row.values.party) partyOf(next, who).push(member(random(256)));
        else if (what === 1 && row.values.party && partyOf(next, who).length > 1) partyOf(next, who).pop();
        else if (what === 2) next.blocks[(row.values.name as { block: string }).block].text = 'abcdefgh'.slice(0, 1 + random(8)) + 'ä';
        else if (what === 3) row.values.turn = random(4);
        else {
          const id = `new${round}.${n}`;
          next.blocks[id] = { at: -1, bytes: 0, to: { is: 'list', record: 'member', count: { field: 'size' } }, rows: [member(random(9))] };
          row.values.party = { block: id };
        }
      }
      const { bytes: out } = writeBank(bytes, LAYOUT, next);
      writes++;
      bytes = out;
      const after = readBank(bytes, LAYOUT);
      expect(sameData(withCounts(LAYOUT, next), after.data)).toBe(true);
      // Known before or now; all other bytes are the same.
      const touched = new Set<number>();
      for (const claims of [readBank(before, LAYOUT).claims, after.claims])
        for (const { from, to } of claims) for (let i = from; i < to; i++) touched.add(i);
      for (let i = 0; i < bytes.length; i++) if (!touched.has(i) && bytes[i] !== before[i]) throw new Error(`byte ${i} in round ${round}`);
      const ledger = new Ledger();
      const lists = new Map(
        after.claims.filter(({ kind, what }) => kind === 'block' && what.includes('party')).map((claim) => [`${claim.from}`, claim]),
      );
      for (const { from, to } of lists.values()) expect(ledger.take(from, to)).toBe(true);
    }
    expect(writes).toBe(300);
  });
});

describe('free room', () => {
  it('is runs of the fill byte in allowed regions that nothing claims, less the margin', () => {
    const taken = new Ledger();
    for (const { from, to } of readBank(smallBank(), LAYOUT).claims) taken.takeOver(from, to);
    expect(freeRuns(smallBank(), LAYOUT, taken)).toEqual([
      { from: 1024, to: 1500 },
      { from: 1503, to: 2000 },
    ]);
    taken.take(1100, 1104);
    expect(freeRuns(smallBank(), LAYOUT, taken)[1]).toEqual({ from: 1106, to: 1500 });
  });

  it('a place is found by alignment, window and reach', () => {
    const runs = () => [
      { from: 1001, to: 1100 },
      { from: 2000, to: 2200 },
    ];
    expect(placeFor(runs(), 50, { align: 4 })).toBe(1004);
    expect(placeFor(runs(), 50, { align: 4, window: 1024 })).toBe(1024);
    expect(placeFor(runs(), 150, { below: 1500 })).toBeNull();
    expect(placeFor(runs(), 100, { window: 1024 })).toBe(2048);
    const left = runs();
    placeFor(left, 50, { align: 4 });
    // What is too small for anything at that alignment is left out.
    expect(left).toEqual([
      { from: 1054, to: 1100 },
      { from: 2000, to: 2200 },
    ]);
  });

  it('a ledger never gives one byte twice', () => {
    const ledger = new Ledger();
    const mine = new Uint8Array(500);
    let seed = 3;
    for (let n = 0; n < 2000; n++) {
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      const from = (seed >>> 8) % 480;
      const to = from + 1 + ((seed >>> 20) % 20);
      const free = mine.subarray(from, to).every((byte) => byte === 0);
      expect(ledger.take(from, to)).toBe(free);
      if (free) mine.fill(1, from, to);
    }
  });
});

describe('a layout', () => {
  const told = (change: (layout: BankLayout) => void) => {
    const layout = structuredClone(LAYOUT);
    change(layout);
    return () => readLayout(JSON.stringify(layout), 'small.json');
  };
  it('that contradicts itself is refused with what and where', () => {
    expect(told(() => {})).not.toThrow();
    expect(told(({ records }) => records.member.fields.push({ name: 'kind', is: 'number', bytes: 1 }))).toThrow(
      'small.json: the record member has two fields kind.',
    );
    expect(told(({ records }) => records.member.fields.push({ name: 'inner', is: 'list', record: 'member', count: 2 }))).toThrow(
      /member holds member: it would be endless/,
    );
    expect(told(({ records }) => (records.person.bytes = 4))).toThrow('the record person has 4 bytes, and its fields 12.');
    expect(told(({ sections }) => (sections[0].by = { at: 0, pointer: { bytes: 2 } }))).toThrow(
      /people has to say either where it is, or what leads to it/,
    );
    expect(told(({ texts }) => (texts.plain.runs['42'] = 'x'))).toThrow(/in the text plain, .* have the same bytes 42/);
    expect(told(({ checksums }) => (checksums![0].over = [[0, 100]]))).toThrow('the checksum at byte 12 would be part of what it is of.');
    expect(told(({ sections }) => (sections[0].record = 'ghost'))).toThrow(/people is of ghost, which is not described/);
    expect(() => readLayout('{', 'x.json')).toThrow(/x.json is not valid JSON at line 1/);
  });
});
