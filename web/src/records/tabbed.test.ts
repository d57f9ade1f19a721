import { describe, expect, it } from '@jest/globals';
import { readTabbed, writeTabbed } from './tabbed.ts';

describe('cells for spreadsheets', () => {
  it('go out and come in as they were, with tabs, breaks and quotes in them', () => {
    const cells = [
      ['Ada', '3'],
      ['two\nlines', 'a "word"'],
      ['', 'tab\there'],
    ];
    expect(readTabbed(writeTabbed(cells))).toEqual(cells);
  });
  it('breaks of other systems are taken, and the one at the end is no row', () => {
    expect(readTabbed('1\t2\r\n3\t4\r\n')).toEqual([
      ['1', '2'],
      ['3', '4'],
    ]);
    expect(readTabbed('alone')).toEqual([['alone']]);
    expect(readTabbed('a\n\nb')).toEqual([['a'], [''], ['b']]);
  });
});
