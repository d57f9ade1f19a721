/** The stand-in install of a game, laid out on disk like a game: version, tools, base pack, mods, redist. */

import { writeZip } from '@violet-crate/core/asset/archive/zip';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import { mapPath } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { importAsset } from '@violet-crate/core/importing/importAsset';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { newCrateContents, type Template } from '@violet-crate/core/crate/template';
import { serialiseMap } from '@violet-crate/core/document/serialise';
import { sha256Hex } from '@violet-crate/core/hash';
import type { Profile } from '@violet-crate/core/profile/schema';
import { DECALS, paintDecal } from './decals.ts';
import { makeLedger } from './ledger.ts';
import { gameProgram, toolFiles } from './programs.ts';
import { portrait, PORTRAITS } from './portraits.ts';
import { STOCK } from './stock.ts';
import { paintTexture } from './textures.ts';

/** Maps of the games themselves, which crates may begin with a copy of, and the template that each is drawn by. */
const STOCK_MAPS: Record<string, Record<string, Template>> = {
  brinewick: { lock_house: 'two-rooms', bell_stair: 'stair-hall' },
  skarrow: { high_bowl: 'snow-bowl', south_run: 'ridge-race' },
};

const GAME_VERSION = '2.4.1';
const TOOL_VERSION = '2.4.0';
const encode = (text: string) => new TextEncoder().encode(text);
const json = (value: unknown) => encode(JSON.stringify(value, null, 2) + '\n');

export async function basePack(profile: Profile): Promise<{ pack: BasePack; files: FileTree }> {
  const stock = STOCK[profile.id];
  const files: FileTree = new Map();
  const pack: BasePack = {
    format: 1,
    title: `${profile.title} base pack`,
    version: GAME_VERSION,
    materials: [...stock.plain],
    assets: {},
    files: [],
  };
  const take = async (file: string, bytes: Uint8Array, options: Record<string, unknown> = {}, companions: FileTree = new Map()) => {
    const asset = await importAsset(profile, { file, bytes, name: file.replace(/\.[^.]+$/, ''), options, companions });
    // A game ships what it loads, not what that was made of.
    for (const [path, content] of asset.files) if (!path.startsWith('sources/')) files.set(path, content);
    const { origin: _origin, ...record } = asset.record!;
    pack.assets[asset.path] = { ...record, source: file };
    return asset;
  };
  for (const [name, painter] of Object.entries(stock.textures)) {
    const { material } = await take(`${name}.png`, paintTexture(painter));
    pack.materials.push({ name, ...material!.add, type: 'lit', ...stock.feel[name] } as CrateMaterial);
  }
  for (const [name, painter] of Object.entries(DECALS)) {
    const { material } = await take(`${name}.png`, paintDecal(painter));
    pack.materials.push({ name, unitsPerRepeat: stock.unitsPerRepeat, ...material!.add, type: 'decal' } as CrateMaterial);
  }
  for (let n = 0; n < PORTRAITS; n++) await take(`portrait_${n + 1}.png`, paintTexture(portrait(n), 128));
  const { material: sky } = await take(`${stock.sky.name}.hdr`, stock.sky.hdr);
  pack.materials.push({ name: stock.sky.name, unitsPerRepeat: stock.unitsPerRepeat, ...sky!.add } as CrateMaterial);
  for (const [name, { obj, mtl }] of Object.entries(stock.models))
    await take(`${name}.obj`, encode(obj), { unit: 'm', upAxis: 'z', ...stock.handled[name] }, new Map([[`${name}.mtl`, encode(mtl)]]));
  for (const [name, bytes] of Object.entries(stock.sounds)) await take(`${name}.wav`, bytes);
  for (const [name, text] of Object.entries(stock.subtitles)) await take(`${name}.vtt`, encode(text));
  for (const [name, template] of Object.entries(STOCK_MAPS[profile.id] ?? {})) {
    const { maps } = newCrateContents(profile, { name, title: name, template });
    files.set(mapPath(name), encode(serialiseMap(maps[name])));
  }
  pack.materials.sort((a, b) => (a.name < b.name ? -1 : 1));
  pack.files = [...files]
    .map(([path, bytes]) => ({ path, bytes: bytes.length, sha256: sha256Hex(bytes) }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  return { pack, files };
}

/** Every file of the install by path, before anybody started it. `mods/` holds a note only. */
export async function gameInstall(profile: Profile): Promise<FileTree> {
  const { install } = profile;
  const tree: FileTree = new Map();
  tree.set(install.versionFile, json({ game: profile.id, title: profile.title, version: GAME_VERSION }));
  tree.set('profile.json', json(profile));
  for (const { file, layout } of profile.banks ?? []) tree.set(file, makeLedger(layout));
  const { pack, files } = await basePack(profile);
  const base: FileTree = new Map([['pack.json', json(pack)], ...files]);
  for (const [path, bytes] of base) tree.set(`${install.basePack}/${path}`, bytes);
  tree.set(`${install.redist}/${install.basePack}.zip`, writeZip(base));
  for (const tool of install.tools) {
    const own = toolFiles(profile, tool.id, TOOL_VERSION);
    for (const [path, bytes] of own) tree.set(`${tool.folder}/${path}`, bytes);
    tree.set(`${install.redist}/${tool.id}.zip`, writeZip(own));
  }
  const program = gameProgram(profile);
  if (program) tree.set(program.path, program.bytes);
  tree.set(`${install.mods}/about.txt`, encode('Installed mods lie here, one folder each.\n'));
  return tree;
}
