import { describe, expect, it } from '@jest/globals';
import { WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual } from '@gltf-transform/extensions';
import { decode } from 'fast-png';
import { readZip, writeZip } from '../asset/archive/zip.ts';
import { buildMap } from '../stages/pipeline.ts';
import type { FileTree } from '../crate/fileTree.ts';
import { newObject } from '../profile/newObject.ts';
import { sha256Hex } from '../hash.ts';
import { QUICK_LIGHT, testWorld } from '../testing/world.ts';
import { installRelease } from './install.ts';
import { openRelease, packRelease } from './pack.ts';
import { startView } from './startView.ts';
import { renderThumbnail } from './thumbnail.ts';

const world = testWorld();
const model = new TextEncoder().encode('a model');
world.crate.files.push(
  { path: 'models/own.glb', bytes: model.length, sha256: sha256Hex(model) },
  { path: 'models/unused.glb', bytes: 3, sha256: sha256Hex('abc') },
);
world.crate.maps.hall.objects.o9 = { ...newObject(world.profile, 'prop', 'own', [0, 60, 0]), properties: { model: 'models/own.glb', solid: true } };

async function pack(of = world) {
  const { artefacts } = await buildMap(of, 'hall', { quality: 'draft', parameters: { ...QUICK_LIGHT, probeSpacing: 128 } });
  const thumbnail = await renderThumbnail(artefacts!.get('maps/hall/map.glb')!, of.profile.unit.metres, {
    ...startView(of, 'hall'),
    width: 64,
    height: 36,
  });
  return packRelease({ world: of, artefacts: artefacts!, thumbnail, readFile: () => Promise.resolve(model) });
}

describe('packages', () => {
  it('carry what the map needs with its hashes, and nothing else', async () => {
    const { manifest, zip } = await pack();
    expect(manifest.files.map((f) => f.path)).toEqual([
      'CREDITS.md',
      'assets.json',
      'credits.json',
      'maps/hall/collision.bin',
      'maps/hall/lightmap.ktx2',
      'maps/hall/links.json',
      'maps/hall/map.glb',
      'maps/hall/map.json',
      'maps/hall/nav.bin',
      'maps/hall/probes.bin',
      'maps/hall/visibility.bin',
      'materials.json',
      'models/own.glb',
      'scripts/main.lua',
      'thumbnail.png',
    ]);
    const { tree } = openRelease(zip, 'x.zip');
    for (const file of manifest.files) expect(sha256Hex(tree.get(file.path)!)).toBe(file.sha256);
  });

  it('have a thumbnail on which the room can be seen', async () => {
    const { tree } = openRelease((await pack()).zip, 'x.zip');
    const picture = decode(tree.get('thumbnail.png')!);
    expect([picture.width, picture.height]).toEqual([64, 36]);
    expect(new Set(picture.data).size).toBeGreaterThan(20);
  });

  it('take the picture of a map that was built before mean colours were written beside its pictures', async () => {
    const { artefacts } = await buildMap(world, 'hall', { quality: 'draft', parameters: QUICK_LIGHT });
    const glb = artefacts!.get('maps/hall/map.glb')!;
    const io = new WebIO().registerExtensions([KHRLightsPunctual]);
    const document = await io.readBinary(glb);
    for (const material of document.getRoot().listMaterials()) {
      const { colour: _colour, ...extras } = material.getExtras();
      material.setExtras(extras);
    }
    const view = { ...startView(world, 'hall'), width: 32, height: 18 };
    const [before, now] = await Promise.all(
      [await io.writeBinary(document), glb].map((bytes) => renderThumbnail(bytes, world.profile.unit.metres, view)),
    );
    expect(before).toEqual(now);
  });

  it('warn of a missing description, author and licence', async () => {
    expect((await pack()).findings.map((f) => f.code)).toEqual(['release-no-description', 'release-no-author', 'licence-missing', 'picture-small']);
  });

  it('larger than the game takes are blocked, and the largest files are named', async () => {
    const { zip, findings } = await pack();
    expect(findings.map((f) => f.code)).not.toContain('release-too-large');
    const strict = { ...world, profile: { ...world.profile, package: { ...world.profile.package, maxBytes: zip.length - 1 } } };
    expect((await pack(strict)).findings.find((f) => f.code === 'release-too-large')).toMatchObject({
      severity: 'blocker',
      message: expect.stringContaining(`${zip.length} bytes`),
      hint: expect.stringContaining('maps/hall/'),
    });
  });

  it('are refused when a file was changed, added or left out', async () => {
    const { zip } = await pack();
    const change = (edit: (tree: FileTree) => void) => {
      const tree = readZip(zip, 'x.zip');
      edit(tree);
      return () => openRelease(writeZip(tree), 'x.zip');
    };
    expect(change((t) => t.set('scripts/main.lua', new TextEncoder().encode('-- evil')))).toThrow(/scripts\/main.lua does not match its SHA-256/);
    expect(change((t) => t.set('extra.txt', new Uint8Array(1)))).toThrow(/extra.txt is not in the manifest/);
    expect(change((t) => t.delete('models/own.glb'))).toThrow(/models\/own.glb is missing/);
    expect(change((t) => t.delete('release.json'))).toThrow(/not a package/);
  });

  it('are refused with hidden files, or with names that are one on some systems', async () => {
    const { zip } = await pack();
    const withFile = (...names: string[]) => {
      const tree = readZip(zip, 'x.zip');
      const manifest = JSON.parse(new TextDecoder().decode(tree.get('release.json'))) as { files: object[] };
      for (const path of names) {
        tree.set(path, new Uint8Array(1));
        manifest.files.push({ path, bytes: 1, sha256: sha256Hex(new Uint8Array(1)) });
      }
      tree.set('release.json', new TextEncoder().encode(JSON.stringify(manifest)));
      return () => openRelease(writeZip(tree), 'x.zip');
    };
    expect(withFile('scripts/.secret')).toThrow(/scripts\/\.secret is a hidden file/);
    expect(withFile('a/Moss.png', 'a/moss.png')).toThrow(/the same file on some systems/);
    expect(withFile('a', 'a/b')).toThrow(/a file and a folder/);
    expect(withFile('a/fine.txt')).not.toThrow();
  });

  it('install whole, and are read back from disk to be verified', async () => {
    const { manifest, tree } = openRelease((await pack()).zip, 'x.zip');
    const mods = new Map<string, FileTree>();
    const disk = (written: (files: FileTree) => FileTree) => ({
      place(name: string, files: FileTree, check: (files: FileTree) => void) {
        check(written(files));
        mods.set(name, files);
      },
    });
    const lying = disk((files) => new Map([...files].slice(1)));
    expect(() => installRelease(lying, manifest, tree)).toThrow(/Nothing was installed/);
    expect(mods.size).toBe(0);
    expect(
      installRelease(
        disk((files) => files),
        manifest,
        tree,
      ),
    ).toBe(manifest.files.length);
    expect(mods.get(manifest.name)).toBe(tree);
  });
});
