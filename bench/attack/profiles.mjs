/** Profiles of somebody else, against the real server: their paths, programs, settings, patterns and layouts. */
import assert from 'node:assert/strict';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { dataFolder, scratch, Server } from './target.mjs';

export async function attack(attempt) {
  const data = await dataFolder();
  const home = mkdtempSync(join(scratch, 'home-'));
  const server = await Server.start(data, { env: { HOME: home, XDG_CONFIG_HOME: join(home, '.config') } });
  const profile = async (id, change) => {
    const own = { ...(await server.json('/api/profiles/brinewick')), id, title: id };
    change(own);
    return server.request('/api/profiles', { method: 'POST', body: { text: JSON.stringify(own) } });
  };
  const refused = {
    'a base pack above the install': (p) => (p.install.basePack = '../../../../etc'),
    'mods at the root': (p) => (p.install.mods = '/etc'),
    'a drive': (p) => (p.install.redist = 'C:\\Windows'),
    'a bank above': (p) => (p.banks[0].file = '../../author.key'),
    'a marker above': (p) => (p.install.find.markers = ['../../../etc/passwd']),
    'a setting in a start-up script': (p) => (p.preparation[1].done = { when: 'setting', file: '{home}/.bashrc', key: 'x', value: 'y' }),
    'a setting by a variable': (p) => (p.preparation[1].done = { when: 'setting', file: '{env:HOME}/.profile', key: 'x', value: 'y' }),
    'a setting above the game': (p) => (p.preparation[1].done = { when: 'setting', file: '{game}/../x.ini', key: 'x', value: 'y' }),
    'a setting in a program': (p) => (p.preparation[1].done = { when: 'setting', file: '{game}/bin/x.sh', key: 'x', value: 'y' }),
    'settings that start with the desktop': (p) => (p.install.settings = [{ path: '{home}/.config/autostart/a' }]),
    NODE_OPTIONS: (p) => (p.programs[0].environment = { NODE_OPTIONS: '--require /tmp/x.js' }),
    LD_PRELOAD: (p) => (p.programs[0].environment = { LD_PRELOAD: '/tmp/x.so' }),
    'a key of no form among variables': (p) => (p.programs[0].environment = { 'LD_PRELOAD ': '/tmp/x.so' }),
    'a pattern with a reference to itself': (p) => (p.naming.crate.pattern = '^(a)\\1$'),
  };
  for (const [name, change] of Object.entries(refused))
    await attempt(`${name} is refused`, async () => assert.equal((await profile('crooked', change)).status, 422));

  await attempt('a pattern that would take years', async () => {
    assert.equal((await profile('patterned', (p) => (p.naming.crate.pattern = '^(a+)+$'))).status, 201);
    const begun = Date.now();
    const name = `${'a'.repeat(39)}b`;
    const { status } = await server.request('/api/crates', { method: 'POST', body: { profile: 'patterned', name, title: 'x', template: 'blank' } });
    assert.equal(status, 422);
    assert.ok(Date.now() - begun < 5000);
    assert.ok(server.alive);
  });
  await attempt('programs run only as they were read', async () => {
    assert.equal((await profile('runner', (p) => (p.programs[0].environment = { RUNNER_MODE: 'a' }))).status, 201);
    const programs = await server.json('/api/games/runner/programs');
    assert.equal(programs.allowed, false);
    assert.ok(programs.commands.some(({ environment }) => environment.RUNNER_MODE === 'a'));
    assert.equal((await server.request('/api/games/runner/programs', { method: 'POST', body: { hash: 'a'.repeat(64) } })).status, 409);
  });
  await attempt('settings are written only once what is written was read', async () => {
    const made = await profile('writer', (p) => {
      p.install.settings = [{ path: '{env:XDG_CONFIG_HOME}/writer' }];
      p.preparation[1].done = { when: 'setting', file: '{settings}/a.ini', key: 'mods', value: 'yes' };
    });
    assert.equal(made.status, 201);
    const file = join(home, '.config/writer/a.ini');
    assert.equal((await server.request('/api/games/writer/preparation/allow_mods', { method: 'POST', body: {} })).status, 403);
    assert.equal(existsSync(file), false);
    const { writes, hash } = await server.json('/api/games/writer/places');
    assert.deepEqual(writes, [{ file, content: 'mods = yes' }]);
    await server.json('/api/games/writer/places', { method: 'POST', body: { hash } });
    await server.json('/api/games/writer/preparation/allow_mods', { method: 'POST', body: {} });
    assert.equal(readFileSync(file, 'utf8'), 'mods = yes\n');
  });
  await attempt('a layout of a bank that makes thousands of millions of values of a few bytes', async () => {
    const game = mkdtempSync(join(scratch, 'game-'));
    const parts = Array.from({ length: 64 }, (_, i) => ({ name: `b${i}`, from: i, count: 1 }));
    const made = await profile('greedy', (p) => {
      const layout = p.banks[0].layout;
      layout.records = {
        bit: {
          fields: Array.from({ length: 480 }, (_, i) => ({
            name: `f${i}`,
            is: 'bits',
            bytes: 8,
            parts: parts.map((one) => ({ ...one, name: `${one.name}_${i}` })),
          })),
        },
        row: { fields: [{ name: 'many', is: 'list', record: 'bit', count: 512 }] },
      };
      layout.sections = [{ name: 'all', record: 'row', at: 0, count: 4 }];
      delete layout.checksums;
      layout.free = { fill: 0, regions: [] };
      p.banks = [{ file: 'big.bnk', layout }];
      p.find = undefined;
    });
    if (made.status === 422) return;
    writeFileSync(join(game, 'version.json'), JSON.stringify({ game: 'greedy', version: '2.4.1' }));
    writeFileSync(join(game, 'big.bnk'), Buffer.alloc(32 << 20));
    mkdirSync(join(game, 'base'));
    const { id: install } = await server.json('/api/games/greedy/installs', { method: 'POST', body: { folder: game } });
    const { id } = await server.json('/api/crates', { method: 'POST', body: { profile: 'greedy', name: 'greedy', title: 'x', template: 'blank' } });
    await server.json(`/api/crates/${id}/game`, { method: 'PUT', body: { install } });
    const [{ id: bank }] = await server.json(`/api/crates/${id}/banks`);
    const before = await server.memory();
    const answer = await server.request(`/api/crates/${id}/banks/${bank}?anyway=1`);
    assert.equal(answer.status, 422);
    assert.ok((await server.memory()) - before < 400);
    assert.ok(server.alive);
  });
  await server.stop();
}
