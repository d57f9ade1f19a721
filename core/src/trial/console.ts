/** What a run says, bounded, since scripts may print in every step. */

export interface ConsoleLine {
  time: number;
  /** `log` is what whoever watches asked for; it is no part of the run. */
  kind: 'say' | 'signal' | 'error' | 'system' | 'log';
  text: string;
}

/** Characters of one line that are kept. */
const LINE_LIMIT = 2000;
const LINES = 2000;
/** How many of the oldest are dropped at once. */
const DROP = 500;

export class TrialConsole {
  /** The last lines. */
  readonly lines: ConsoleLine[] = [];
  /** How many there were in all. */
  printed = 0;

  print(time: number, kind: ConsoleLine['kind'], text: string): void {
    this.lines.push({ time, kind, text: text.length > LINE_LIMIT ? `${text.slice(0, LINE_LIMIT)} …` : text });
    this.printed++;
    if (this.lines.length > LINES) this.lines.splice(0, DROP);
  }

  /** What was printed after the first so many lines, as far as it is still kept. */
  since(count: number): ConsoleLine[] {
    const fresh = this.printed - count;
    return fresh > 0 ? this.lines.slice(-fresh) : [];
  }
}
