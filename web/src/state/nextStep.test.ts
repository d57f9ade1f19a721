import { describe, expect, it } from '@jest/globals';
import type { Stage } from '@violet-crate/core/finding';
import type { Stamp, StampKind } from './findings.ts';
import { selectNextStep } from './nextStep.ts';

const stamps = (change: Partial<Record<Stage, [StampKind, string]>>): Record<Stage, Stamp> => {
  const all: Record<Stage, [StampKind, string]> = {
    setup: ['clear', ''],
    assets: ['clear', ''],
    scripts: ['clear', ''],
    map: ['notes', ''],
    links: ['clear', ''],
    build: ['clear', ''],
    trial: ['clear', ''],
    publish: ['clear', 'published'],
    ...change,
  };
  return Object.fromEntries(Object.entries(all).map(([stage, [kind, word]]) => [stage, { kind, word, count: 0 }])) as Record<Stage, Stamp>;
};
const next = (change: Parameters<typeof stamps>[0]) => selectNextStep.resultFunc(stamps(change));

describe('the next step', () => {
  it('is the first that is not in order, with why', () => {
    expect(next({ build: ['open', 'not built'], trial: ['open', ''], publish: ['open', ''] })).toEqual({
      stage: 'build',
      what: 'Build the map',
      why: 'Players load what was built, not what was drawn.',
      done: 5,
    });
    expect(next({ build: ['stale', ''] })!.what).toBe('Build the map again');
    expect(next({ setup: ['blocked', ''], map: ['blocked', ''] })!.stage).toBe('setup');
    expect(next({ publish: ['open', 'packed'] })!.what).toBe('Publish the package');
  });

  it('is none while something is under way, or when all is done', () => {
    expect(next({ build: ['running', 'building'], publish: ['open', ''] })).toBeNull();
    expect(next({})).toBeNull();
  });
});
