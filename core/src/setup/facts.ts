/** What was seen on a machine of an install: plain values, gathered by `host/src/setup/`, judged by `checks.ts`. */

import type { System } from '../profile/toolchain.ts';

export interface ToolFacts {
  id: string;
  /** As its file or its own answer says; null where there is none. */
  version: string | null;
  /** Why its version could not be had, where it was asked for by running it. */
  problem: string | null;
  /** Whether it can be put back from the game's own archive. */
  restorable: boolean;
}

export interface InstallFacts {
  folder: string;
  version: string | null;
  tools: ToolFacts[];
  base: {
    /** Files that the pack lists, and its version: null where it cannot be read. */
    files: number;
    version: string | null;
    /** Those that are missing or other than listed. */
    wrong: string[];
    /** Whether contents were compared, or lengths only. */
    hashed: boolean;
    restorable: boolean;
  };
  mods: { path: string; exists: boolean; writable: boolean };
  /** Bytes free on the install's disk. */
  freeBytes: number;
  machine: {
    system: System;
    /** MiB. */
    memory: number;
    cores: number;
    /** The disk takes `A.txt` and `a.txt` for the same file. */
    foldsCase: boolean;
    /** Milliseconds since 1970: now, and when the install's version file was written. */
    now: number;
    installedAt: number | null;
  };
}
