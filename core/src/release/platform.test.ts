import { beforeAll, describe, expect, it } from '@jest/globals';
import { Document, WebIO } from '@gltf-transform/core';
import { KHRTextureBasisu } from '@gltf-transform/extensions';
import { read } from 'ktx-parse';
import { encodeKtx2 } from '../asset/texture/encodeKtx2.ts';
import { mipmaps } from '../asset/texture/mipmaps.ts';
import { readKtx2 } from '../asset/texture/readKtx2.ts';
import type { FileTree } from '../crate/fileTree.ts';
import { testWorld } from '../testing/world.ts';
import { forPlatform, platformOf } from './platform.ts';

const { profile } = testWorld();
const handheld = { id: 'handheld', title: 'Handheld', maxTexture: 16, lineEnds: 'crlf' as const, maxPath: 40 };
const waves = {
  width: 64,
  height: 32,
  data: Uint8Array.from({ length: 64 * 32 * 4 }, (_, i) => (i % 4 === 3 ? 255 : 128 + 90 * Math.sin(((i >> 2) % 64) / 8) * Math.cos((i >> 8) / 9))),
};
const levels = mipmaps(waves, 'colour', false);
const textures: Record<'uastc' | 'etc1s', Uint8Array> = { uastc: new Uint8Array(), etc1s: new Uint8Array() };
let model: Uint8Array;

beforeAll(async () => {
  for (const form of ['uastc', 'etc1s'] as const) textures[form] = await encodeKtx2(levels, { form, srgb: true, normal: false });
  const document = new Document();
  document.createBuffer();
  document.createExtension(KHRTextureBasisu).setRequired(true);
  document.createMaterial('m').setBaseColorTexture(document.createTexture('t').setMimeType('image/ktx2').setImage(new Uint8Array(textures.uastc)));
  model = await new WebIO().registerExtensions([KHRTextureBasisu]).writeBinary(document);
});

describe('packages for platforms', () => {
  // Outside references: ktx-parse for the container, the Basis transcoder for the pixels.
  it.each(['uastc', 'etc1s'] as const)('leave large levels of %s out, and what stays is the same to the pixel', async (form) => {
    const { tree, differences } = await forPlatform(new Map([['a.ktx2', textures[form]]]), handheld);
    expect(differences).toEqual(['a.ktx2: 16 pixels instead of 64.']);
    expect(read(tree.get('a.ktx2')!)).toMatchObject({ pixelWidth: 16, pixelHeight: 8, levelCount: 5 });
    const alone = await readKtx2(tree.get('a.ktx2')!, 'a.ktx2');
    expect([alone.width, alone.height]).toEqual([16, 8]);
    const apart = await readKtx2(await encodeKtx2(levels.slice(2), { form: 'uastc', srgb: true, normal: false }), 'b.ktx2');
    const error = alone.data.reduce((sum, v, i) => sum + Math.abs(v - apart.data[i]), 0) / alone.data.length;
    expect(error).toBeLessThan(form === 'uastc' ? 0.001 : 8);
  });

  it('make pictures within models smaller too', async () => {
    const { tree, differences } = await forPlatform(new Map([['models/a.glb', model]]), handheld);
    expect(differences).toEqual(['models/a.glb: 1 of its pictures at most 16 pixels large.']);
    const document = await new WebIO().registerExtensions([KHRTextureBasisu]).readBinary(tree.get('models/a.glb')!);
    expect(read(document.getRoot().listTextures()[0].getImage()!).pixelWidth).toBe(16);
    expect(document.getRoot().listMaterials()[0].getBaseColorTexture()).not.toBeNull();
  });

  it('leave light maps, small textures and other files as they are, to the byte', async () => {
    const small = await encodeKtx2(levels.slice(2), { form: 'uastc', srgb: true, normal: false });
    const all: FileTree = new Map([
      ['maps/hall/lightmap.ktx2', textures.uastc],
      ['small.ktx2', small],
      ['credits.json', new TextEncoder().encode('{}\n')],
    ]);
    expect(await forPlatform(all, handheld)).toEqual({ tree: all, differences: [], findings: [] });
    expect((await forPlatform(new Map([['a.ktx2', textures.uastc]]), { id: 'desk', title: 'Desk' })).differences).toEqual([]);
  });

  it('end lines of scripts as the platform does, once', async () => {
    const lua = (text: string): FileTree => new Map([['scripts/main.lua', new TextEncoder().encode(text)]]);
    const { tree, differences } = await forPlatform(lua('a()\r\nb()\n'), handheld);
    expect(new TextDecoder().decode(tree.get('scripts/main.lua')!)).toBe('a()\r\nb()\r\n');
    expect(differences).toHaveLength(1);
    expect((await forPlatform(tree, handheld)).differences).toEqual([]);
    const back = await forPlatform(tree, { ...handheld, lineEnds: 'lf' });
    expect(new TextDecoder().decode(back.tree.get('scripts/main.lua')!)).toBe('a()\nb()\n');
  });

  it('name paths that are too long, and files that are damaged', async () => {
    const long = `textures/${'x'.repeat(40)}.png`;
    const { findings } = await forPlatform(new Map([[long, new Uint8Array(1)]]), handheld);
    expect(findings).toMatchObject([{ code: 'platform-path', severity: 'blocker', place: { file: long } }]);
    await expect(forPlatform(new Map([['a.ktx2', textures.uastc.slice(0, 60)]]), handheld)).rejects.toThrow(/a\.ktx2 cannot be made smaller/);
    await expect(forPlatform(new Map([['a.glb', new Uint8Array(9)]]), handheld)).rejects.toThrow(/a\.glb cannot be made smaller/);
  });

  it('are of platforms that the game has', () => {
    expect(platformOf(profile, 'lantern')).toMatchObject({ maxTexture: 256 });
    expect(() => platformOf(profile, 'toaster')).toThrow(expect.objectContaining({ code: 'platform-unknown', hint: 'It has desk, lantern.' }));
  });
});
