/** Addresses and names that are remembered. */
const MOST_KEPT = 100_000;

/** Slows down those who guess, or do anything too often: so many failures in a time from one address, kept in memory alone. */
export class Limiter {
  private readonly failures = new Map<string, number[]>();

  constructor(
    private readonly most: number,
    /** Milliseconds. */
    private readonly within: number,
  ) {}

  /** Whether somebody has to wait. */
  blocked(who: string, now = Date.now()): boolean {
    return this.recent(who, now).length >= this.most;
  }

  failed(who: string, now = Date.now()): void {
    const recent = [...this.recent(who, now), now];
    // Those heard of last are behind: what is dropped, so that memory is not filled, are the oldest, and nobody gets rid of his own by many others.
    this.failures.delete(who);
    this.failures.set(who, recent);
    for (const oldest of this.failures.keys()) {
      if (this.failures.size <= MOST_KEPT) break;
      this.failures.delete(oldest);
    }
  }

  /** The last one was none. */
  takeBack(who: string): void {
    this.failures.get(who)?.pop();
  }

  passed(who: string): void {
    this.failures.delete(who);
  }

  private recent(who: string, now: number): number[] {
    return (this.failures.get(who) ?? []).filter((at) => now - at < this.within);
  }
}
