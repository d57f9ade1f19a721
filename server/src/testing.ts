/** A running application over a folder of its own, for tests of the API. */

import { execFileSync } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import type { BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import request from 'supertest';
import { createApp } from './app.ts';
import { BuildsService } from './builds/builds.service.ts';
import { CratesService } from './crates/crates.service.ts';
import { DATABASE, type Database } from './database/database.ts';
import { builds } from './database/schema.ts';
import { GamesService } from './games/games.service.ts';
import { TASKS } from './jobs/tasks.ts';
import { readConfig, type Config } from './config.ts';

/** Parameters of a build whose light takes moments: Jest's contexts make long loops ten times slower. */
export const QUICK_LIGHT: Partial<BuildParameters> = { luxel: 64, hemisphereRays: 4, bounces: 1, probeSpacing: 0 };

export interface TestApplication {
  app: NestExpressApplication;
  config: Config;
  get(path: string): request.Test;
  send(method: 'post' | 'put' | 'patch' | 'delete', path: string, body?: object): request.Test;
  upload(path: string, files: Record<string, Uint8Array | string>): request.Test;
  newCrate(name: string, template?: string): Promise<string>;
  /** Builds a map quickly, here and not in a worker, which is compiled code only; the crate has the build afterwards. */
  build(crateId: string, map: string): Promise<void>;
  /** The job when it has ended. */
  ended(job: { id: string }): Promise<{ state: string; result: Record<string, unknown> | null; error: { message: string } | null }>;
  close(): Promise<void>;
}

/** A fresh data folder with the demo game. `npm test` makes it once for all suites; alone, a suite makes its own. */
export function demoData(): string {
  const data = mkdtempSync(join(tmpdir(), 'violet-server-'));
  const prepared = process.env.VIOLET_CRATE_PREPARED;
  if (prepared) cpSync(prepared, data, { recursive: true });
  // The compiled generator: drawing textures within a test's own context takes ten times as long.
  else execFileSync(process.execPath, [join(import.meta.dirname, '../../demo/dist/main.js'), data]);
  return data;
}

/** Starts it with the demo game laid out. */
export async function startApplication(): Promise<TestApplication> {
  const data = demoData();
  const config = readConfig({ VIOLET_CRATE_DATA: data, VIOLET_CRATE_PORT: '0', VIOLET_CRATE_WEB: join(data, 'no-web') });
  const app = await createApp(config);
  await app.init();
  const api = () => request(app.getHttpServer() as never);
  const send: TestApplication['send'] = (method, path, body) => api()[method](path).set('host', '127.0.0.1').send(body);
  const get: TestApplication['get'] = (path) => api().get(path).set('host', '127.0.0.1');
  return {
    app,
    config,
    get,
    send,
    upload(path, files) {
      const call = api().post(path).set('host', '127.0.0.1');
      for (const [name, content] of Object.entries(files))
        void call.attach('files', Buffer.from(content), { filename: name, filepath: name } as never);
      return call;
    },
    async newCrate(name, template = 'sealed-room') {
      const answer = await send('post', '/api/crates', { profile: 'brinewick', name, title: name, template });
      if (answer.status !== 201) throw new Error(JSON.stringify(answer.body));
      return (answer.body as { id: string }).id;
    },
    async build(crateId, map) {
      const world = app.get(CratesService).world(crateId);
      const { blobs, cache } = config;
      const base = app.get(GamesService).basePackFolder(app.get(CratesService).game(crateId));
      const order = {
        world,
        map,
        quality: 'draft' as const,
        parameters: QUICK_LIGHT,
        anyway: false,
        blobs,
        cache,
        base,
        required: config.required,
        game: null,
      };
      const { ok, stages, artefacts, picture, plan } = await TASKS.build(order, {
        progress: () => {},
        log: () => {},
        program: () => {},
        picture: () => {},
      });
      app
        .get<Database>(DATABASE)
        .insert(builds)
        .values({
          id: `build-${crateId}-${map}`,
          crateId,
          map,
          quality: 'draft',
          inputHash: app.get(BuildsService).inputHash(crateId, map),
          ok,
          stages,
          artefacts,
          inputs: plan,
          parameters: QUICK_LIGHT,
          picture,
          createdAt: new Date().toISOString(),
        })
        .run();
    },
    async ended(job) {
      for (;;) {
        const now = (await get(`/api/jobs/${job.id}`)).body as Awaited<ReturnType<TestApplication['ended']>>;
        if (now.state !== 'queued' && now.state !== 'running') return now;
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
    },
    async close() {
      await app.close();
      rmSync(data, { recursive: true, force: true });
    },
  };
}
