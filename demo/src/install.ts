/** The stand-in install of a game, laid out on disk like a game: version, tools, base pack, mods, redist. */

import { writeZip } from '@violet-crate/core/asset/archive/zip';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { importAsset } from '@violet-crate/core/importing/importAsset';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { sha256Hex } from '@violet-crate/core/hash';
import type { Profile } from '@violet-crate/core/profile/schema';
import { STOCK_MODELS } from './models.ts';
import { duskSky } from './skies.ts';
import { SOUNDS } from './sounds.ts';
import { SUBTITLES } from './subtitles.ts';
import { paintTexture, TEXTURES } from './textures.ts';

const GAME_VERSION = '2.4.1';
const TOOL_VERSION = '2.4.0';
const encode = (text: string) => new TextEncoder().encode(text);
const json = (value: unknown) => encode(JSON.stringify(value, null, 2) + '\n');

/** Materials without a texture. */
const PLAIN_MATERIALS: BasePack['materials'] = [
  { name: 'sky', type: 'sky', colour: '#b9c4e8', unitsPerRepeat: 64 },
  { name: 'unseen', type: 'unseen', colour: '#808080', unitsPerRepeat: 64 },
  { name: 'divider', type: 'divider', colour: '#808080', unitsPerRepeat: 64 },
  { name: 'barrier', type: 'barrier', colour: '#808080', unitsPerRepeat: 64 },
  // Stands in for what is not painted yet; the profile says so, and using it is a warning.
  { name: 'unpainted', type: 'lit', colour: '#8f8a80', unitsPerRepeat: 64 },
];

/** How stock materials shine and what they sound like underfoot. */
const FEEL: Record<string, Partial<CrateMaterial>> = {
  brick: { roughness: 0.9, surface: 'stone' },
  plaster: { roughness: 0.95, surface: 'stone' },
  plank: { roughness: 0.7, surface: 'wood' },
  slate: { roughness: 0.6, surface: 'stone' },
  wet_stone: { roughness: 0.35, surface: 'wet' },
  brass: { roughness: 0.3, metalness: 1, surface: 'metal' },
  water: { roughness: 0.05 },
};

/** Kilograms of what players handle: hollow things, lighter than timber of their size. */
const HANDLED: Record<string, Record<string, unknown>> = { crate: { mass: 16, movable: true }, barrel: { mass: 26, movable: true } };

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
  const take = async (file: string, bytes: Uint8Array, options: Record<string, unknown> = {}, companions: FileTree = new Map()) => {
    const asset = await importAsset(profile, { file, bytes, name: file.replace(/\.[^.]+$/, ''), options, companions });
    // A game ships what it loads, not what that was made of.
    for (const [path, content] of asset.files) if (!path.startsWith('sources/')) files.set(path, content);
    const { origin: _origin, ...record } = asset.record!;
    pack.assets[asset.path] = { ...record, source: file };
    return asset;
  };
  for (const [name, painter] of Object.entries(TEXTURES)) {
    const { material } = await take(`${name}.png`, paintTexture(painter));
    pack.materials.push({ name, ...material!.add, type: name === 'water' ? 'water' : 'lit', ...FEEL[name] } as CrateMaterial);
  }
  const { material: dusk } = await take('dusk_sky.hdr', duskSky());
  pack.materials.push({ name: 'dusk_sky', unitsPerRepeat: 64, ...dusk!.add } as CrateMaterial);
  for (const [name, { obj, mtl }] of Object.entries(STOCK_MODELS))
    await take(`${name}.obj`, encode(obj), { unit: 'm', upAxis: 'z', ...HANDLED[name] }, new Map([[`${name}.mtl`, encode(mtl)]]));
  for (const [name, bytes] of Object.entries(SOUNDS)) await take(`${name}.wav`, bytes);
  for (const [name, text] of Object.entries(SUBTITLES)) await take(`${name}.vtt`, encode(text));
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
  const program = gameProgram(profile);
  if (program) tree.set(program.path, program.bytes);
  tree.set(`${install.mods}/about.txt`, encode('Installed mods lie here, one folder each.\n'));
  return tree;
}

/** The game's program: a few lines that lead to the stand-in game of this package. Null where the profile starts none. */
export function gameProgram({ launch }: Profile): { path: string; bytes: Uint8Array } | null {
  const path = launch?.program.replace('{game}/', '');
  if (!path) return null;
  const main = import.meta.resolve('@violet-crate/demo/game/main');
  return { path, bytes: encode(`#!/usr/bin/env node\nimport ${JSON.stringify(main)};\n`) };
}
