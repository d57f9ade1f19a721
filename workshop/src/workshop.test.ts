import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { scryptSync } from 'node:crypto';
import SQLite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals';
import { openRelease } from '@violet-crate/core/release/pack';
import { sha256Hex } from '@violet-crate/core/hash';
import { authorKey } from '@violet-crate/host/authorKey';
import { askWorkshop, fetchRelease, fetchUpdate, publishRelease } from '@violet-crate/host/workshopClient';
import { eligibility } from './accounts/eligibility.ts';
import { Limiter } from './accounts/limits.ts';
import { checkPassword, hashPassword, passwordProblem } from './accounts/password.ts';
import { html } from './site/html.ts';
import { KEEPERS_TOKEN, PASSWORD, samplePackage, startWorkshop, type TestWorkshop } from './testing.ts';

let w: TestWorkshop;
beforeAll(async () => {
  w = await startWorkshop();
});
afterAll(() => w.close());

const ask = (token: string | null, method: 'GET' | 'POST' | 'PATCH' | 'DELETE', path: string, body?: object) =>
  askWorkshop(w.url, token, method, `/api${path}`, body);
const invitation = async (cookie: string) => /href="(\/invitation\/[^"]+)"/.exec(await w.page('/mailbox', cookie))![1];
const key = () => authorKey(join(mkdtempSync(join(tmpdir(), 'violet-key-')), 'author.key'));

describe('passwords', () => {
  // Outside reference: RFC 7914, section 12.
  it.each([
    [
      '',
      '',
      16,
      1,
      1,
      '77d6576238657b203b19ca42c18a0497f16b4844e3074ae8dfdffa3fede21442fcd0069ded0948f8326a753a0fc81f17e8d3e0fb2e0d3628cf35e20c38d18906',
    ],
    [
      'password',
      'NaCl',
      1024,
      8,
      16,
      'fdbabe1c9d3472007856e7190d01e9fe7c6ad7cbc8237830e77376634b3731622eaf30d92e22a3886ff109279d9830dac727afb94a83ee6d8360cbdfa2cc0640',
    ],
    [
      'pleaseletmein',
      'SodiumChloride',
      16384,
      8,
      1,
      '7023bdcb3afd7348461c06cd81fd38ebfda8fbba904f8e3ea9b543f6545da1f2d5432955613f0fcf62d49705242a9af9e61e85dc0d651e40dfcf017b45575887',
    ],
  ])('scrypt of "%s" is that of RFC 7914', (password, salt, N, r, p, hash) => {
    expect(scryptSync(password, salt, 64, { N, r, p, maxmem: 256 * N * r }).toString('hex')).toBe(hash);
  });

  it('are kept with a salt each, and only the right one passes', async () => {
    const [one, two] = [await hashPassword('correct horse'), await hashPassword('correct horse')];
    expect(one).not.toBe(two);
    expect(await checkPassword('correct horse', one)).toBe(true);
    expect(await checkPassword('correct horsf', one)).toBe(false);
    expect(await checkPassword('anything', '')).toBe(false);
  });

  it('that are short, guessed first or hold the name are refused', () => {
    expect(passwordProblem('short', 'ada')).toMatch(/at least 10/);
    expect(passwordProblem('password12', 'ada')).toMatch(/first that are guessed/);
    expect(passwordProblem('ada is my name', 'ada')).toMatch(/hold the name/);
    expect(passwordProblem(PASSWORD, 'ada')).toBeNull();
  });
});

describe('rules', () => {
  it('say for each condition whether it is met', () => {
    const at = Date.parse('2026-01-02T00:00:00Z');
    const account = { createdAt: '2026-01-01T00:00:00Z', confirmedAt: null, termsAt: '2026-01-01T00:00:00Z' };
    expect(eligibility(account, false, { ageHours: 24 }, at).map(({ id, met }) => [id, met])).toEqual([
      ['age', true],
      ['mail', false],
      ['terms', true],
      ['tested', false],
    ]);
    expect(eligibility(account, true, { ageHours: 25 }, at)[0].met).toBe(false);
  });

  it('who fails too often waits, and is heard again afterwards', () => {
    const limiter = new Limiter(3, 1000);
    for (let i = 0; i < 3; i++) limiter.failed('a', i);
    expect([limiter.blocked('a', 10), limiter.blocked('b', 10), limiter.blocked('a', 1003)]).toEqual([true, false, false]);
  });

  it('whatever is put into a page is text', () => {
    expect(html`<p>${'<b>&"\''}${[html`<i>${1}</i>`, null, false]}</p>`.text).toBe('<p>&#60;b&#62;&#38;&#34;&#39;<i>1</i></p>');
  });
});

describe('a release', () => {
  it('is taken by who runs the machine, given out by its share code, and the same again is the same', async () => {
    const zip = samplePackage({ description: '<b>bold</b> & *so*' }, { 'a.txt': 'one' }, key().sign);
    const release = await publishRelease(w.url, KEEPERS_TOKEN, zip, { notes: 'first', visibility: 'code' });
    expect(release.shareCode).toMatch(/^[2-9A-Z]{4}-[2-9A-Z]{4}$/);
    const fetched = await fetchRelease(w.url, release.shareCode.toLowerCase());
    expect(fetched.zip).toEqual(zip);
    expect(openRelease(fetched.zip, 'x').manifest.title).toBe('Hall');
    expect((await publishRelease(w.url, KEEPERS_TOKEN, zip)).shareCode).toBe(release.shareCode);
    expect(await ask(KEEPERS_TOKEN, 'POST', '/releases/known', { sha256: sha256Hex(zip) })).toMatchObject({ release: { notes: 'first' } });
  });

  it('wrong tokens, changed packages of one version and what is no package are refused with the reason', async () => {
    await expect(publishRelease(w.url, 'wrong', samplePackage())).rejects.toThrow(/token is not right/);
    await expect(publishRelease(w.url, KEEPERS_TOKEN, samplePackage({}, { 'a.txt': 'two' }))).rejects.toThrow(/Raise the version/);
    await expect(publishRelease(w.url, KEEPERS_TOKEN, new Uint8Array(50))).rejects.toThrow(/not a ZIP/);
    await expect(fetchRelease(w.url, 'NONE-CODE')).rejects.toThrow(/no release with the share code/);
    await expect(fetchRelease('http://127.0.0.1:1', 'X')).rejects.toThrow(/does not answer/);
  });

  it('an update fetches what changed, and comes out as the package to the byte', async () => {
    const sign = key().sign;
    const first = samplePackage({ name: 'moor', version: '1.0.0' }, { 'big.bin': 'x'.repeat(50_000), 'a.txt': 'one' });
    const second = samplePackage({ name: 'moor', version: '1.1.0' }, { 'big.bin': 'x'.repeat(50_000), 'a.txt': 'two' }, sign);
    await publishRelease(w.url, KEEPERS_TOKEN, first, { visibility: 'code' });
    const { shareCode } = await publishRelease(w.url, KEEPERS_TOKEN, second);
    const have = openRelease(first, 'x').tree;
    const byHash = new Map([...have.values()].map((content) => [sha256Hex(content), content]));
    const update = await fetchUpdate(w.url, shareCode, ({ sha256 }) => byHash.get(sha256) ?? null);
    expect(update.fetched).toBe(3);
    expect([...update.tree].sort()).toEqual([...openRelease(second, 'x').tree].sort());
    // Who has nothing gets the package.
    expect((await fetchUpdate(w.url, shareCode, () => null)).fetched).toBe(second.length);
  });

  it('signed by somebody else, or with a signature that is not of it, is refused', async () => {
    const [ada, bo] = [await w.person('ada'), await w.person('bomarsh')];
    const hers = key();
    await publishRelease(w.url, ada.token, samplePackage({ name: 'ada_one' }, {}, hers.sign));
    await expect(publishRelease(w.url, bo.token, samplePackage({ name: 'bo_one' }, {}, hers.sign))).rejects.toThrow(/key of ada, not with yours/);
    const forged = samplePackage({ name: 'bo_two' }, {}, () => hers.sign(new Uint8Array(3)));
    await expect(publishRelease(w.url, bo.token, forged)).rejects.toThrow(/signature of the package is not of what it holds/);
    await expect(publishRelease(w.url, bo.token, samplePackage({ name: 'ada_one', version: '2.0.0' }))).rejects.toThrow(/taken by somebody else/);
  });

  it('above the quota is refused, and takes no room', async () => {
    const small = await startWorkshop({ quota: 2000 });
    try {
      await publishRelease(small.url, KEEPERS_TOKEN, samplePackage());
      const large = samplePackage({ version: '1.1.0' }, { 'a.bin': Array.from({ length: 900 }, () => Math.random().toString(36)).join('') });
      await expect(publishRelease(small.url, KEEPERS_TOKEN, large)).rejects.toThrow(/no room for/);
    } finally {
      await small.close();
    }
  });
});

describe('who sees what', () => {
  it('private, tested by somebody else, then listed', async () => {
    const [cy, di] = [await w.person('cyfenn'), await w.person('disedge')];
    const { shareCode } = await publishRelease(w.url, cy.token, samplePackage({ name: 'weir', title: 'Weir' }));
    // Nobody else learns that it is there: not by code, not by name, not in lists.
    await expect(fetchRelease(w.url, shareCode)).rejects.toThrow(/no release/);
    await expect(ask(di.token, 'GET', '/mods/weir')).rejects.toThrow(/There is no mod weir/);
    expect(await w.page('/mods/weir', di.cookie)).toContain('There is no mod weir');
    await expect(ask(cy.token, 'POST', '/mods/weir/visibility', { visibility: 'listed' })).rejects.toThrow(/Somebody else has tested/);
    // A tester of the organisation sees it, tests it, and then it may be listed.
    await w.post('/organisations/cyfenn/invitations', { account: 'disedge', role: 'tester' }, cy.cookie);
    const link = await invitation(di.cookie);
    // Somebody else’s attempt does not use it up, and finds it nowhere.
    expect((await w.post(link, {}, cy.cookie)).status).toBe(403);
    expect(await w.page('/mailbox', cy.cookie)).not.toContain('/invitation/');
    expect((await w.post(link, {}, di.cookie)).status).toBe(303);
    expect((await w.post(link, {}, di.cookie)).status).toBe(404);
    expect((await fetchRelease(w.url, shareCode, undefined, di.token)).release.title).toBe('Weir');
    await expect(ask(di.token, 'POST', '/mods/weir/visibility', { visibility: 'code' })).rejects.toThrow(/A tester of cyfenn may not/);
    await ask(di.token, 'POST', '/mods/weir/tested', { version: '1.0.0', works: true, note: 'fine' });
    expect(await ask(cy.token, 'POST', '/mods/weir/visibility', { visibility: 'listed' })).toMatchObject({
      visibility: 'listed',
      tests: [{ who: 'disedge', works: true }],
    });
    expect(await w.page('/')).toContain('Weir');
  });

  it('one’s own word is no test, nor one that says that it does not work', async () => {
    const [eve, fay] = [await w.person('evemoor'), await w.person('faymoor')];
    await publishRelease(w.url, eve.token, samplePackage({ name: 'fen' }), { visibility: 'code' });
    await ask(eve.token, 'POST', '/mods/fen/tested', { version: '1.0.0', works: true });
    await expect(ask(fay.token, 'POST', '/mods/fen/tested', { version: '1.0.0', works: false })).rejects.toThrow(/There is no mod/);
    await expect(ask(eve.token, 'POST', '/mods/fen/visibility', { visibility: 'listed' })).rejects.toThrow(/tested/);
  });

  it('withdrawing, rolling back, deleting and bringing back', async () => {
    const gil = await w.person('gilmoor');
    const versions = ['1.0.0', '1.1.0', '1.2.0'];
    const codes: string[] = [];
    for (const version of versions)
      codes.push(
        (await publishRelease(w.url, gil.token, samplePackage({ name: 'lock', version }, { v: version }), { visibility: 'code' })).shareCode,
      );
    expect(await ask(gil.token, 'POST', '/mods/lock/rollback', { version: '1.0.0' })).toMatchObject({ current: '1.0.0' });
    expect(await ask(gil.token, 'POST', '/mods/lock/rollback', { version: '1.2.0' })).toMatchObject({ current: '1.2.0' });
    await expect(ask(gil.token, 'POST', '/mods/lock/withdraw', { version: '1.2.0', reason: ' ' })).rejects.toThrow(/Say why/);
    expect(await ask(gil.token, 'POST', '/mods/lock/withdraw', { version: '1.2.0', reason: 'the sluice sticks' })).toMatchObject({
      current: '1.1.0',
    });
    await expect(fetchRelease(w.url, codes[2])).rejects.toThrow(/withdrawn: the sluice sticks/);
    await expect(ask(gil.token, 'POST', '/mods/lock/rollback', { version: '1.2.0' })).rejects.toThrow(/was withdrawn/);
    await ask(gil.token, 'DELETE', '/mods/lock');
    await expect(fetchRelease(w.url, codes[0])).rejects.toThrow(/no release/);
    await ask(gil.token, 'POST', '/mods/lock/restore');
    expect((await fetchRelease(w.url, codes[0])).release.version).toBe('1.0.0');
    expect(await w.page('/mods/lock', gil.cookie)).toMatch(/gilmoor withdrew 1\.2\.0/);
  });

  it('moving to another organisation takes the right people along', async () => {
    const [hal, ivy] = [await w.person('halmoor'), await w.person('ivymoor')];
    await w.post('/organisations', { name: 'wherry', title: 'Wherry Yard' }, hal.cookie);
    await publishRelease(w.url, hal.token, samplePackage({ name: 'quay' }));
    await expect(ask(ivy.token, 'POST', '/mods/quay/move', { organisation: 'ivymoor' })).rejects.toThrow(/There is no mod/);
    expect(await ask(hal.token, 'POST', '/mods/quay/move', { organisation: 'wherry' })).toMatchObject({ organisation: 'wherry' });
    await expect(ask(hal.token, 'POST', '/mods/quay/move', { organisation: 'ivymoor' })).rejects.toThrow(/You are not in/);
    // The last owner cannot leave.
    const id = /members\/(\d+)/.exec(await w.page('/organisations/wherry', hal.cookie))![1];
    expect((await w.post(`/organisations/wherry/members/${id}`, { role: 'nobody' }, hal.cookie)).status).toBe(409);
  });
});

describe('search', () => {
  it('finds by beginnings of words, without accents, and takes nothing for an operator', async () => {
    const jo = await w.person('jomoor');
    await publishRelease(
      w.url,
      jo.token,
      samplePackage({ name: 'sluice', title: 'Écluse at Dawn', description: 'Water and lamps', about: { tags: ['puzzle'] } }),
      { visibility: 'code' },
    );
    const kit = await w.person('kitmoor');
    await w.post('/organisations/jomoor/invitations', { account: 'kitmoor', role: 'tester' }, jo.cookie);
    await w.post(await invitation(kit.cookie), {}, kit.cookie);
    await ask(kit.token, 'POST', '/mods/sluice/tested', { version: '1.0.0', works: true });
    await ask(jo.token, 'POST', '/mods/sluice/visibility', { visibility: 'listed' });
    const found = async (query: string) =>
      ((await ask(null, 'GET', `/mods?${query}`)) as { cards: { name: string }[] }).cards.map(({ name }) => name);
    expect(await found('q=eclu daw')).toEqual(['sluice']);
    expect(await found('q=lamps&tag=puzzle&profile=brinewick')).toEqual(['sluice']);
    expect(await found('q=lamps&tag=other')).toEqual([]);
    for (const odd of ['"', "' OR 1=1 --", 'NEAR(', 'title:', '*', 'a AND NOT', '%00'])
      expect(Array.isArray(await found(`q=${encodeURIComponent(odd)}`))).toBe(true);
    await expect(ask(null, 'GET', '/mods?sort=worst')).rejects.toThrow(/refused/);
  });
});

describe('those who mean no good', () => {
  it('HTML in every field comes out as text', async () => {
    const lou = await w.person('loumoor');
    const evil = '<script>alert(1)</script>';
    const about = { tags: [evil.slice(0, 30)] };
    await publishRelease(
      w.url,
      lou.token,
      samplePackage({
        name: 'evil',
        title: evil,
        description: evil,
        authors: [evil],
        credits: [{ author: evil, work: evil, licence: evil }],
        licence: evil,
        about,
      }),
      {
        notes: evil,
        visibility: 'code',
      },
    );
    await w.post('/mods/evil/comments', { text: evil }, lou.cookie);
    await w.post('/mods/evil/tests', { version: '1.0.0', works: 'yes', note: evil }, lou.cookie);
    for (const path of [
      '/mods/evil',
      '/mods/evil/manage',
      '/account',
      '/organisations/loumoor',
      `/?q=${encodeURIComponent(evil)}&tag=${encodeURIComponent(evil)}`,
    ]) {
      const page = await w.page(path, lou.cookie);
      expect([path, page.includes(evil), page.includes('&#60;script') || !page.includes('alert(1)') || page.includes('&lt;script')]).toEqual([
        path,
        false,
        true,
      ]);
    }
  });

  it('forms of another site, and forms that do not say where they are from, do nothing', async () => {
    const mo = await w.person('momoor');
    const send = (headers: Record<string, string>) =>
      fetch(`${w.url}/terms`, { method: 'POST', headers: { cookie: mo.cookie, ...headers }, redirect: 'manual' });
    expect((await send({ origin: 'http://evil.example' })).status).toBe(403);
    expect((await send({})).status).toBe(401);
    expect((await send({ origin: w.url })).status).toBe(303);
  });

  it('a session that was set before signing in is worth nothing afterwards, and ends with signing out', async () => {
    await w.person('nelmoor');
    const before = (await w.post('/sign-in', { name: 'nelmoor', password: PASSWORD })).headers.get('set-cookie')!;
    expect(before).toMatch(/HttpOnly; SameSite=Lax/i);
    const old = before.split(';')[0];
    const fresh = (await w.post('/sign-in', { name: 'nelmoor', password: PASSWORD }, old)).headers.get('set-cookie')!.split(';')[0];
    expect(fresh).not.toBe(old);
    expect(await w.page('/account', old)).toContain('Sign in first');
    expect(await w.page('/account', 'quayside=chosen-by-somebody')).toContain('Sign in first');
    await w.post('/sign-out', {}, fresh);
    expect(await w.page('/account', fresh)).toContain('Sign in first');
  });

  it('a program lets its user in with a browser: once, within a minute, and only with a token that may manage', async () => {
    const { path } = (await ask(KEEPERS_TOKEN, 'POST', '/entrance')) as { path: string };
    const enter = (at: string) => fetch(w.url + at, { redirect: 'manual' });
    const cookie = (await enter(path)).headers.get('set-cookie')!.split(';')[0];
    expect(await w.page('/account', cookie)).toContain('keeper');
    expect((await enter(path)).headers.get('set-cookie')).toBeNull();
    const late = (await ask(KEEPERS_TOKEN, 'POST', '/entrance')) as { path: string };
    const clock = jest.spyOn(Date.prototype, 'toISOString').mockReturnValue('2999-01-01T00:00:00.000Z');
    expect((await enter(late.path)).status).toBe(404);
    clock.mockRestore();
    await expect(ask(null, 'POST', '/entrance')).rejects.toThrow(/Sign in first/);
  });

  it('tokens do what they are for and no more, and nothing once they are revoked', async () => {
    const oz = await w.person('ozmoor');
    const page = await (await w.post('/tokens', { name: 'reader', scopes: 'read' }, oz.cookie)).text();
    const token = /qw_[\w-]+/.exec(page)![0];
    expect(await ask(token, 'GET', '/me')).toMatchObject({ name: 'ozmoor', scopes: ['read'] });
    await expect(publishRelease(w.url, token, samplePackage({ name: 'oz_mod' }))).rejects.toThrow(/may not publish/);
    const id = new RegExp(`reader</td>[^]*?/tokens/(\\d+)/revoke`).exec(page)![1];
    const other = await w.person('paxmoor');
    await w.post(`/tokens/${id}/revoke`, {}, other.cookie);
    expect(await ask(token, 'GET', '/me')).toBeTruthy();
    await w.post(`/tokens/${id}/revoke`, {}, oz.cookie);
    await expect(ask(token, 'GET', '/me')).rejects.toThrow(/revoked/);
  });

  it('so is opening accounts', async () => {
    const one = await startWorkshop({ signUpsPerHour: 2 });
    try {
      const answers = [];
      for (const name of ['ann_one', 'ann_two', 'ann_three'])
        answers.push((await one.post('/sign-up', { name, mail: `${name}@mail.example`, password: PASSWORD })).status);
      expect(answers).toEqual([303, 303, 429]);
    } finally {
      await one.close();
    }
  });

  it('guessing at passwords and share codes is slowed down', async () => {
    const one = await startWorkshop();
    try {
      await one.person('quinn');
      const wrong = () => one.post('/sign-in', { name: 'quinn', password: 'not that one' });
      const answers = [];
      for (let i = 0; i < 9; i++) answers.push((await wrong()).status);
      expect(answers).toEqual([401, 401, 401, 401, 401, 401, 401, 401, 429]);
      const guess = async () => (await fetch(`${one.url}/api/releases/AAAA-AAAA`)).status;
      const codes = [];
      for (let i = 0; i < 21; i++) codes.push(await guess());
      expect([codes[0], codes[19], codes[20]]).toEqual([404, 404, 429]);
    } finally {
      await one.close();
    }
  });

  it('an address that has an account is told in its mail alone', async () => {
    const roo = await w.person('roomoor');
    const answer = await w.post('/sign-up', { name: 'another', mail: 'roomoor@mail.example', password: PASSWORD });
    expect([answer.status, answer.headers.get('set-cookie')]).toEqual([303, null]);
    expect(await w.page('/mailbox', roo.cookie)).toContain('You have an account already');
  });

  it('uploads of others, and forms of any size, are out of reach', async () => {
    const [sam, tam] = [await w.person('sammoor'), await w.person('tammoor')];
    const created = await fetch(`${w.url}/api/uploads`, {
      method: 'POST',
      headers: { authorization: `Bearer ${sam.token}`, 'tus-resumable': '1.0.0', 'upload-length': '10' },
    });
    const location = new URL(created.headers.get('location')!, w.url).href;
    const head = (token: string) => fetch(location, { method: 'HEAD', headers: { authorization: `Bearer ${token}`, 'tus-resumable': '1.0.0' } });
    expect([(await head(sam.token)).status, (await head(tam.token)).status]).toEqual([200, 404]);
    expect((await fetch(`${w.url}/api/uploads`, { method: 'POST', headers: { 'tus-resumable': '1.0.0', 'upload-length': '10' } })).status).toBe(401);
    const long = await w.post('/mods/hall/comments', { text: 'x'.repeat(400_000) }, sam.cookie);
    expect(long.status).toBe(413);
    await expect(publishRelease(w.url, sam.token, samplePackage({ name: 'long', description: 'x'.repeat(9000) }))).rejects.toThrow(/description/);
  });
});

describe('talk', () => {
  it('comments, ratings of others, and reports that a moderator settles', async () => {
    const [una, val] = [await w.person('unamoor'), await w.person('valmoor')];
    await publishRelease(w.url, una.token, samplePackage({ name: 'reed', title: 'Reed' }), { visibility: 'code' });
    expect((await w.post('/mods/reed/ratings', { stars: '5' }, una.cookie)).status).toBe(403);
    await w.post('/organisations/unamoor/invitations', { account: 'valmoor', role: 'tester' }, una.cookie);
    await w.post(await invitation(val.cookie), {}, val.cookie);
    await ask(val.token, 'POST', '/mods/reed/tested', { version: '1.0.0', works: true });
    await ask(una.token, 'POST', '/mods/reed/visibility', { visibility: 'listed' });
    const wil = await w.person('wilmoor');
    await w.post('/mods/reed/ratings', { stars: '4' }, wil.cookie);
    await w.post('/mods/reed/ratings', { stars: '9' }, wil.cookie);
    await w.post('/mods/reed/comments', { text: 'Rude words' }, wil.cookie);
    expect((await w.post('/mods/reed/comments', { text: 'At once' }, wil.cookie)).status).toBe(429);
    const page = await w.page('/mods/reed', val.cookie);
    expect(page).toMatch(/4\.0 of 5 stars from 1 player/);
    const comment = /name="comment" value="(\d+)"/.exec(page)![1];
    await w.post('/mods/reed/reports', { reason: 'This comment', comment }, val.cookie);
    expect((await w.post('/moderation/1', { act: 'hide' }, val.cookie)).status).toBe(403);
    // Whoever runs the machine moderates; in a browser with a session of that account.
    const database = new SQLite(join(w.folder, 'w.sqlite'));
    database.prepare('UPDATE accounts SET moderator = 1 WHERE name = ?').run('wilmoor');
    database.close();
    const id = /\/moderation\/(\d+)"/.exec(await w.page('/moderation', wil.cookie))![1];
    expect((await w.post(`/moderation/${id}`, { act: 'hide' }, wil.cookie)).status).toBe(303);
    expect(await w.page('/mods/reed', val.cookie)).not.toContain('Rude words');
  });

  it('statistics count downloads once a package and versions by who asks for updates', async () => {
    const xan = await w.person('xanmoor');
    const { shareCode } = await publishRelease(w.url, xan.token, samplePackage({ name: 'kelp' }), { visibility: 'code' });
    for (let i = 0; i < 3; i++) await fetchRelease(w.url, shareCode);
    await fetch(`${w.url}/api/releases/${shareCode}/package`, { headers: { range: 'bytes=10-' } });
    const seen = { 'x-installation': 'machine-0001', 'x-version': '1.0.0', authorization: `Bearer ${xan.token}` };
    for (let i = 0; i < 2; i++) await fetch(`${w.url}/api/mods/kelp`, { headers: seen });
    const { perDay, used } = (await ask(xan.token, 'GET', '/mods/kelp/statistics')) as { perDay: { count: number }[]; used: object[] };
    expect(perDay.map(({ count }) => count)).toEqual([3]);
    expect(used).toEqual([{ version: '1.0.0', count: 1 }]);
    expect(await w.page('/mods/kelp/manage', xan.cookie)).toContain('<svg');
  });
});

it('what was deleted is gone for good after its time', async () => {
  const one = await startWorkshop({ graceDays: 30 });
  await publishRelease(one.url, KEEPERS_TOKEN, samplePackage());
  await askWorkshop(one.url, KEEPERS_TOKEN, 'DELETE', '/api/mods/hall');
  await one.app.close();
  const later = Date.now() + 31 * 86_400_000;
  const clock = jest.spyOn(Date, 'now').mockReturnValue(later);
  const two = await startWorkshop({ graceDays: 30 }, one.folder);
  clock.mockRestore();
  await expect(askWorkshop(two.url, KEEPERS_TOKEN, 'GET', '/api/mods/hall')).rejects.toThrow(/no mod/);
  await two.close();
});
