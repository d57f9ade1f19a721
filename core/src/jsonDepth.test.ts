import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { readDocument } from './document/readDocument.ts';
import { Type } from '@sinclair/typebox';
import { isTooDeep } from './jsonDepth.ts';
import { own } from './own.ts';

/** Levels of arrays and objects within each other. */
const depthOf = (value: unknown): number => (typeof value === 'object' && value !== null ? 1 + Math.max(0, ...Object.values(value).map(depthOf)) : 0);

describe('the depth of JSON', () => {
  it('is that of the parsed value, whatever its texts hold', () => {
    fc.assert(
      fc.property(fc.json({ maxDepth: 6 }), fc.nat(6), (json, most) => {
        expect(isTooDeep(json, most)).toBe(depthOf(JSON.parse(json)) > most);
        expect(isTooDeep(new TextEncoder().encode(json), most)).toBe(isTooDeep(json, most));
      }),
    );
    expect(isTooDeep('"[[[[["', 2)).toBe(false);
    expect(isTooDeep('["\\"[[[["]', 1)).toBe(false);
  });

  it('is looked at before a document is parsed', () => {
    expect(() => readDocument(`{"a":${'['.repeat(9999)}${']'.repeat(9999)}}`, Type.Any(), 'x.json')).toThrow(/nested more than 100 levels/);
  });
});

describe('what a record holds itself', () => {
  it('is found, what every object inherits is not', () => {
    const record: Record<string, number> = JSON.parse('{"constructor": 1, "__proto__": 2}') as Record<string, number>;
    expect([own(record, 'constructor'), own(record, '__proto__'), own(record, 'toString')]).toEqual([1, 2, undefined]);
    expect(own<number>({}, 'constructor')).toBeUndefined();
  });
});
