/** The players' side against a real workshop: what lies in the mods folder after each thing that one can do. */

import { randomBytes } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { authorKey } from '@violet-crate/host/authorKey';
import { clashes, enableMod, goBack, installMod, listMods, modOrder, removeMod, setModOrder, updateOf, verifyMod } from '@violet-crate/host/mods';
import { fetchRequired, placeRequired, readRequired, readStockFile, resolveRequired, stockPlace } from '@violet-crate/host/requiredCrates';
import { EMPTY_PACK } from '@violet-crate/core/crate/basePack';
import { askWorkshop, fetchRelease, publishRelease } from '@violet-crate/host/workshopClient';
import { KEEPERS_TOKEN, samplePackage, startWorkshop, type TestWorkshop } from './testing.ts';

let w: TestWorkshop;
let sign: ReturnType<typeof authorKey>['sign'];
beforeAll(async () => {
  w = await startWorkshop();
  sign = authorKey(join(mkdtempSync(join(tmpdir(), 'violet-key-')), 'author.key')).sign;
});
afterAll(() => w.close());

const folder = () => mkdtempSync(join(tmpdir(), 'violet-mods-'));
const BIG = 'x'.repeat(40_000);

async function publish(name: string, version: string, files: Record<string, string>, requires?: Record<string, string>): Promise<string> {
  const zip = samplePackage({ name, title: name, version, ...(requires ? { requires } : {}) }, files, sign);
  return (await publishRelease(w.url, KEEPERS_TOKEN, zip, { visibility: 'code', notes: `notes of ${version}` })).shareCode;
}
const install = (mods: string, shareCode: string) => installMod(mods, 'brinewick', { workshop: w.url, token: KEEPERS_TOKEN, shareCode });
const versions = (mods: string) => Object.fromEntries(listMods(mods).map(({ name, manifest }) => [name, manifest.version]));

/** Stands between and cuts connections: after so many bytes towards the workshop, one after the other. */
async function cutting(target: string, cuts: number[]): Promise<{ url: string; left: number[]; close(): void }> {
  const { hostname, port } = new URL(target);
  const left = [...cuts];
  const proxy = createServer((client) => {
    const upstream = connect(Number(port), hostname);
    let sent = 0;
    const cut = left.shift() ?? Infinity;
    client.on('data', (piece) => {
      sent += piece.length;
      if (sent > cut) {
        client.destroy();
        upstream.destroy();
      } else upstream.write(piece);
    });
    upstream.on('data', (piece) => client.write(piece));
    for (const [one, other] of [
      [client, upstream],
      [upstream, client],
    ])
      one.on('error', () => other.destroy()).on('close', () => other.destroy());
  });
  await new Promise<void>((done) => proxy.listen(0, '127.0.0.1', done));
  return { url: `http://127.0.0.1:${(proxy.address() as AddressInfo).port}`, left, close: () => proxy.close() };
}

describe('an upload', () => {
  it('that is cut at random bytes goes on where it ended, and is the very package', async () => {
    const noise = randomBytes(900_000).toString('base64');
    for (let round = 0; round < 3; round++) {
      const zip = samplePackage({ name: 'cut_often', version: `1.${round}.0` }, { 'noise.txt': noise + round }, sign);
      // The first connections bear small requests; uploads come after.
      const through = await cutting(
        w.url,
        Array.from({ length: 3 }, () => 300 + Math.floor(Math.random() * zip.length)),
      );
      let sent = 0;
      const release = await publishRelease(through.url, KEEPERS_TOKEN, zip, { onProgress: (bytes) => (sent = Math.max(sent, bytes)) });
      through.close();
      expect([release.bytes, sent, through.left]).toEqual([zip.length, zip.length, []]);
      expect(Buffer.from((await fetchRelease(w.url, release.shareCode, undefined, KEEPERS_TOKEN)).zip).equals(zip)).toBe(true);
    }
  }, 60_000);

  it('two of one version at once: one of them is the release, the other is told', async () => {
    const zips = ['one', 'two'].map((text) => samplePackage({ name: 'at_once' }, { 'a.txt': text }, sign));
    const answers = await Promise.allSettled(zips.map((zip) => publishRelease(w.url, KEEPERS_TOKEN, zip)));
    expect(answers.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const refused = answers.find((one): one is PromiseRejectedResult => one.status === 'rejected')!;
    expect(String(refused.reason)).toMatch(/already published as/);
  });
});

describe('mods of a game', () => {
  it('come with what they need, are signed, whole, and known by where they are from', async () => {
    const mods = folder();
    await publish('lamps', '1.0.0', { 'models/lamp.glb': 'lamp' });
    await publish('lamps', '1.2.0', { 'models/lamp.glb': 'better lamp' });
    await publish('lamps', '2.0.0', { 'models/lamp.glb': 'other lamp' });
    const code = await publish('hall', '1.0.0', { 'big.bin': BIG, 'maps/hall/map.json': 'one' }, { lamps: '^1' });
    const installed = await install(mods, code.toLowerCase());
    expect(installed.map(({ name, version }) => `${name} ${version}`)).toEqual(['lamps 1.2.0', 'hall 1.0.0']);
    expect(versions(mods)).toEqual({ hall: '1.0.0', lamps: '1.2.0' });
    const [hall] = listMods(mods);
    expect([hall.from?.shareCode, hall.enabled, hall.before, typeof hall.signer]).toEqual([code, true, null, 'string']);
    expect(verifyMod(mods, 'hall')).toBeNull();
  });

  it('are updated by what changed, gone back to and forth, also where the workshop is away', async () => {
    const mods = folder();
    await publish('weir', '1.0.0', { 'big.bin': BIG, 'a.txt': 'one' });
    await install(mods, await publish('weir', '1.0.0', { 'big.bin': BIG, 'a.txt': 'one' }));
    await publish('weir', '1.1.0', { 'big.bin': BIG, 'a.txt': 'two' });
    const update = await updateOf(listMods(mods)[0], KEEPERS_TOKEN, 'machine-0001');
    expect(update).toMatchObject({ version: '1.1.0', notes: 'notes of 1.1.0' });
    const [{ fetched }] = await install(mods, update!.shareCode);
    expect(fetched).toBe(3);
    expect(readFileSync(join(mods, 'weir/a.txt'), 'utf8')).toBe('two');
    expect(await updateOf(listMods(mods)[0], KEEPERS_TOKEN, 'machine-0001')).toBeNull();
    expect(goBack(mods, 'weir').version).toBe('1.0.0');
    expect(verifyMod(mods, 'weir')).toBeNull();
    expect(listMods(mods)[0].before).toBe('1.1.0');
    expect(goBack(mods, 'weir').version).toBe('1.1.0');
  });

  it('follow a rollback, and are told when what they have was withdrawn', async () => {
    const mods = folder();
    await publish('lock', '1.0.0', { 'a.txt': 'one' });
    await install(mods, await publish('lock', '1.1.0', { 'a.txt': 'two' }));
    await askWorkshop(w.url, KEEPERS_TOKEN, 'POST', '/api/mods/lock/withdraw', { version: '1.1.0', reason: 'it floods' });
    expect(await updateOf(listMods(mods)[0], KEEPERS_TOKEN, 'machine-0001')).toMatchObject({ version: '1.0.0', withdrawn: 'it floods' });
  });

  it('what is damaged is noticed, and mended by installing again', async () => {
    const mods = folder();
    const code = await publish('reed', '1.0.0', { 'big.bin': BIG, 'a.txt': 'one' });
    await install(mods, code);
    writeFileSync(join(mods, 'reed/a.txt'), 'changed');
    expect(verifyMod(mods, 'reed')).toMatch(/a\.txt does not match/);
    writeFileSync(join(mods, 'reed/more.txt'), 'x');
    await install(mods, code);
    expect([verifyMod(mods, 'reed'), readFileSync(join(mods, 'reed/a.txt'), 'utf8'), existsSync(join(mods, 'reed/more.txt'))]).toEqual([
      null,
      'one',
      false,
    ]);
    const release = JSON.parse(readFileSync(join(mods, 'reed/release.json'), 'utf8')) as object;
    writeFileSync(join(mods, 'reed/release.json'), JSON.stringify({ ...release, title: 'forged' }, null, 2));
    expect(verifyMod(mods, 'reed')).toMatch(/signature is not of what it holds/);
  });

  it('disabled ones lie out of the game’s sight; what others need stays', async () => {
    const mods = folder();
    await publish('glass', '1.0.0', {});
    await install(mods, await publish('dome', '1.0.0', {}, { glass: '*' }));
    expect(() => enableMod(mods, 'glass', false)).toThrow(/dome needs glass \*/);
    expect(() => removeMod(mods, 'glass')).toThrow(/dome needs glass/);
    enableMod(mods, 'dome', false);
    expect(readdirSync(mods).filter((name) => !name.startsWith('.'))).toEqual(['glass']);
    expect(listMods(mods).map(({ name, enabled }) => [name, enabled])).toEqual([
      ['dome', false],
      ['glass', true],
    ]);
    enableMod(mods, 'dome', true);
    expect(verifyMod(mods, 'dome')).toBeNull();
    removeMod(mods, 'dome');
    removeMod(mods, 'glass');
    expect(listMods(mods)).toEqual([]);
    expect(() => removeMod(mods, 'glass')).toThrow(/No mod glass is installed/);
    expect(() => removeMod(mods, '../outside')).toThrow(/No mod/);
  });

  it('two that bring the same file with other content clash, in an order that one chooses', async () => {
    const mods = folder();
    await install(mods, await publish('moss_a', '1.0.0', { 'textures/moss.ktx2': 'a', 'same.txt': 's' }));
    await install(mods, await publish('moss_b', '1.0.0', { 'textures/moss.ktx2': 'b', 'same.txt': 's' }));
    expect(clashes(listMods(mods), [])).toEqual([{ path: 'textures/moss.ktx2', mods: ['moss_a', 'moss_b'] }]);
    setModOrder(mods, ['moss_b', 'moss_a']);
    expect(clashes(listMods(mods), modOrder(mods))[0].mods).toEqual(['moss_b', 'moss_a']);
    enableMod(mods, 'moss_a', false);
    expect(clashes(listMods(mods), [])).toEqual([]);
  });

  it('nothing is installed where something that is needed cannot be had, or is of another game', async () => {
    const mods = folder();
    const code = await publish('arch', '1.0.0', {}, { nowhere: '^1' });
    await expect(install(mods, code)).rejects.toThrow(/arch needs nowhere \^1, which the workshop does not have/);
    const other = (await publishRelease(w.url, KEEPERS_TOKEN, samplePackage({ name: 'ridge', profile: 'skarrow' }), { visibility: 'code' }))
      .shareCode;
    await expect(install(mods, other)).rejects.toThrow(/is for skarrow, not for brinewick/);
    await expect(install(mods, 'AAAA-AAAA')).rejects.toThrow(/no release with the share code/);
    expect(listMods(mods)).toEqual([]);
    rmSync(mods, { recursive: true });
    expect(listMods(mods)).toEqual([]);
  });
});

describe('crates that others are made with', () => {
  const brass = { name: 'brass', type: 'lit', colour: '#aa8844', unitsPerRepeat: 64 };
  const lamps = (version: string, model: string, requires?: Record<string, string>) =>
    publish(
      'tide_lamps',
      version,
      { 'models/lamp.glb': model, 'materials.json': JSON.stringify([brass]), 'assets.json': '{"models/lamp.glb":{"source":"","options":{}}}' },
      requires,
    );
  const at = () => ({ workshop: w.url, token: KEEPERS_TOKEN });

  it('the newest that suit everybody are chosen, fetched once, read below mods/NAME, and put beside a crate that is tried', async () => {
    await publish('wicks', '2.3.0', { 'textures/wick.ktx2': 'picture' });
    await lamps('1.0.0', 'one', { wicks: '^2.0.0' });
    await lamps('1.1.0', 'two', { wicks: '^2.0.0' });
    await lamps('2.0.0', 'three');
    const found = await resolveRequired({ name: 'hall', version: '1.0.0', requires: { tide_lamps: '^1.0.0' } }, at());
    expect(Object.entries(found).map(([name, { version }]) => `${name} ${version}`)).toEqual(['wicks 2.3.0', 'tide_lamps 1.1.0']);
    const root = folder();
    const crates = {
      tide_lamps: await fetchRequired(root, 'tide_lamps', found.tide_lamps, at()),
      wicks: await fetchRequired(root, 'wicks', found.wicks, at()),
    };
    // What is here needs no workshop any more.
    expect(await fetchRequired(root, 'tide_lamps', crates.tide_lamps, { workshop: 'http://127.0.0.1:1', token: null })).toEqual(crates.tide_lamps);
    const lock = { format: 1 as const, crates };
    const { base, required } = readRequired(root, lock, EMPTY_PACK);
    expect(base.files.map(({ path }) => path)).toEqual(['mods/tide_lamps/models/lamp.glb', 'mods/wicks/textures/wick.ktx2']);
    expect([base.materials, required.missing]).toEqual([[brass], []]);
    expect(new TextDecoder().decode(readStockFile('/stock', root, lock, 'mods/tide_lamps/models/lamp.glb'))).toBe('two');
    expect(stockPlace('/stock', root, lock, 'models/crate.glb')).toEqual(['/stock', 'models/crate.glb']);
    const mods = folder();
    expect(placeRequired(root, lock, mods)).toEqual(['tide_lamps', 'wicks']);
    expect(placeRequired(root, lock, mods)).toEqual([]);
    expect([verifyMod(mods, 'tide_lamps'), versions(mods)]).toEqual([null, { tide_lamps: '1.1.0', wicks: '2.3.0' }]);
    // One that was cut while it was written is fetched anew.
    rmSync(join(root, 'wicks', crates.wicks.sha256, 'pack.json'));
    expect(readRequired(root, lock, EMPTY_PACK).required.missing).toEqual(['wicks']);
    await fetchRequired(root, 'wicks', crates.wicks, at());
    expect(readRequired(root, lock, EMPTY_PACK).required.missing).toEqual([]);
  });

  it('another package than the locked one, or one of another crate, is refused; ranges that cannot meet say who asks for what', async () => {
    const code = await publish('posts', '1.0.0', { 'models/post.glb': 'post' });
    const root = folder();
    const wanted = { version: '1.0.0', shareCode: code, sha256: 'f'.repeat(64) };
    await expect(fetchRequired(root, 'posts', wanted, at())).rejects.toThrow(/another package for posts 1.0.0 than the one/);
    await expect(fetchRequired(root, 'gates', { version: '1.0.0', shareCode: code }, at())).rejects.toThrow(/holds posts 1.0.0, not gates 1.0.0/);
    expect(existsSync(join(root, 'posts'))).toBe(false);
    await publish('gates', '1.0.0', { 'a.txt': 'a' }, { posts: '^2.0.0' });
    await expect(resolveRequired({ name: 'hall', version: '1.0.0', requires: { posts: '^1.0.0', gates: '*' } }, at())).rejects.toThrow(
      /No version of posts suits everybody: hall needs \^1.0.0, gates needs \^2.0.0/,
    );
  });
});
