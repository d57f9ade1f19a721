/** Cells as spreadsheets copy them: tabs between, a line each; what holds a tab, a break or a quote stands in quotes (as in RFC 4180). */

export const writeTabbed = (rows: readonly (readonly string[])[]): string =>
  rows.map((cells) => cells.map((cell) => (/[\t\n\r"]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)).join('\t')).join('\n');

export function readTabbed(text: string): string[][] {
  const rows: string[][] = [[]];
  let i = 0;
  for (;;) {
    let cell = '';
    if (text[i] === '"') {
      for (i++; i < text.length; i++) {
        if (text[i] !== '"') cell += text[i];
        else if (text[i + 1] === '"') cell += text[i++];
        else break;
      }
      i++;
    }
    while (i < text.length && text[i] !== '\t' && text[i] !== '\n') cell += text[i++];
    rows[rows.length - 1].push(cell.replace(/\r$/, ''));
    if (i >= text.length) break;
    // A break at the very end is no row more.
    if (text[i++] === '\n') {
      if (i >= text.length) break;
      rows.push([]);
    }
  }
  return rows;
}
