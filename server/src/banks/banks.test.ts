/** Banks of a crate through the interface: what is written is a patch, and the original is only read. */

import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import type { BankReport, BankView } from '@violet-crate/core/bank/views';
import request from 'supertest';
import { createApp } from '../app.ts';
import { readConfig } from '../config.ts';
import { demoData } from '../testing.ts';

const data = demoData();
const ledger = join(data, 'games/brinewick/ledger.bnk');
let app: NestExpressApplication;
let bank = '';

const ask = (method: 'get' | 'post' | 'delete', path: string, body?: object) => {
  const agent = request(app.getHttpServer() as never) as unknown as Record<string, (path: string) => request.Test>;
  return agent[method](path).set('host', '127.0.0.1').send(body);
};
const open = async () => (await ask('get', `${bank}/ledger`)).body as BankView;

beforeAll(async () => {
  app = await createApp(readConfig({ VIOLET_CRATE_DATA: data, VIOLET_CRATE_PORT: '0', VIOLET_CRATE_WEB: join(data, 'no-web') }));
  await app.init();
  const made = await ask('post', '/api/crates', { profile: 'brinewick', name: 'wits', title: 'Wits', template: 'sealed-room' });
  bank = `/api/crates/${(made.body as { id: string }).id}/banks`;
});
afterAll(async () => {
  await app.close();
  rmSync(data, { recursive: true, force: true });
});

describe('banks of a crate', () => {
  it('are listed with their version, and read as rows with what lies where', async () => {
    expect((await ask('get', bank)).body).toEqual([
      { id: 'ledger', title: 'Ledger of the lamplighters', file: 'ledger.bnk', there: true, version: '1', changed: false },
    ]);
    const { document, pieces, bytes } = await open();
    expect([document.sections.people.length, pieces[0].from, pieces.at(-1)!.to]).toEqual([24, 0, bytes]);
  });

  it('are planned, written as a patch against the original, opened as changed, and taken back', async () => {
    const original = readFileSync(ledger);
    const { document } = await open();
    document.sections.people[0].values.reward = 77;
    const planned = await ask('post', `${bank}/ledger`, { document, plan: true });
    expect((planned.body as BankReport).differences).toEqual([{ where: 'people 1 Odile Marsh, reward', before: '5', after: '77' }]);
    expect((await open()).changed).toBe(false);
    expect((await ask('post', `${bank}/ledger`, { document })).status).toBe(200);
    const after = await open();
    expect([after.changed, after.differences.length, after.document.sections.people[0].values.reward]).toEqual([true, 1, 77]);
    expect(readFileSync(ledger).equals(original)).toBe(true);
    // Back by hand is no change any more.
    after.document.sections.people[0].values.reward = 5;
    await ask('post', `${bank}/ledger`, { document: after.document });
    expect((await open()).changed).toBe(false);
    await ask('post', `${bank}/ledger`, { document });
    expect((await ask('delete', `${bank}/ledger`)).status).toBe(204);
    expect((await open()).changed).toBe(false);
  });

  it('what does not fit, is no document, or is of another place is refused in a sentence', async () => {
    const { document } = await open();
    document.sections.people[0].values.reward = 70_000;
    const refused = await ask('post', `${bank}/ledger`, { document });
    expect([refused.status, (refused.body as { detail: string }).detail]).toEqual([
      422,
      'people 1, reward: 70000 does not fit; whole numbers from 0 to 65535 do.',
    ]);
    expect((await ask('post', `${bank}/ledger`, { document: { format: 1 } })).status).toBe(422);
    expect((await ask('get', `${bank}/nothing`)).status).toBe(404);
  });

  it('another original than is known is looked at, and not changed', async () => {
    const original = readFileSync(ledger);
    const { document } = await open();
    const other = Buffer.from(original);
    other[0x20010] ^= 1;
    writeFileSync(ledger, other);
    try {
      expect((await ask('get', `${bank}/ledger`)).status).toBe(409);
      expect(((await ask('get', `${bank}/ledger?anyway=1`)).body as BankView).version).toBeNull();
      expect((await ask('post', `${bank}/ledger`, { document })).status).toBe(409);
    } finally {
      writeFileSync(ledger, original);
    }
    rmSync(ledger);
    expect((await ask('get', `${bank}/ledger`)).status).toBe(409);
    writeFileSync(ledger, original);
  });
});
