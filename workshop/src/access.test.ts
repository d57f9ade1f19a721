/** Who may do what at the workshop, by whichever way in; and what one account can do to all others. */

import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { RequestMethod } from '@nestjs/common';
import { METHOD_METADATA, PATH_METADATA } from '@nestjs/common/constants.js';
import SQLite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { readZip, writeZip } from '@violet-crate/core/asset/archive/zip';
import { openRelease } from '@violet-crate/core/release/pack';
import { sha256Hex } from '@violet-crate/core/hash';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import { authorKey } from '@violet-crate/host/authorKey';
import { installMod, OtherSigner } from '@violet-crate/host/mods';
import { askWorkshop, publishRelease } from '@violet-crate/host/workshopClient';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { ACCESS, type Access } from './accounts/access.ts';
import { Limiter } from './accounts/limits.ts';
import { DepotController } from './depot.controller.ts';
import { ModsController } from './mods/mods.controller.ts';
import { SCOPES, type Scope } from './schema.ts';
import { SiteController } from './site/site.controller.ts';
import { samplePackage, startWorkshop, type TestWorkshop } from './testing.ts';

let w: TestWorkshop;
beforeAll(async () => {
  w = await startWorkshop();
});
afterAll(() => w.close());
const key = () => authorKey(join(mkdtempSync(join(tmpdir(), 'violet-key-')), 'author.key'));
const database = <T>(work: (database: SQLite.Database) => T): T => {
  const open = new SQLite(join(w.folder, 'w.sqlite'));
  try {
    return work(open);
  } finally {
    open.close();
  }
};

interface Route {
  method: string;
  path: string;
  access: Access | undefined;
}

function routes(): Route[] {
  return [ModsController, SiteController, DepotController].flatMap((controller) => {
    const base = String(Reflect.getMetadata(PATH_METADATA, controller) ?? '').replace(/^\/|\/$/g, '');
    const names = Object.getOwnPropertyNames(controller.prototype).filter((name) => name !== 'constructor');
    return names.flatMap((name): Route[] => {
      const handler = (controller.prototype as unknown as Record<string, object>)[name];
      const path = typeof handler === 'function' ? (Reflect.getMetadata(PATH_METADATA, handler) as string | undefined) : undefined;
      if (path === undefined) return [];
      const access = (Reflect.getMetadata(ACCESS, handler) ?? Reflect.getMetadata(ACCESS, controller)) as Access | undefined;
      const method = RequestMethod[Reflect.getMetadata(METHOD_METADATA, handler) as RequestMethod];
      return [{ method, path: `/${[base, path.replace(/^\/|\/$/g, '')].filter(Boolean).join('/')}`, access }];
    });
  });
}

/** A token with some scopes, made by its owner in a browser. */
async function tokenWith(cookie: string, scopes: Scope[], at = w): Promise<string> {
  const form = new URLSearchParams([['name', 'some'], ...scopes.map((scope) => ['scopes', scope])]);
  const page = await (await fetch(`${at.url}/tokens`, { method: 'POST', body: form, headers: { origin: at.url, cookie } })).text();
  return /<code>(qw_[^<]+)<\/code>/.exec(page)![1];
}

describe('scopes', () => {
  it('every route says who may ask it, and a token does only what it is for, at all of them', async () => {
    const all = routes();
    expect(all.length).toBeGreaterThan(40);
    expect(all.filter(({ access }) => access === undefined)).toEqual([]);
    // One of its own: so many addresses that are none look like guessing.
    const mine = await startWorkshop();
    const { cookie } = await mine.person('ambermoor');
    const tokens = new Map<Scope, string>();
    for (const scope of SCOPES) tokens.set(scope, await tokenWith(cookie, [scope], mine));
    const wrong: string[] = [];
    for (const { method, path, access } of all)
      for (const [scope, token] of tokens) {
        const address = mine.url + path.replace(/:\w+/g, 'x1');
        const { status } = await fetch(address, {
          method,
          headers: { authorization: `Bearer ${token}`, origin: mine.url, ...(method === 'GET' ? {} : { 'content-type': 'application/json' }) },
          ...(method === 'GET' || method === 'DELETE' ? {} : { body: '{}' }),
          redirect: 'manual',
        });
        const refused = status === 403;
        const may = access === 'anyone' || access === scope;
        if (may === refused && !(path.endsWith('/entrance') && may)) wrong.push(`${scope}: ${method} ${path} for ${access} answered ${status}`);
      }
    await mine.close();
    expect(wrong).toEqual([]);
  });

  it('no token makes another one, nor a session, unless it may do all', async () => {
    const { cookie, token } = await w.person('bramoor');
    for (const scopes of [['read'], ['manage'], ['read', 'manage']] as Scope[][]) {
      const some = await tokenWith(cookie, scopes);
      await expect(askWorkshop(w.url, some, 'POST', '/api/entrance')).rejects.toThrow(/may not/);
      const made = await fetch(`${w.url}/tokens`, {
        method: 'POST',
        body: new URLSearchParams({ name: 'more', scopes: 'publish' }),
        headers: { authorization: `Bearer ${some}`, origin: w.url },
      });
      expect([made.status, /qw_/.test(await made.text())]).toEqual([403, false]);
    }
    expect(await askWorkshop(w.url, token, 'POST', '/api/entrance')).toMatchObject({ path: expect.stringContaining('/enter/') });
  });

  it('what is private is not seen by a token that may not read', async () => {
    const { cookie, token } = await w.person('cadmoor');
    const { shareCode } = await publishRelease(w.url, token, samplePackage({ name: 'hidden' }));
    const publishing = await tokenWith(cookie, ['publish']);
    await expect(askWorkshop(w.url, publishing, 'GET', `/api/releases/${shareCode}`)).rejects.toThrow(/no release/);
    expect(await askWorkshop(w.url, token, 'GET', `/api/releases/${shareCode}`)).toMatchObject({ name: 'hidden' });
  });
});

describe('signing in', () => {
  it('spellings of a name are one account, counted before a password is looked at', async () => {
    await w.person('dunmoor');
    const attempts = await Promise.all(
      Array.from({ length: 30 }, (_, i) => w.post('/sign-in', { name: `${' '.repeat(i % 3)}DunMoor${' '.repeat(i)}`, password: `wrong ${i} words` })),
    );
    const statuses = attempts.map(({ status }) => status);
    expect(statuses.filter((status) => status === 401).length).toBeLessThanOrEqual(8);
    expect(statuses.filter((status) => status === 429).length).toBeGreaterThanOrEqual(22);
  });

  it('whoever is slowed down does not get rid of that by many other names', () => {
    const limiter = new Limiter(3, 60_000);
    for (let i = 0; i < 3; i++) limiter.failed('me', 1000);
    for (let i = 0; i < 20_000; i++) limiter.failed(`other ${i}`, 1000);
    expect(limiter.blocked('me', 2000)).toBe(true);
    limiter.takeBack('me');
    expect(limiter.blocked('me', 2000)).toBe(false);
  });
});

describe('uploads', () => {
  const tus = (token: string, more: Record<string, string> = {}) => ({ authorization: `Bearer ${token}`, 'tus-resumable': '1.0.0', ...more });

  it('those of others are out of reach by every method and spelling, and so many may be open', async () => {
    const [eve, fen] = [await w.person('evemoor'), await w.person('fenmoor')];
    const begin = (token: string, bytes: number) =>
      fetch(`${w.url}/api/uploads`, { method: 'POST', headers: tus(token, { 'upload-length': String(bytes) }) });
    const location = new URL((await begin(eve.token, 100)).headers.get('location')!, w.url);
    const id = location.pathname.split('/').pop()!;
    const spellings = [id, `%${id.charCodeAt(0).toString(16)}${id.slice(1)}`, `${id}/`, `${id}?x`, `/${id}`, `./${id}`, id.toUpperCase()];
    for (const spelling of spellings)
      for (const method of ['HEAD', 'PATCH', 'DELETE', 'GET']) {
        const { status } = await fetch(`${w.url}/api/uploads/${spelling}`, {
          method,
          headers: tus(fen.token, method === 'PATCH' ? { 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' } : {}),
          ...(method === 'PATCH' ? { body: 'theirs' } : {}),
        });
        expect([method, spelling, [404, 405].includes(status)]).toEqual([method, spelling, true]);
      }
    const head = await fetch(location, { method: 'HEAD', headers: tus(eve.token) });
    expect([head.status, head.headers.get('upload-offset')]).toEqual([200, '0']);
    const more = await Promise.all(Array.from({ length: 12 }, () => begin(fen.token, 2 ** 20)));
    expect(more.map(({ status }) => status).filter((status) => status === 201).length).toBeLessThanOrEqual(12);
    expect((await begin(fen.token, 2 ** 20)).status).toBe(429);
  });
});

describe('what one account does to others', () => {
  it('a refused package does not take its key', async () => {
    const [gus, hew] = [await w.person('gusmoor'), await w.person('hewmoor')];
    const { sign } = key();
    await publishRelease(w.url, hew.token, samplePackage({ name: 'taken' }));
    // Gus got a copy of what Hew signs with, or of a package; his is refused, since the name is Hew’s.
    await expect(publishRelease(w.url, gus.token, samplePackage({ name: 'taken', version: '2.0.0' }, {}, sign))).rejects.toThrow(
      /taken by somebody else/,
    );
    expect(await publishRelease(w.url, hew.token, samplePackage({ name: 'taken', version: '2.0.0' }, {}, sign))).toMatchObject({ version: '2.0.0' });
    await expect(publishRelease(w.url, gus.token, samplePackage({ name: 'other' }, {}, sign))).rejects.toThrow(/the key of hewmoor/);
  });

  it('mail is seen by whom it is to', async () => {
    const [ida, jon] = [await w.person('idamoor', { raw: true }), await w.person('jonmoor')];
    expect(await w.page('/mailbox')).toContain('Sign in first');
    expect(await w.page('/mailbox', jon.cookie)).not.toContain('idamoor');
    expect(await w.page('/mailbox', ida.cookie)).toContain('/confirm/');
  });

  it('what a moderator took off the list is not listed again by its owner; and nobody reports twice', async () => {
    const [kay, lou, mod] = [await w.person('kaymoor'), await w.person('loumoor'), await w.person('modmoor')];
    await publishRelease(w.url, kay.token, samplePackage({ name: 'noisy' }), { visibility: 'code' });
    await w.post('/organisations/kaymoor/invitations', { account: 'loumoor', role: 'tester' }, kay.cookie);
    const link = /href="(\/invitation\/[^"]+)"/.exec(await w.page('/mailbox', lou.cookie))![1];
    await w.post(link, {}, lou.cookie);
    await askWorkshop(w.url, lou.token, 'POST', '/api/mods/noisy/tested', { version: '1.0.0', works: true });
    const list = () => askWorkshop(w.url, kay.token, 'POST', '/api/mods/noisy/visibility', { visibility: 'listed' });
    await list();
    const reports = await Promise.all(Array.from({ length: 30 }, () => w.post('/mods/noisy/reports', { reason: 'Too loud' }, mod.cookie)));
    expect(reports.filter(({ status }) => status === 303)).toHaveLength(1);
    database((open) => open.prepare('UPDATE accounts SET moderator = 1 WHERE name = ?').run('modmoor'));
    const id = /\/moderation\/(\d+)"/.exec(await w.page('/moderation', mod.cookie))![1];
    expect((await w.post(`/moderation/${id}`, { act: 'unlist' }, mod.cookie)).status).toBe(303);
    await expect(list()).rejects.toThrow(/A moderator took noisy off the list/);
    expect((await w.post('/moderation/mods/noisy', {}, kay.cookie)).status).toBe(403);
    expect((await w.post('/moderation/mods/noisy', {}, mod.cookie)).status).toBe(303);
    expect(await list()).toMatchObject({ visibility: 'listed' });
  });

  it('a version that no program can compare is refused, and one that is there breaks no list', async () => {
    const ned = await w.person('nedmoor');
    await publishRelease(w.url, ned.token, samplePackage({ name: 'huge' }));
    await expect(publishRelease(w.url, ned.token, samplePackage({ name: 'huge', version: '99999999999999999999.0.0' }))).rejects.toThrow(/version/);
    database((open) => {
      open
        .prepare(
          "INSERT INTO versions SELECT NULL, mod, '99999999999999999999.0.0', 'ZZZZ-ZZZZ', manifest, document, signature, notes, sha256, bytes, key, by, published_at, withdrawn_at, withdrawn_for FROM versions WHERE version = '1.0.0' AND mod = (SELECT id FROM mods WHERE name = 'huge')",
        )
        .run();
    });
    expect(await w.page('/account', ned.cookie)).toContain('huge');
    expect((await askWorkshop(w.url, ned.token, 'GET', '/api/mods/huge')) as { versions: object[] }).toMatchObject({
      versions: [{ version: '1.0.0' }, {}],
    });
    // A program that reads the list leaves that row out.
    const game = mkdtempSync(join(tmpdir(), 'violet-huge-'));
    const { shareCode } = ((await askWorkshop(w.url, ned.token, 'GET', '/api/mods/huge')) as { versions: { shareCode: string }[] }).versions[0];
    expect((await installMod(game, 'brinewick', { workshop: w.url, token: ned.token, shareCode })).map(({ version }) => version)).toEqual(['1.0.0']);
    rmSync(game, { recursive: true });
  });
});

describe('what a workshop gives out', () => {
  const servers: Server[] = [];
  afterAll(() =>
    servers.forEach((server) => {
      server.close();
      server.closeAllConnections();
    }),
  );

  /** A workshop that answers as it likes, in the place of the real one. */
  async function lying(answer: (path: string) => Promise<Response>): Promise<{ url: string; server: Server; asked: string[] }> {
    const asked: string[] = [];
    const server = createServer((request, response) => {
      asked.push(request.headers.authorization ?? '');
      void answer(request.url!).then(async (from) => {
        response.statusCode = from.status;
        response.end(Buffer.from(await from.arrayBuffer()));
      });
    });
    await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
    servers.push(server);
    return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, server, asked };
  }
  const json = (value: unknown) => new Response(JSON.stringify(value));
  function workshopOf(packages: Record<string, Uint8Array>, change: (release: Record<string, unknown>) => object = (release) => release) {
    const release = (code: string) => {
      const zip = packages[code];
      const manifest = JSON.parse(new TextDecoder().decode(readZip(zip, 'x').get('release.json'))) as ReleaseManifest;
      const signature = readZip(zip, 'x').get('release.sig');
      return change({
        shareCode: code,
        name: manifest.name,
        title: manifest.title,
        description: '',
        version: manifest.version,
        profile: 'brinewick',
        bytes: zip.length,
        sha256: sha256Hex(zip),
        publishedAt: '2026-01-01',
        notes: '',
        key: signature ? (JSON.parse(new TextDecoder().decode(signature)) as { key: string }).key : '',
      });
    };
    return lying((path) => {
      const [, code, what, sha256] = /^\/api\/releases\/([^/]+)(?:\/(\w+)(?:\/(\w+))?)?/.exec(path) ?? [];
      if (code === undefined || !Object.hasOwn(packages, code)) return Promise.resolve(new Response('{}', { status: 404 }));
      if (what === 'package') return Promise.resolve(new Response(Buffer.from(packages[code])));
      if (what === 'files') {
        const found = [...readZip(packages[code], 'x').values()].find((bytes) => sha256Hex(bytes) === sha256);
        return Promise.resolve(found ? new Response(Buffer.from(found)) : new Response('{}', { status: 404 }));
      }
      if (what === 'mod') return Promise.resolve(json({ current: null, versions: [release(code)] }));
      if (what === 'manifest') {
        const tree = readZip(packages[code], 'x');
        const text = (name: string) => new TextDecoder().decode(tree.get(name) ?? new Uint8Array());
        return Promise.resolve(json({ document: text('release.json'), signature: text('release.sig') }));
      }
      return Promise.resolve(json(release(code)));
    });
  }
  const install = (url: string, mods: string, shareCode: string, signers?: Record<string, string>) =>
    installMod(mods, 'brinewick', { workshop: url, token: null, shareCode, signers });
  const installed = (mods: string) => readdirSync(mods).filter((name) => !name.startsWith('.'));

  it('is installed only under its own name, version and signature; a key is remembered, and another one asks', async () => {
    const [own, other] = [key(), key()];
    const pack = (change: Partial<ReleaseManifest>, sign?: typeof own.sign, text = 'one') =>
      samplePackage({ name: 'moor', ...change }, { 'scripts/a.lua': text }, sign);
    const altered = (zip: Uint8Array) => {
      const tree = readZip(zip, 'x');
      tree.set('release.json', new TextEncoder().encode(new TextDecoder().decode(tree.get('release.json')).replace('"Hall"', '"Hell"')));
      return writeZip(tree);
    };
    const packages: Record<string, Uint8Array> = {
      'AAAA-1': pack({ version: '1.0.0' }, own.sign),
      'AAAA-2': pack({ version: '1.1.0' }, own.sign, 'two'),
      'BBBB-1': pack({ version: '1.2.0' }, other.sign),
      'BBBB-2': pack({ version: '1.3.0' }),
      'CCCC-1': altered(pack({ version: '1.4.0' }, own.sign)),
    };
    const { url } = await workshopOf(packages);
    const mods = mkdtempSync(join(tmpdir(), 'violet-mods-'));
    await install(url, mods, 'AAAA-1');
    await install(url, mods, 'AAAA-2');
    const refused = async (code: string, signers?: Record<string, string>) => {
      try {
        await install(url, mods, code, signers);
      } catch (error) {
        return error as OtherSigner;
      }
      throw new Error(`${code} went in`);
    };
    const before = readFileSync(join(mods, 'moor/release.json'), 'utf8');
    const changed = await refused('BBBB-1');
    expect(changed).toBeInstanceOf(OtherSigner);
    expect(changed.message).toMatch(/Hall was signed by the key .* since \d{4}-\d\d-\d\d; 1\.2\.0 is signed by the key/);
    expect((await refused('BBBB-2')).message).toMatch(/is signed by nobody/);
    expect((await refused('CCCC-1')).code).toBe('mod-altered');
    expect((await refused('CCCC-1', { moor: own.publicKey })).code).toBe('mod-altered');
    // A word for another mod, or for another key, is none.
    expect((await refused('BBBB-1', { hall: other.publicKey })).code).toBe('mod-signer');
    expect((await refused('BBBB-1', { moor: own.publicKey })).code).toBe('mod-signer');
    expect([installed(mods), readFileSync(join(mods, 'moor/release.json'), 'utf8')]).toEqual([['moor'], before]);
    await install(url, mods, 'BBBB-1', { moor: changed.signer.signer });
    expect(readFileSync(join(mods, 'moor/release.json'), 'utf8')).toContain('1.2.0');
  });

  it.each([
    ['another name', (release: object) => ({ ...release, name: 'innocent' }), /gives out moor 1\.0\.0 as innocent 1\.0\.0/],
    ['another version', (release: object) => ({ ...release, version: '9.0.0' }), /as moor 9\.0\.0/],
    ['another key', (release: object) => ({ ...release, key: key().publicKey }), /not what its author signed/],
    ['no key', (release: object) => ({ ...release, key: '' }), /not what its author signed/],
    ['another hash', (release: object) => ({ ...release, sha256: 'a'.repeat(64) }), /does not match its SHA-256/],
  ])('told as a release of %s, nothing goes in', async (_, change, why) => {
    const { url } = await workshopOf({ 'AAAA-1': samplePackage({ name: 'moor' }, {}, key().sign) }, change);
    const mods = mkdtempSync(join(tmpdir(), 'violet-mods-'));
    await expect(install(url, mods, 'AAAA-1')).rejects.toThrow(why);
    expect(installed(mods)).toEqual([]);
  });

  it('files with names that are others elsewhere are refused at publishing and at installing', async () => {
    const names = ['scripts/con.lua', 'scripts/a.', 'scripts/a\u202e.lua', 'a//b'];
    const { token } = await w.person('olimoor');
    for (const [i, name] of names.entries()) {
      const zip = samplePackage({ name: `odd${i}` }, { [name]: 'x' });
      await expect(publishRelease(w.url, token, zip)).rejects.toThrow(/Windows|ends with|not seen|empty name|path/);
      expect(() => openRelease(zip, 'it')).toThrow(/Windows|ends with|not seen|empty name|path/);
    }
  });
});
