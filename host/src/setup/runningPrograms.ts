/** Programs of games that run for a server, noted on disk: what a killed server left behind is ended when it starts again. */

import { execFileSync } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { killGroup } from './runProgram.ts';

interface Noted {
  group: number;
  born: string;
}

export class RunningPrograms {
  private readonly running = new Map<number, string>();

  constructor(private readonly file: string) {}

  /** A process group began or ended. */
  note(group: number, running: boolean): void {
    const born = running ? bornOf(group) : null;
    if (born === null) this.running.delete(group);
    else this.running.set(group, born);
    try {
      writeFileSync(this.file, JSON.stringify([...this.running].map(([group, born]) => ({ group, born }))));
    } catch {
      // A full disk: then a killed server leaves its program to the limits that it has anyway.
    }
  }

  /** Ends what another run left. @returns how many groups those were */
  endLeft(): number {
    let noted: Noted[];
    try {
      noted = JSON.parse(readFileSync(this.file, 'utf8')) as Noted[];
    } catch {
      return 0;
    }
    // The number of a process is given again after its end: only the very same one is ended.
    const left = noted.filter(({ group, born }) => Number.isInteger(group) && group > 1 && bornOf(group) === born);
    for (const { group } of left) killGroup(group);
    rmSync(this.file, { force: true });
    return left.length;
  }
}

/** When a process began, in whatever words the system has for that; null where there is none of that number. */
function bornOf(pid: number): string | null {
  try {
    if (process.platform !== 'linux') return execFileSync('ps', ['-o', 'lstart=', '-p', String(pid)], { encoding: 'utf8' }).trim() || null;
    // proc(5): the name may hold spaces and brackets; the beginning is the twentieth field behind it, in ticks since the start of the system.
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const started = stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19];
    return `${readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim()} ${started}`;
  } catch {
    return null;
  }
}
