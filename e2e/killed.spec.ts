/** The server is killed in every stage of a build: nothing half-made is served, and what was finished is not made again. */

import { createHash } from 'node:crypto';
import { expect, test } from '@playwright/test';
import { Application } from './application.ts';

interface Job {
  id: string;
  state: string;
  step: string;
}
interface Build {
  id: string;
  ok: boolean;
  stages: { stage: string; state: string }[];
  artefacts: { path: string; sha256: string }[];
}

/** Maps with what their builds go through, and other numbers for stage after stage, so that each has to run and none is known. */
const MAPS = [
  {
    map: 'pumphouse',
    stages: ['check', 'geometry', 'sealing', 'visibility', 'lighting', 'navigation', 'packing', 'programs'],
    parameters: { luxel: 14, navCell: 5, merge: 'no' },
  },
  {
    map: 'snowgate',
    stages: ['check', 'geometry', 'ground', 'lighting', 'daylight', 'navigation', 'overview', 'packing', 'programs'],
    parameters: { luxel: 5, navCell: 0.9, merge: 'no', groundError: 1.5 },
  },
];

let application: Application;
test.beforeAll(async () => {
  application = await Application.start();
});
test.afterAll(() => application.stop());

/** Every change of a job until it is in a stage, or over. */
async function until(job: Job, stage: string): Promise<string> {
  const response = await fetch(`${application.url}/api/jobs/events`);
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let text = '';
  try {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) throw new Error('the events ended');
      text += value;
      for (const line of text.split('\n').slice(0, -1)) {
        const told = line.startsWith('data: {') ? (JSON.parse(line.slice(6)) as Job) : null;
        if (told?.id !== job.id) continue;
        if (told.state !== 'running' && told.state !== 'queued') return told.state;
        if (told.step === stage) return told.step;
      }
      text = text.slice(text.lastIndexOf('\n') + 1);
    }
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}

const post = <T>(path: string, body: unknown = {}) =>
  application.json<T>(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

async function crateOf(map: string): Promise<string> {
  const crates = await application.json<{ id: string; manifest: { mainMap: string } }[]>('/api/crates');
  return crates.find(({ manifest }) => manifest.mainMap === map)!.id;
}

/** All that the server offers of builds is whole. */
async function wholeBuilds(crate: string): Promise<Build[]> {
  const builds = await application.json<Build[]>(`/api/crates/${crate}/builds`);
  for (const build of builds)
    for (const { path, sha256 } of build.artefacts) {
      const response = await fetch(`${application.url}/api/crates/${crate}/builds/${build.id}/files/${path}`);
      const bytes = Buffer.from(await response.arrayBuffer());
      expect(createHash('sha256').update(bytes).digest('hex'), path).toBe(sha256);
    }
  return builds;
}

for (const { map, stages, parameters } of MAPS)
  test(`a build of ${map} whose server is killed in any stage goes on from the last finished one`, async () => {
    const crate = await crateOf(map);
    const order = { map, quality: 'draft' };
    const first = await post<Job>(`/api/crates/${crate}/builds`, order);
    expect(await until(first, 'none')).toBe('done');

    // The game's programs take too short a while to be met in the middle of them.
    for (const stage of stages.filter((one) => one !== 'programs')) {
      const job = await post<Job>(`/api/crates/${crate}/builds`, { ...order, parameters });
      expect(await until(job, stage)).toBe(stage);
      await application.kill('server', 'SIGKILL');
      await application.startServer();
      expect((await application.json<Job>(`/api/jobs/${job.id}`)).state).toBe('interrupted');
      const builds = await wholeBuilds(crate);
      expect(builds.map(({ id }) => id)).toEqual([first.id]);
    }

    const last = await post<Job>(`/api/crates/${crate}/builds`, { ...order, parameters });
    expect(await until(last, 'none')).toBe('done');
    const [built] = await wholeBuilds(crate);
    expect(built.id).toBe(last.id);
    expect(built.ok).toBe(true);
    // What was finished before the last kill came from the cache; what the map has no use for was left out.
    const states = built.stages.filter(({ state }) => state !== 'skipped').map(({ stage, state }) => `${stage} ${state}`);
    const always = ['check', 'packing', 'programs'];
    expect(states).toEqual(stages.map((stage) => `${stage} ${always.includes(stage) ? 'ran' : 'fresh'}`));
  });

test('a build that takes more memory than it may is ended with a finding, and the server goes on', async () => {
  const crate = await crateOf('pumphouse');
  await application.kill('server', 'SIGTERM');
  await application.startServer({ VIOLET_CRATE_WORKER_MEMORY: '24' });
  const before = await wholeBuilds(crate);
  const job = await post<Job>(`/api/crates/${crate}/builds`, { map: 'pumphouse', quality: 'draft', parameters: { luxel: 15 } });
  expect(await until(job, 'none')).toBe('failed');
  const { error } = await application.json<{ error: { code: string; message: string } }>(`/api/jobs/${job.id}`);
  expect(error.code).toBe('out-of-memory');
  expect(error.message).toContain('24 MiB');
  expect(await wholeBuilds(crate)).toHaveLength(before.length);
});
