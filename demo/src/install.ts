/** The stand-in install of a game, laid out on disk like a game: version, tools, base pack, mods, redist. */

import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { convertModel } from '@violet-crate/core/asset/mesh/convert';
import { convertTexture } from '@violet-crate/core/asset/texture/convert';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { previewPath, type FileTree } from '@violet-crate/core/crate/contents';
import { sha256Hex } from '@violet-crate/core/hash';
import type { Profile } from '@violet-crate/core/profile/schema';
import { STOCK_MODELS } from './models.ts';
import { SOUNDS } from './sounds.ts';
import { paintTexture, TEXTURES } from './textures.ts';

const GAME_VERSION = '2.4.1';
const TOOL_VERSION = '2.4.0';
const encode = (text: string) => new TextEncoder().encode(text);
const json = (value: unknown) => encode(JSON.stringify(value, null, 2) + '\n');

/** Materials without a texture that every profile's types allow. */
const PLAIN_MATERIALS: BasePack['materials'] = [
  { name: 'sky', type: 'sky', colour: '#b9c4e8', unitsPerRepeat: 64 },
  { name: 'unseen', type: 'unseen', colour: '#808080', unitsPerRepeat: 64 },
  { name: 'barrier', type: 'barrier', colour: '#808080', unitsPerRepeat: 64 },
];

export async function basePack(profile: Profile): Promise<{ pack: BasePack; files: FileTree }> {
  const files: FileTree = new Map();
  const pack: BasePack = {
    format: 1,
    title: `${profile.title} base pack`,
    version: GAME_VERSION,
    materials: [...PLAIN_MATERIALS],
    assets: {},
    files: [],
  };
  for (const [name, painter] of Object.entries(TEXTURES)) {
    const converted = await convertTexture(profile, `${name}.png`, paintTexture(painter));
    files.set(`textures/${name}.ktx2`, converted.ktx2);
    files.set(previewPath(`textures/${name}.ktx2`), converted.preview);
    pack.assets[`textures/${name}.ktx2`] = { source: `${name}.png`, options: {}, width: converted.picture.width, height: converted.picture.height };
    pack.materials.push({
      name,
      type: name === 'water' ? 'water' : 'lit',
      texture: `textures/${name}.ktx2`,
      colour: converted.colour,
      unitsPerRepeat: profile.textures.unitsPerRepeat,
    });
  }
  for (const [name, { obj, mtl }] of Object.entries(STOCK_MODELS)) {
    const converted = await convertModel(profile, `${name}.obj`, encode(obj), { unit: 'm', upAxis: 'z' }, new Map([[`${name}.mtl`, encode(mtl)]]));
    files.set(`models/${name}.glb`, converted.glb);
    pack.assets[`models/${name}.glb`] = { source: `${name}.obj`, options: {}, bounds: converted.bounds, triangles: converted.triangles };
  }
  for (const [name, bytes] of Object.entries(SOUNDS)) files.set(`sounds/${name}.wav`, bytes);
  pack.materials.sort((a, b) => (a.name < b.name ? -1 : 1));
  pack.files = [...files]
    .map(([path, bytes]) => ({ path, bytes: bytes.length, sha256: sha256Hex(bytes) }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  return { pack, files };
}

/** Every file of the install by path. `mods/` holds a note only. */
export async function gameInstall(profile: Profile): Promise<FileTree> {
  const { install } = profile;
  const tree: FileTree = new Map();
  tree.set(install.versionFile, json({ game: profile.id, title: profile.title, version: GAME_VERSION }));
  tree.set('profile.json', json(profile));
  const { pack, files } = await basePack(profile);
  const base: FileTree = new Map([['pack.json', json(pack)], ...files]);
  for (const [path, bytes] of base) tree.set(`${install.basePack}/${path}`, bytes);
  tree.set(`${install.redist}/${install.basePack}.zip`, writeZip(base));
  for (const tool of install.tools) {
    const own: FileTree = new Map([['tool.json', json({ tool: tool.id, title: tool.title, version: TOOL_VERSION })]]);
    tree.set(`${tool.folder}/tool.json`, own.get('tool.json')!);
    tree.set(`${install.redist}/${tool.id}.zip`, writeZip(own));
  }
  tree.set(`${install.mods}/about.txt`, encode('Installed mods lie here, one folder each.\n'));
  return tree;
}
