import { describe, expect, it } from '@jest/globals';
import type { Finding } from '@violet-crate/core/finding';
import type { Build, CrateView, Job, PackageEntry } from '../api/types.ts';
import type { RootState } from './store.ts';
import { selectFindings, selectStamps } from './findings.ts';

const finding = (change: Partial<Finding>): Finding => ({ code: 'x', severity: 'note', stage: 'map', message: 'm', ...change });
const build = (change: Partial<Build>): Build => ({
  id: 'b1',
  map: 'hall',
  quality: 'draft',
  ok: true,
  fresh: true,
  stages: [],
  freshness: [],
  parameters: null,
  picture: null,
  artefacts: [],
  createdAt: '2',
  ...change,
});
const job = (change: Partial<Job>): Job => ({
  id: 'j',
  kind: 'convert',
  crateId: 'c',
  label: 'Convert a.obj',
  state: 'done',
  step: '',
  progress: 0,
  result: null,
  error: null,
  log: [],
  createdAt: '1',
  finishedAt: null,
  ...change,
});

interface Given {
  checked?: Finding[];
  trial?: Finding[];
  setup?: { id: string; title: string; ok: boolean; detail: string }[];
  builds?: Build[];
  jobs?: Job[];
  packages?: Partial<PackageEntry>[];
  releases?: { packageId: string }[];
  unsaved?: unknown[];
  run?: { buildId: string | null; ended: string | null };
}

/** Only what the selectors look at. */
function state(given: Given): RootState {
  const view = { id: 'c', files: [] } as unknown as CrateView;
  return {
    crate: {
      view,
      steps: [],
      gameChange: null,
      updates: [],
      folder: null,
      setup: given.setup ?? [],
      builds: given.builds ?? [],
      packages: given.packages ?? [],
      releases: given.releases ?? [],
    },
    checks: { running: false, findings: given.checked ?? [], trial: given.trial ?? [], links: [], died: [] },
    jobs: { byId: Object.fromEntries((given.jobs ?? []).map((j) => [j.id, j])), connected: true },
    map: { unsaved: given.unsaved ?? [] },
    trialRun: given.run ?? { buildId: null, ended: null },
  } as unknown as RootState;
}

const kind = (given: Given, stage: keyof ReturnType<typeof selectStamps>) => selectStamps(state(given))[stage].kind;

describe('stamps', () => {
  it('count blockers before anything else', () => {
    const checked = [finding({ severity: 'note' }), finding({ severity: 'blocker', message: 'b' }), finding({ severity: 'blocker', message: 'c' })];
    expect(selectStamps(state({ checked })).map).toEqual({ kind: 'blocked', word: 'blocked', count: 2 });
    expect(selectStamps(state({ checked: [finding({ severity: 'warning' })] })).map).toEqual({ kind: 'notes', word: 'warnings', count: 1 });
    expect(kind({}, 'scripts')).toBe('clear');
  });

  it('of the build: none, running, stopped, stale, fresh, interrupted, leaking', () => {
    expect(kind({}, 'build')).toBe('open');
    expect(kind({ jobs: [job({ kind: 'build', state: 'running' })] }, 'build')).toBe('running');
    expect(kind({ builds: [build({ ok: false })] }, 'build')).toBe('blocked');
    expect(kind({ builds: [build({ fresh: false })] }, 'build')).toBe('stale');
    expect(kind({ builds: [build({})], unsaved: [1] }, 'build')).toBe('stale');
    expect(kind({ builds: [build({})] }, 'build')).toBe('clear');
    expect(selectStamps(state({ jobs: [job({ kind: 'build', state: 'interrupted' })] })).build.word).toBe('interrupted');
    expect(kind({ builds: [build({})], checked: [finding({ code: 'leak', stage: 'build', severity: 'blocker' })] }, 'build')).toBe('blocked');
  });

  it('of the test run: only the fresh build that was walked counts', () => {
    expect(kind({ builds: [build({})] }, 'trial')).toBe('open');
    expect(kind({ builds: [build({})], run: { buildId: 'b1', ended: 'won' } }, 'trial')).toBe('clear');
    expect(kind({ builds: [build({ fresh: false })], run: { buildId: 'b1', ended: 'won' } }, 'trial')).toBe('open');
    expect(kind({ builds: [build({})], run: { buildId: 'b1', ended: 'fell' } }, 'trial')).toBe('blocked');
    expect(kind({ trial: [finding({ stage: 'trial', severity: 'blocker' })] }, 'trial')).toBe('blocked');
  });

  it('of publishing: no package, stale, packed, published', () => {
    expect(kind({}, 'publish')).toBe('open');
    expect(kind({ packages: [{ id: 'p', fresh: false }] }, 'publish')).toBe('stale');
    expect(selectStamps(state({ packages: [{ id: 'p', fresh: true, findings: [] }] })).publish.word).toBe('packed');
    expect(kind({ packages: [{ id: 'p', fresh: true, findings: [] }], releases: [{ packageId: 'p' }] }, 'publish')).toBe('clear');
  });
});

describe('the tray', () => {
  it('collects set-up, checks and failed conversions, each once', () => {
    const setup = [
      { id: 'base', title: 'Base pack', ok: false, detail: 'x' },
      { id: 'game', title: 'Game', ok: true, detail: '' },
    ];
    const error = finding({ code: 'obj-invalid', stage: 'assets', severity: 'blocker', message: 'broken' });
    const jobs = [job({ id: '1', state: 'failed', error, createdAt: '1' })];
    const codes = (given: Given) => selectFindings(state(given)).map((f) => f.code);
    expect(codes({ setup, checked: [finding({}), finding({})], jobs })).toEqual(['setup-base', 'obj-invalid', 'x']);
    // A later conversion of the same file settles the earlier failure.
    expect(codes({ jobs: [...jobs, job({ id: '2', state: 'done', createdAt: '2' })] })).toEqual([]);
  });
});
