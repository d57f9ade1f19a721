/** Texts as the game breaks them: at spaces, so many characters a line, so many lines at once. */

export interface Wrapped {
  /** Boxes that are shown one after the other, each with its lines. */
  boxes: string[][];
  /** Words that are longer than a line, which the game would cut. */
  tooLong: string[];
}

/** Characters are what users see as one, as far as they are single code points. */
export function wrapText(text: string, line: number, lines: number): Wrapped {
  const rows: string[] = [];
  const tooLong: string[] = [];
  for (const paragraph of text.split('\n')) {
    let row: string[] = [];
    let length = 0;
    for (const word of paragraph.split(' ')) {
      const size = [...word].length;
      if (size > line) tooLong.push(word);
      if (row.length > 0 && length + 1 + size > line) {
        rows.push(row.join(' '));
        row = [];
        length = 0;
      }
      length += size + (row.length > 0 ? 1 : 0);
      row.push(word);
    }
    rows.push(row.join(' '));
  }
  const boxes: string[][] = [];
  for (let at = 0; at < rows.length; at += lines) boxes.push(rows.slice(at, at + lines));
  return { boxes, tooLong };
}
