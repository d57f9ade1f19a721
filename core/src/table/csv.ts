/** Tables as CSV (RFC 4180). Reading is papaparse’s; what it does not take is told with its line. */

import Papa from 'papaparse';
import { UnreadableInput } from '../unreadable.ts';

/** Rows that one file may have. */
const MOST_ROWS = 1_000_000;

export interface Csv {
  header: string[];
  rows: string[][];
}

/**
 * What a spreadsheet would take for a formula, and work out: such a cell gets an apostrophe before it, which `readCsv` takes off again
 * (OWASP, "CSV Injection"). Numbers are none.
 */
const FORMULA = /^(?!-?[\d.]+$)'*[=+\-@\t\r]/;
const GUARDED = /^'(?='*[=+\-@\t\r])/;

/** Lines end with CR and LF, as the standard says. @param plain formulas as they are: for programs that do not take them for any, and know no apostrophe */
export const writeCsv = ({ header, rows }: Csv, plain = false): string =>
  Papa.unparse([header, ...rows], { newline: '\r\n', escapeFormulae: plain ? false : FORMULA }) + '\r\n';

/** @throws UnreadableInput with the line where quotes are open, a row is longer than the header, or a column is there twice */
export function readCsv(text: string, file: string): Csv {
  const fail = (what: string, line: number): never => {
    throw new UnreadableInput(
      'csv',
      `${file}: ${what}.`,
      { file, line },
      'It has to be comma-separated text as in RFC 4180, the first line naming the columns.',
    );
  };
  // A mark of the order of bytes is none of the first column.
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { delimiter: guess(text), skipEmptyLines: true });
  const [wrong] = errors.filter(({ code }) => code === 'MissingQuotes' || code === 'InvalidQuotes');
  if (wrong) fail(`a quote is open or stands in the wrong place in row ${(wrong.row ?? 0) + 1}`, (wrong.row ?? 0) + 1);
  const [header, ...rows] = data.map((cells) => cells.map((cell) => cell.replace(GUARDED, '')));
  if (!header) return fail('it is empty', 1);
  if (rows.length > MOST_ROWS) fail(`it has ${rows.length} rows; at most ${MOST_ROWS} are taken`, MOST_ROWS + 1);
  const twice = header.find((name, n) => header.indexOf(name) !== n);
  if (twice !== undefined) fail(`the column "${twice}" is there twice`, 1);
  const long = rows.findIndex((row) => row.length > header.length);
  if (long >= 0) fail(`row ${long + 1} has ${rows[long].length} values for ${header.length} columns`, long + 2);
  return { header, rows: rows.map((row) => [...row, ...new Array<string>(header.length - row.length).fill('')]) };
}

/** Spreadsheets of many countries write semicolons, and copies tabs. Looked for in the first line alone. */
function guess(text: string): string {
  const end = text.indexOf('\n');
  const line = end < 0 ? text : text.slice(0, end);
  return [',', ';', '\t'].map((mark) => [line.split(mark).length, mark] as const).sort((a, b) => b[0] - a[0])[0][1];
}
