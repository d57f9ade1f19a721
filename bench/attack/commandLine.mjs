/** The command line, called as nobody should. Every time: code 2 (or 1), one sentence, no stack. */
import assert from 'node:assert/strict';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { crate, scratch } from './target.mjs';

const game = join(scratch, 'no-game');

export async function attack(attempt) {
  const folder = mkdtempSync(join(scratch, 'cli-'));
  const at = (...names) => join(folder, ...names);
  const made = await crate(['new', 'plain', '--profile', 'brinewick', '--dir', at('plain')]);
  assert.equal(made.code, 0, made.err);
  const variant = (name, change) => {
    cpSync(at('plain'), at(name), { recursive: true });
    change((...names) => at(name, ...names));
    return at(name);
  };
  const noMaps = variant('no_maps', (own) => rmSync(own('maps'), { recursive: true }));
  const otherMain = variant('other_main', (own) =>
    writeFileSync(own('crate.json'), readFileSync(own('crate.json'), 'utf8').replace('"mainMap": "plain"', '"mainMap": "constructor"')),
  );
  const damaged = variant('damaged_inputs', (own) => {
    mkdirSync(own('build/inputs'), { recursive: true });
    writeFileSync(own('build/inputs/plain.json'), '{"parts":');
    mkdirSync(own('build/maps/plain'), { recursive: true });
    writeFileSync(own('build/maps/plain/collision.bin'), 'no');
    writeFileSync(own('build/maps/plain/constructor'), 'no');
  });
  const deep = variant('deep', (own) => writeFileSync(own('maps/plain.map.json'), '{"a":'.repeat(50_000)));
  const deepManifest = variant('deep_manifest', (own) => writeFileSync(own('crate.json'), `{"a":${'['.repeat(50_000)}${']'.repeat(50_000)}}`));
  const odd = variant('odd_folder', (own) => {
    symlinkSync('.', own('sources_loop'));
    symlinkSync('nowhere', own('dangling'));
    execFileSync('mkfifo', [own('scripts/pipe.lua')]);
  });
  const self = variant('self_prefab', (own) => {
    const map = JSON.parse(readFileSync(own('maps/plain.map.json'), 'utf8'));
    const copy = { prefab: 'p1', name: 'inner', position: [0, 0, 0], turn: 0, values: {} };
    map.prefabs = {
      p1: {
        name: 'post',
        parameters: [],
        solids: {},
        objects: {},
        signals: {},
        copies: Object.fromEntries([...Array(9).keys()].map((i) => [`c${i}`, copy])),
      },
    };
    map.copies = { c1: { ...copy, name: 'outer' } };
    writeFileSync(own('maps/plain.map.json'), JSON.stringify(map));
  });
  writeFileSync(at('a.txt'), 'x');
  writeFileSync(at('v1.gltf'), JSON.stringify({ asset: { version: '1.0' }, buffers: { a: {} } }));
  writeFileSync(at('good.obj'), 'v 0 0 0\nv 64 0 0\nv 0 64 0\nf 1 2 3\n');
  mkdirSync(at('one'));
  mkdirSync(at('two'));
  for (const name of ['one', 'two']) writeFileSync(at(name, 'door.lua'), `function ${name}() end`);

  const cases = [
    [['constructor'], /There is no command "constructor"/],
    [['__proto__'], /There is no command/],
    [['pack', noMaps, '--out', at('x.zip')], /has no maps/],
    [['build', noMaps], /has no maps/],
    [['trial', noMaps], /has no maps/],
    [['export', noMaps, '--to', at('x.glb')], /has no maps/],
    [['trial', otherMain], /no map "constructor"/],
    [['pack', otherMain, '--out', at('x.zip')], /no map "constructor"/],
    [['export', at('plain'), '--to', at('x.glb'), '--map', '__proto__'], /no map __proto__/],
    [['export', at('plain'), '--to', at('x.glb'), '--map', 'constructor'], /no map constructor/],
    [['check', at('a.txt')], /is a file, not a folder/],
    [['check', at('nothing')], /There is no folder/],
    [['build', deep], /nested more than|not valid JSON/],
    [['build', deepManifest], /nested more than/],
    [['build', self], /holds itself|hold itself/],
    [['inspect', damaged], /is damaged/],
    [['build', at('plain'), '--luxel', '-5'], /--luxel/],
    [['build', at('plain'), '--bounces', '-1'], /--bounces/],
    [['build', at('plain'), '--threads', '-1'], /--threads/],
    [['convert', at('good.obj'), '--profile', 'brinewick', '--out', at('a.txt')], /where a folder is needed/],
    [['convert', at('v1.gltf'), '--profile', 'brinewick', '--out', at('out')], /glTF version 1.0/],
    [['convert', at('good.obj'), '--profile', 'constructor', '--out', at('out')], /no profile "constructor"/],
    [['new', 'con', '--profile', 'brinewick', '--dir', at('con')], /no name/],
    [['new', 'aux', '--profile', 'brinewick', '--dir', at('aux')], /no name/],
    [['new', 'nul', '--profile', 'brinewick', '--dir', at('nul')], /no name/],
    [['new', 'fine', '--profile', 'brinewick', '--dir', at('fine'), '--title', ''], /--title must not be empty/],
    [['new', 'fine', '--profile', 'brinewick', '--dir', at('a.txt')], /is a file/],
    [['publish', at('plain'), '--workshop', 'http://127.0.0.1:1', '--token', 't'], /There is no file/],
    [['publish', at('a.txt'), '--workshop', 'http://127.0.0.1:1', '--token', 't'], /not a ZIP/],
  ];
  const queue = [...cases];
  const work = async () => {
    for (let next = queue.shift(); next; next = queue.shift()) await one(...next);
  };
  const one = (args, pattern) =>
    attempt(args.map((arg) => arg.replace(folder, '')).join(' '), async () => {
      const { code, err } = await crate(
        args.includes('--game') || !['check', 'build', 'trial', 'pack'].includes(args[0]) ? args : [...args, '--game', game],
      );
      assert.equal(code, 2, `code ${code}: ${err}`);
      assert.match(err, pattern);
      assert.ok(!/\n\s+at |undefined/.test(err), `a stack: ${err}`);
    });
  await Promise.all([work(), work()]);
  await attempt('check of a folder with a link to itself and a pipe', async () => {
    const { code, err } = await crate(['check', odd, '--game', game, '--json'], { timeout: 20_000 });
    assert.equal(code, 1, err);
  });
  await attempt('check of a prefab that holds itself nine times', async () => {
    const { code, out } = await crate(['check', self, '--game', game, '--json'], { timeout: 20_000 });
    assert.equal(code, 1);
    assert.match(out, /hold itself/);
  });
  await attempt('a bad file among good ones, in every order', async () => {
    for (const files of [
      ['v1.gltf', 'good.obj'],
      ['good.obj', 'v1.gltf', 'a.txt'],
    ]) {
      const { code, out } = await crate(['convert', ...files.map((name) => at(name)), '--profile', 'brinewick', '--out', at('out'), '--json']);
      assert.equal(code, 1);
      assert.equal(JSON.parse(out).converted, 1);
    }
  });
  await attempt('one name from two folders', async () => {
    const target = variant('twins', () => {});
    const { code, out, err } = await crate(['convert', at('one/door.lua'), at('two/door.lua'), '--profile', 'brinewick', '--out', target, '--json']);
    assert.equal(code, 0, err);
    assert.deepEqual(
      JSON.parse(out)
        .files.flatMap((file) => file.output)
        .sort(),
      ['scripts/door.lua', 'scripts/door_2.lua'],
    );
    const again = await crate(['convert', at('one/door.lua'), at('two/door.lua'), '--profile', 'brinewick', '--out', target, '--json']);
    assert.ok(
      JSON.parse(again.out).files.every((file) => file.unchanged),
      again.out,
    );
  });
}
