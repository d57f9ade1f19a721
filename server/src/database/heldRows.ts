import { diskFull } from '@violet-crate/host/diskFull';

/** Milliseconds between two attempts to write what a full disk did not take. */
const AGAIN = 2000;

/** Rows of work under way. Where the disk is full a row holds in memory, and is written as soon as there is room. */
export class HeldRows<Row extends { id: string }> {
  private readonly held = new Map<string, Row>();
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly write: (row: Row) => void,
    /** On the disk that may be full. */
    private readonly folder: string,
  ) {}

  /** A row that is not written yet. */
  get(id: string): Row | undefined {
    return this.held.get(id);
  }

  forget(id: string): void {
    this.held.delete(id);
  }

  keep(row: Row): void {
    try {
      this.write(row);
      this.held.delete(row.id);
    } catch (error) {
      if (!diskFull(error, this.folder, 1)) throw error;
      this.held.set(row.id, row);
      this.timer ??= setTimeout(() => this.again(), AGAIN).unref();
    }
  }

  private again(): void {
    this.timer = undefined;
    for (const row of [...this.held.values()]) this.keep(row);
  }
}
