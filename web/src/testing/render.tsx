/** Components for tests: within the store and a router, over a small world. */

import { render, type RenderResult } from '@testing-library/react';
import type { ReactElement } from 'react';
import { Provider } from 'react-redux';
import { MemoryRouter } from 'react-router';
import type { StageReport } from '@violet-crate/core/stages/contract/stage';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Finding } from '@violet-crate/core/finding';
import { testWorld } from '@violet-crate/core/testing/world';
import type { Build, CrateView, Game, Job, WatchState } from '../api/types.ts';
import { openCrate } from '../state/crateSlice.ts';
import { store } from '../state/store.ts';

/** @param address where the router stands */
export const renderIn = (element: ReactElement, address = '/'): RenderResult =>
  render(
    <Provider store={store}>
      <MemoryRouter initialEntries={[address]}>{element}</MemoryRouter>
    </Provider>,
  );

export const report = (stage: StageReport['stage'], change: Partial<StageReport> = {}): StageReport => ({
  stage,
  state: 'ran',
  milliseconds: 1200,
  memory: 100 * 1048576,
  summary: `${stage} is done.`,
  counts: {},
  findings: [],
  ...change,
});

export const build = (change: Partial<Build> = {}): Build => ({
  id: 'b1',
  map: 'hall',
  quality: 'draft',
  ok: true,
  fresh: true,
  stages: (['check', 'geometry', 'sealing', 'visibility', 'lighting', 'navigation', 'packing'] as const).map((stage) => report(stage)),
  freshness: [],
  parameters: null,
  picture: null,
  artefacts: [],
  createdAt: '2026-01-02T03:04:05.000Z',
  ...change,
});

export const job = (change: Partial<Job> = {}): Job => ({
  id: 'j1',
  kind: 'build',
  crateId: 'c1',
  label: 'Build hall',
  state: 'running',
  step: 'lighting',
  progress: 0.42,
  result: null,
  error: null,
  log: [],
  createdAt: '2026-01-02T03:04:05.000Z',
  finishedAt: null,
  ...change,
});

let opened = 0;

interface AlsoSent {
  /** Findings by the path of their file. */
  findings?: Record<string, Finding[]>;
  watch?: WatchState;
}

/** Opens a new crate of one sealed room in the store, as if the server had sent it. */
export function openWorld(change: (world: CrateWorld) => void = () => {}, { findings = {}, watch }: AlsoSent = {}): CrateWorld {
  const world = testWorld();
  change(world);
  const { profile, base, crate } = world;
  const view: CrateView = {
    id: `crate-${++opened}`,
    manifest: crate.manifest,
    maps: Object.keys(crate.maps),
    files: crate.files.map((file) => ({ ...file, findings: findings[file.path] ?? [] })),
    updatedAt: '2026-01-02T03:04:05.000Z',
    install: 'i1',
  };
  const payload = {
    view,
    game: { profile, folder: '/games/brinewick', found: true } as unknown as Game,
    base,
    setup: [],
    steps: [],
    gameChange: null,
    newerProfile: null,
    scripts: crate.scripts,
    otherMaps: {},
    data: crate.data,
    map: { map: crate.maps.hall, revision: 1 },
    mapName: 'hall',
    builds: [],
    watch: watch ?? null,
    folder: null,
    required: { lock: { format: 1 as const, crates: {} }, missing: [] },
    packages: [],
    releases: [],
  };
  store.dispatch(openCrate.fulfilled(payload, 'test', view.id));
  return world;
}
