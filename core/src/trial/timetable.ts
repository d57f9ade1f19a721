/** Calls and signals that wait for their time, in order of it, and of their asking where it is the same. */

interface Pending {
  at: number;
  order: number;
  run: () => void;
}

/** How many may wait. */
export const PENDING_LIMIT = 10_000;
/** Of those, how many may come due within one step. */
const CALLS_PER_STEP = 1000;

export class Timetable {
  private pending: Pending[] = [];
  private order = 0;

  get waits(): boolean {
    return this.pending.length > 0;
  }

  /** Answers false where so much waits already that it is dropped. */
  add(at: number, run: () => void): boolean {
    if (this.pending.length >= PENDING_LIMIT) return false;
    this.pending.push({ at, order: this.order++, run });
    return true;
  }

  runDue(time: number): void {
    const due = this.pending.filter((p) => p.at <= time).sort((a, b) => a.at - b.at || a.order - b.order);
    if (due.length === 0) return;
    // What is too much for one step keeps its turn in the next.
    this.pending = [...due.splice(CALLS_PER_STEP), ...this.pending.filter((p) => p.at > time)];
    for (const item of due) item.run();
  }
}
