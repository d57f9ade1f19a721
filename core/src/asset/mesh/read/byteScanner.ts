/** Reads words and numbers straight from the bytes of a text file, with its lines counted. */

const NEWLINE = 10;
const RETURN = 13;
const SPACE = 32;
const TAB = 9;
const ZERO = 48;
const NINE = 57;

/** Powers of ten that doubles hold exactly. */
const EXACT = Array.from({ length: 23 }, (_, i) => 10 ** i);

const decoder = new TextDecoder();

export class ByteScanner {
  at = 0;
  /** One-based. */
  line: number;
  readonly bytes: Uint8Array;
  readonly end: number;

  /** @param line number of the first line, where the bytes are a piece of a file */
  constructor(bytes: Uint8Array, line = 1) {
    this.line = line;
    this.bytes = bytes;
    this.end = bytes.length;
  }

  get done(): boolean {
    return this.at >= this.end;
  }

  /** Skips blanks within the line. A backslash before the line's end continues the line. */
  skipBlanks(): void {
    const { bytes } = this;
    for (;;) {
      const c = bytes[this.at];
      if (c === SPACE || c === TAB || c === RETURN) this.at++;
      else if (c === 92 && (bytes[this.at + 1] === NEWLINE || (bytes[this.at + 1] === RETURN && bytes[this.at + 2] === NEWLINE))) {
        this.at += bytes[this.at + 1] === NEWLINE ? 2 : 3;
        this.line++;
      } else return;
    }
  }

  /** Whether nothing but blanks or a comment is left on this line. */
  atLineEnd(): boolean {
    this.skipBlanks();
    const c = this.bytes[this.at];
    return this.at >= this.end || c === NEWLINE || c === 35;
  }

  /** Goes to the beginning of the next line. */
  nextLine(): void {
    const { bytes, end } = this;
    while (this.at < end) {
      const c = bytes[this.at++];
      if (c === NEWLINE) {
        let back = this.at - 2;
        if (bytes[back] === RETURN) back--;
        this.line++;
        if (bytes[back] !== 92) return;
      }
    }
  }

  /** The next word of the line, "" at its end. */
  word(): string {
    this.skipBlanks();
    const start = this.at;
    while (this.at < this.end && this.bytes[this.at] > SPACE) this.at++;
    return decoder.decode(this.bytes.subarray(start, this.at));
  }

  /** The rest of the line without outer blanks and comment. */
  rest(): string {
    this.skipBlanks();
    const start = this.at;
    while (this.at < this.end && this.bytes[this.at] !== NEWLINE) this.at++;
    const text = decoder.decode(this.bytes.subarray(start, this.at));
    const hash = text.indexOf('#');
    return (hash >= 0 ? text.slice(0, hash) : text).trim();
  }

  /**
   * The next word as a number, NaN if it is none. Up to 15 digits and powers of ten that doubles hold
   * exactly are computed at once, which rounds as the language does (Clinger 1990); all else goes by `Number`.
   */
  number(): number {
    this.skipBlanks();
    const { bytes } = this;
    const start = this.at;
    let at = start;
    let c = bytes[at];
    const negative = c === 45;
    if (negative || c === 43) c = bytes[++at];
    let mantissa = 0;
    let digits = 0;
    let exponent = 0;
    while (c >= ZERO && c <= NINE) {
      mantissa = mantissa * 10 + (c - ZERO);
      digits++;
      c = bytes[++at];
    }
    if (c === 46) {
      c = bytes[++at];
      while (c >= ZERO && c <= NINE) {
        mantissa = mantissa * 10 + (c - ZERO);
        digits++;
        exponent--;
        c = bytes[++at];
      }
    }
    if (digits === 0) return this.slowNumber(start);
    if (c === 101 || c === 69) {
      c = bytes[++at];
      const down = c === 45;
      if (down || c === 43) c = bytes[++at];
      let power = 0;
      let any = false;
      while (c >= ZERO && c <= NINE) {
        power = Math.min(9999, power * 10 + (c - ZERO));
        any = true;
        c = bytes[++at];
      }
      if (!any) return this.slowNumber(start);
      exponent += down ? -power : power;
    }
    if (at < this.end && c > SPACE) return this.slowNumber(start);
    if (digits > 15 || exponent > 22 || exponent < -22) return this.slowNumber(start);
    this.at = at;
    const value = exponent < 0 ? mantissa / EXACT[-exponent] : mantissa * EXACT[exponent];
    return negative ? -value : value;
  }

  private slowNumber(start: number): number {
    this.at = start;
    const word = this.word();
    return word === '' ? NaN : Number(word);
  }
}

/** Bytes: large enough that handing on costs nothing, small beside a model. */
const PIECE = 1 << 20;

/** Where the last line ends that is not continued by a backslash: the place behind its line feed; 0 where there is none. */
function endOfLines(bytes: Uint8Array): number {
  for (let at = bytes.lastIndexOf(NEWLINE); at >= 0; at = at > 0 ? bytes.lastIndexOf(NEWLINE, at - 1) : -1) {
    const back = bytes[at - 1] === RETURN ? at - 2 : at - 1;
    if (bytes[back] !== 92) return at + 1;
  }
  return 0;
}

/**
 * Cuts pieces of a text file anew, so that each is whole lines; only the last may lack its line feed.
 *
 * @param least bytes that are gathered before they are handed on
 */
export async function* wholeLines(pieces: AsyncIterable<Uint8Array>, least = PIECE): AsyncGenerator<Uint8Array> {
  let held: Uint8Array[] = [];
  let size = 0;
  // A line that is longer than a piece is waited for twice as long each time, so that it is not searched again and again.
  let wanted = least;
  for await (const piece of pieces) {
    held.push(piece);
    size += piece.length;
    if (size < wanted) continue;
    const bytes = joined(held, size);
    const end = endOfLines(bytes);
    if (end > 0) yield bytes.subarray(0, end);
    held = end < size ? [bytes.slice(end)] : [];
    size -= end;
    wanted = Math.max(least, size * 2);
  }
  if (size > 0) yield joined(held, size);
}

/** One array of several; the array itself where there is only one. */
export function joined(pieces: readonly Uint8Array[], size = pieces.reduce((sum, piece) => sum + piece.length, 0)): Uint8Array {
  if (pieces.length === 1) return pieces[0];
  const out = new Uint8Array(size);
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}
