import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { TrialInputs } from '@violet-crate/core/trial/world';
import { runTrialApart } from './trialApart.ts';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');
const run = (startup: string) =>
  runTrialApart({
    profile,
    map: {
      name: 'none',
      objects: {},
      signals: {},
      paths: {},
      models: {},
      bodies: {},
      scripts: ['scripts/main.lua'],
      settings: { trial: [] },
    } as never,
    collision: { solids: [{ id: 'floor', planes: [[0, 0, 1, -1]], surfaces: [] }], grounds: [] } as unknown as TrialInputs['collision'],
    scripts: { 'scripts/main.lua': `function startup()\n  ${startup}\nend` },
  });

describe('a test run in a thread of its own', () => {
  it('comes back with its report', async () => {
    const report = await run('say("hello")');
    expect(report.console.map((line) => line.text)).toEqual(['hello']);
    expect(report.ended).toBe('finished');
  });

  it('that never comes back is ended, and the function and line that ran last are named', async () => {
    const report = await run('local t = ("a"):rep(3000) t:find("a-a-a-a-a-b")');
    expect(report.ended).toBe('stopped');
    expect(report.ok).toBe(false);
    expect(report.findings).toMatchObject([
      {
        code: 'script-stuck',
        severity: 'blocker',
        message: expect.stringMatching(/scripts\/main\.lua:2\) did not come back within 1 second/),
        place: { line: 2 },
      },
    ]);
  });
});
