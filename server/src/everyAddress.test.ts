/** Every address that the server documents, asked wrongly in every way: a sentence comes back, never a fault of ours. */

import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals';
import { Logger } from '@nestjs/common';
import type { NestExpressApplication } from '@nestjs/platform-express';
import request, { type Response } from 'supertest';
import { createApp } from './app.ts';
import { readConfig } from './config.ts';
import { CLEARABLE } from './space/space.service.ts';
import { demoData } from './testing.ts';

const data = demoData();
let app: NestExpressApplication;
let crate = '';
/** Method and path of every operation, with its parameters in braces. */
let operations: { method: string; path: string }[] = [];
const faults: string[] = [];

const ask = (method: string, path: string) =>
  (request(app.getHttpServer() as never) as unknown as Record<string, (path: string) => request.Test>)[method](path).set('host', '127.0.0.1');

beforeAll(async () => {
  const config = readConfig({
    VIOLET_CRATE_DATA: data,
    VIOLET_CRATE_PORT: '0',
    VIOLET_CRATE_WEB: join(data, 'no-web'),
    VIOLET_CRATE_WORKSHOP: 'http://127.0.0.1:1',
  });
  app = await createApp(config);
  await app.init();
  jest.spyOn(Logger.prototype, 'error').mockImplementation((...said: unknown[]) => void faults.push(String(said[0])));
  const { paths } = (await ask('get', '/api/docs-json')).body as { paths: Record<string, object> };
  operations = Object.entries(paths).flatMap(([path, methods]) => Object.keys(methods).map((method) => ({ method, path })));
  crate = (
    (await ask('post', '/api/crates').send({ profile: 'brinewick', name: 'hall', title: 'Hall', template: 'sealed-room' })).body as { id: string }
  ).id;
});

afterAll(async () => {
  await app.close();
  rmSync(data, { recursive: true, force: true });
});

/** Acts that need no word more than their address. */
const WITHOUT_BODY = ['post /api/crates/{id}/profile', 'post /api/crates/{id}/required/look', 'post /api/crates/{id}/required/fetch'];
/** What sets nothing where nothing is sent. */
const ALL_OPTIONAL = ['patch /api/crates/{id}', 'put /api/settings'];

/** Events go on for ever; the rest answers. */
const answering = () => operations.filter(({ path }) => !path.endsWith('/events'));
const filled = (path: string, values: Record<string, string>, otherwise: string) =>
  path.replaceAll(/\{(\w+)\}/g, (_, name: string) => values[name] ?? otherwise);

/** A refusal says what is wrong in a sentence of ours. */
function refused(what: string, { status, body, headers }: Response): void {
  const { detail } = body as { detail?: string };
  const told = { what, status, detail, type: headers['content-type'] };
  expect(told).toEqual({
    what,
    status: expect.any(Number),
    detail: expect.stringMatching(/^[A-Z"„/0-9a-z][^]*[.!?)]$/),
    type: expect.stringContaining('application/problem+json'),
  });
  // 502 is of the workshop, which is not there.
  expect([what, (status >= 400 && status < 500) || (status === 502 && what === 'post /api/workshop/entrance')]).toEqual([what, true]);
  // Words of Node.js, of the database and of frameworks.
  expect([what, detail]).toEqual([
    what,
    expect.not.stringMatching(/ENOENT|SQLITE|undefined|\[object|Cannot (GET|POST|PUT)|at Object\.|node_modules/),
  ]);
}

describe('every address', () => {
  it('is known, so that none is forgotten here', () => {
    expect(operations.length).toBeGreaterThan(45);
    expect(new Set(operations.map(({ method }) => method))).toEqual(new Set(['get', 'post', 'put', 'patch', 'delete']));
  });

  it.each(['no-such', '..', '%2e%2e%2f', 'a'.repeat(300), '__proto__', '%00', '%F0%9F%A6%86', '%FF'])(
    'refuses ids of nothing: %s',
    async (nothing) => {
      for (const { method, path } of answering()) {
        if (!path.includes('{')) continue;
        refused(`${method} ${path}`, await ask(method, filled(path, {}, nothing)));
      }
      expect(faults).toEqual([]);
    },
  );

  it('refuses what a crate or a game that is there does not have', async () => {
    for (const { method, path } of answering()) {
      if ((path.match(/\{/g) ?? []).length < 2 || method !== 'get') continue;
      refused(
        `${method} ${path}`,
        await ask(method, filled(path, { id: path.startsWith('/api/games') ? 'brinewick' : crate, form: 'glb' }, 'no-such')),
      );
    }
    expect(faults).toEqual([]);
  });

  it.each([
    ['nothing', undefined],
    ['an empty object', {}],
    ['a list', []],
    [
      'numbers where words belong',
      Object.fromEntries(
        [
          'name',
          'title',
          'profile',
          'template',
          'map',
          'quality',
          'path',
          'entry',
          'folder',
          'source',
          'version',
          'action',
          'message',
          'release',
          'package',
          'workshopUrl',
          'thumbnail',
          'from',
          'to',
          'command',
        ].map((key) => [key, 7]),
      ),
    ],
    [
      'words where more belongs',
      Object.fromEntries(
        [
          'edits',
          'base',
          'entries',
          'options',
          'material',
          'credits',
          'authors',
          'what',
          'parameters',
          'files',
          'anyway',
          'automatic',
          'fresh',
          'clashes',
          'workshopToken',
        ].map((key) => [key, { x: 'y' }]),
      ),
    ],
  ])('refuses %s as a body', async (_, body) => {
    const taken: string[] = [];
    for (const { method, path } of answering()) {
      // Deleting has no body, and some of what is sent is files.
      if (!['post', 'put', 'patch'].includes(method)) continue;
      const answer = await ask(
        method,
        filled(path, { id: path.startsWith('/api/games') ? 'brinewick' : crate, map: 'hall', name: 'brick' }, 'no-such'),
      ).send(body as object);
      if (answer.status >= 300) refused(`${method} ${path}`, answer);
      else taken.push(`${method} ${path}`);
    }
    const nothing = body === undefined || (!Array.isArray(body) && Object.keys(body).length === 0);
    expect(taken.sort()).toEqual([...WITHOUT_BODY, ...(nothing ? ALL_OPTIONAL : [])].sort());
    expect(faults).toEqual([]);
  });

  it('refuses a method that it does not have, and an address that there is none of', async () => {
    refused('delete /api/games', await ask('delete', '/api/games'));
    refused('get /api/nowhere', await ask('get', '/api/nowhere'));
    refused('post of no JSON', await ask('post', '/api/crates').set('content-type', 'application/json').send('{"name":'));
  });
});

describe('settings', () => {
  it('without a token do not open the workshop’s site, and say where one is entered', async () => {
    const { workshopToken } = (await ask('get', '/api/settings')).body as { workshopToken: string };
    await ask('put', '/api/settings').send({ workshopToken: '' });
    const { status, body } = await ask('post', '/api/workshop/entrance');
    expect([status, body]).toEqual([409, expect.objectContaining({ detail: expect.stringContaining('under Publish') })]);
    await ask('put', '/api/settings').send({ workshopToken });
  });

  it('keep the workshop’s address, and refuse one that is none', async () => {
    expect((await ask('put', '/api/settings').send({ workshopUrl: 'http://127.0.0.1:4999', workshopToken: 'secret' })).status).toBe(200);
    const { body } = await ask('get', '/api/settings');
    expect(body).toMatchObject({ workshopUrl: 'http://127.0.0.1:4999' });
    refused('settings', await ask('put', '/api/settings').send({ workshopUrl: 'ftp://x' }));
    expect((await ask('get', '/api/settings')).body).toEqual(body);
  });
});

describe('space', () => {
  it('says what could be cleared, clears it, and refuses what it does not know', async () => {
    const look = (await ask('get', '/api/space')).body as Record<string, unknown>;
    expect(Object.keys(look).sort()).toEqual([...CLEARABLE].sort());
    for (const kind of CLEARABLE) expect(look[kind]).toEqual({ files: expect.any(Number), bytes: expect.any(Number) });
    refused('space', await ask('post', '/api/space').send({ what: ['everything'] }));
    expect((await ask('post', '/api/space').send({ what: [] })).status).toBe(200);
  });
});

describe('a script', () => {
  it('is written, read and removed; one outside its folder is refused', async () => {
    const at = `/api/crates/${crate}/scripts/locks.lua`;
    expect((await ask('put', at).send({ source: 'function open() end\n' })).status).toBe(200);
    expect((await ask('get', `/api/crates/${crate}/files/scripts/locks.lua`)).text).toBe('function open() end\n');
    expect((await ask('delete', `/api/crates/${crate}/files/scripts/locks.lua`)).status).toBe(204);
    refused('removed', await ask('get', `/api/crates/${crate}/files/scripts/locks.lua`));
    for (const wrong of ['../crate.json', 'locks.txt', 'Lo cks.lua', '%2e%2e/x.lua'])
      refused(wrong, await ask('put', `/api/crates/${crate}/scripts/${wrong}`).send({ source: '' }));
  });
});
