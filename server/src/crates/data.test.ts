/** Tables and conversations through the interface: kept where they can be read, refused with the reason, with what they were before. */

import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import request from 'supertest';
import { createApp } from '../app.ts';
import { readConfig } from '../config.ts';
import { demoData } from '../testing.ts';

const data = demoData();
let app: NestExpressApplication;
let crate = '';

const ask = (method: 'get' | 'post' | 'put' | 'delete', path: string, body?: object) => {
  const agent = request(app.getHttpServer() as never) as unknown as Record<string, (path: string) => request.Test>;
  return agent[method](path).set('host', '127.0.0.1').send(body);
};
const textOf = async (path: string) => String((await ask('get', `${crate}/files/${path}`)).body as Buffer);
const put = async (path: string, source: string) => {
  const { status, body } = await ask('put', `${crate}/data/${path}`, { source });
  return { status, detail: String((body as { detail?: string }).detail ?? '') };
};

beforeAll(async () => {
  app = await createApp(readConfig({ VIOLET_CRATE_DATA: data, VIOLET_CRATE_PORT: '0', VIOLET_CRATE_WEB: join(data, 'no-web') }));
  await app.init();
  const made = await ask('post', '/api/crates', { profile: 'brinewick', name: 'told', title: 'Told', template: 'sealed-room' });
  crate = `/api/crates/${(made.body as { id: string }).id}`;
});
afterAll(async () => {
  await app.close();
  rmSync(data, { recursive: true, force: true });
});

const TALK = '{"format":1,"title":"Hello","steps":[\n{"depth":0,"do":"say","who":"","text":"Hello."}\n]}\n';

it('a table and a conversation are kept as they were sent, and come with the crate', async () => {
  expect((await put('talk/hello.json', TALK)).status).toBe(200);
  const table = '{"format":1,"table":"wits","rows":[]}\n';
  expect((await put('records/wits.json', table)).status).toBe(200);
  expect(await textOf('talk/hello.json')).toBe(TALK);
  const exported = await ask('get', `${crate}/export`)
    .buffer(true)
    .parse((response, done) => {
      const parts: Buffer[] = [];
      response.on('data', (part: Buffer) => parts.push(part)).on('end', () => done(null, Buffer.concat(parts)));
    });
  expect((exported.body as Buffer).includes('talk/hello.json')).toBe(true);
  await put('talk/hello.json', TALK.replace('Hello.', 'Good day.'));
  const { body } = await ask('get', `${crate}/script-versions?path=talk/hello.json`);
  const [{ version }] = body as { version: number }[];
  expect(((await ask('get', `${crate}/script-versions/${version}`)).body as { source: string }).source).toBe(TALK);
});

it.each([
  ['talk/hello.json', '{', /not valid JSON at line 1/],
  ['talk/hello.json', '{"format":1,"title":"","steps":[{"depth":0,"do":"dance"}]}', /step 1 does "dance"/],
  ['talk/Hello There.json', TALK, /No spaces/],
  ['talk/memory.json', '{"format":1,"memory":[{"name":"A b","number":1,"kind":"flag","label":""}]}', /memory\.json: \/memory\/0\/name/],
  ['records/ghosts.json', '{"format":1,"table":"ghosts","rows":[]}', /has no such table/],
  ['records/wits.json', '{"format":1,"table":"people","rows":[]}', /its rows are of "people"/],
  ['scripts/main.lua', '', /is no file of game data/],
  ['records/../crate.json', '{}', /is no file of game data|not found|Cannot/i],
])('%s is refused where it cannot be read', async (path, source, words) => {
  const { status, detail } = await put(path, source);
  expect([status, detail]).toEqual([422, expect.stringMatching(words)]);
  // What was there is there still.
  expect(await textOf('talk/hello.json')).toContain('Good day.');
});
