import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from '@jest/globals';
import { RunningPrograms } from './runningPrograms.ts';

const folder = mkdtempSync(join(tmpdir(), 'violet-running-'));
afterAll(() => rmSync(folder, { recursive: true }));
const sleeper = () => {
  const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)'], { detached: true, stdio: 'ignore' });
  return { pid: child.pid!, ended: new Promise<NodeJS.Signals | null>((done) => child.on('exit', (_, signal) => done(signal))) };
};

describe('programs that a killed server left', () => {
  it('are ended by the next one; what ended by itself, or only has the number of one, is left alone', async () => {
    const file = join(folder, 'running.json');
    const [left, over, other] = [sleeper(), sleeper(), sleeper()];
    const first = new RunningPrograms(file);
    for (const { pid } of [left, over, other]) first.note(pid, true);
    first.note(over.pid, false);
    // The number of a program that ended is that of another process by now.
    const noted = JSON.parse(readFileSync(file, 'utf8')) as { group: number; born: string }[];
    expect(noted.map(({ group }) => group)).toEqual([left.pid, other.pid]);
    noted[1].born = 'another time';
    writeFileSync(file, JSON.stringify(noted));

    expect(new RunningPrograms(file).endLeft()).toBe(1);
    expect(await left.ended).toBe('SIGKILL');
    expect(existsSync(file)).toBe(false);
    for (const { pid, ended } of [over, other]) {
      process.kill(pid, 0);
      process.kill(pid, 'SIGTERM');
      expect(await ended).toBe('SIGTERM');
    }
    expect(new RunningPrograms(file).endLeft()).toBe(0);
    writeFileSync(file, '[{"group": 1');
    expect(new RunningPrograms(file).endLeft()).toBe(0);
  });
});
