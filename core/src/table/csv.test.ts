import { describe, expect, it } from '@jest/globals';
import { readCsv, writeCsv } from './csv.ts';

describe('CSV', () => {
  // Outside reference: RFC 4180, section 2, rules 1 to 7 with their examples.
  it.each([
    [
      'a,b,c\r\naaa,bbb,ccc\r\nzzz,yyy,xxx\r\n',
      [
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    [
      'a,b,c\r\naaa,bbb,ccc\r\nzzz,yyy,xxx',
      [
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    [
      'a,b,c\r\n"aaa","bbb","ccc"\r\nzzz,yyy,xxx',
      [
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    [
      'a,b,c\r\n"aaa","b \r\nbb","ccc"\r\nzzz,yyy,xxx',
      [
        ['aaa', 'b \r\nbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
    ],
    ['a,b,c\r\n"aaa","b""bb","ccc"', [['aaa', 'b"bb', 'ccc']]],
  ])('%j', (text, rows) => expect(readCsv(text, 'x.csv').rows).toEqual(rows));

  it('whatever is written is read as it was', () => {
    const table = {
      header: ['name', 'says'],
      rows: [
        ['Ada, of the sluice', 'She said "mind the step".\nAnd left.'],
        ['', ' ä '],
      ],
    };
    expect(readCsv(writeCsv(table), 'x.csv')).toEqual(table);
    expect(writeCsv({ header: ['a'], rows: [['1']] })).toBe('a\r\n1\r\n');
  });

  it('semicolons, tabs and a mark of the order of bytes are taken; short rows are filled', () => {
    expect(readCsv('\uFEFFa;b\n1;2\n3', 'x.csv')).toEqual({
      header: ['a', 'b'],
      rows: [
        ['1', '2'],
        ['3', ''],
      ],
    });
    expect(readCsv('a\tb\n1\t2', 'x.csv').rows).toEqual([['1', '2']]);
  });

  it('what cannot be read is told with its row', () => {
    expect(() => readCsv('a,b\n1,2,3', 'x.csv')).toThrow('x.csv: row 1 has 3 values for 2 columns.');
    expect(() => readCsv('a,a\n1,2', 'x.csv')).toThrow('x.csv: the column "a" is there twice.');
    expect(() => readCsv('a,b\n1,"2', 'x.csv')).toThrow(/x\.csv: a quote is open/);
    expect(() => readCsv('', 'x.csv')).toThrow('x.csv: it is empty.');
  });

  it('what a spreadsheet would work out is guarded, and comes back as it was (OWASP, CSV Injection)', () => {
    const cells = ['=1+1', '+cmd', '-2+3', '@SUM(A1)', '\t=1', "'=1", "''=1", "'tis", '-5', '-0.5', '5', "it's =1"];
    const table = { header: ['a'], rows: cells.map((cell) => [cell]) };
    const text = writeCsv(table);
    for (const line of text.split('\r\n').slice(1, -1)) expect(line).not.toMatch(/^"?(?!-[\d.]+$)[=+\-@\t]/);
    expect(text).toContain('\r\n-5\r\n-0.5\r\n5\r\n');
    expect(readCsv(text, 'x.csv')).toEqual(table);
    expect(writeCsv(table, true)).toContain('\r\n=1+1\r\n');
  });

  it('hundreds of thousands of rows are read', () => {
    const text = 'n,name\n' + Array.from({ length: 200_000 }, (_, n) => `${n},lamp ${n}`).join('\n');
    expect(readCsv(text, 'x.csv').rows).toHaveLength(200_000);
  });
});
