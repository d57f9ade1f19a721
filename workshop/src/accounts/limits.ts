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
    // Addresses that are heard of once must not fill memory.
    if (this.failures.size > 10_000) this.failures.clear();
    this.failures.set(who, [...this.recent(who, now), now]);
  }

  passed(who: string): void {
    this.failures.delete(who);
  }

  private recent(who: string, now: number): number[] {
    return (this.failures.get(who) ?? []).filter((at) => now - at < this.within);
  }
}
