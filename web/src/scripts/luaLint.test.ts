import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { bytes, plural, round } from '../common/format.ts';
import { luaDiagnostics } from './luaLint.ts';

describe('errors in the editor', () => {
  it('mark the place where Lua stumbles', () => {
    const source = 'function startup()\n  say("hi"\nend\n';
    const [diagnostic] = luaDiagnostics(source);
    expect(source.slice(diagnostic.from, diagnostic.to)).toBe('end');
    expect(diagnostic.message).toMatch(/^Line 3: '\)' expected/);
    expect(luaDiagnostics('x = 1')).toEqual([]);
  });

  it('lie within the text, whatever is typed', () => {
    const pieces = fc.constantFrom(
      'function ',
      'f',
      '(',
      ')',
      ' end ',
      'if ',
      ' then ',
      '"',
      "'",
      '[[',
      ']]',
      '--',
      '\n',
      ' = ',
      '1',
      '...',
      '::',
      'goto ',
      'local ',
      '<const>',
      '{',
      '}',
      '\\',
      'é',
    );
    fc.assert(
      fc.property(fc.array(pieces, { maxLength: 40 }), (parts) => {
        const source = parts.join('');
        for (const { from, to } of luaDiagnostics(source)) {
          expect(from).toBeGreaterThanOrEqual(0);
          expect(to).toBeLessThanOrEqual(source.length);
          expect(from).toBeLessThanOrEqual(to);
        }
      }),
      { numRuns: 500 },
    );
  });
});

describe('numbers for people', () => {
  it('sizes, counts and rounding', () => {
    expect([bytes(12), bytes(2048), bytes(150_000), bytes(5_400_000)]).toEqual(['12 B', '2.0 KiB', '146 KiB', '5.1 MiB']);
    expect([plural(1, 'note'), plural(2, 'note'), plural(0, 'match', 'matches')]).toEqual(['1 note', '2 notes', '0 matches']);
    expect(round(1.23456)).toBe(1.23);
  });
});
