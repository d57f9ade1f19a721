/** The stand-in depot: the games themselves, their tools in several versions, optional packs and one that a community made. */

import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createHash } from 'node:crypto';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import type { BasePack } from '@violet-crate/core/crate/basePack';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import { sha256Hex } from '@violet-crate/core/hash';
import { importAsset } from '@violet-crate/core/importing/importAsset';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { depotFile, type DepotIndex, type DepotItem, type DepotKind, type DepotVersion } from '@violet-crate/core/setup/depot';
import { isExecutable, toolFiles } from './programs.ts';
import { blend, fractal, shade, type Rgb } from './noise.ts';
import { paintTexture } from './textures.ts';

const BLOCK = 1 << 18;
const encode = (text: string) => new TextEncoder().encode(text);
const json = (value: unknown) => encode(`${JSON.stringify(value, null, 2)}\n`);
const hash = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

interface Offered {
  version: string;
  notes: string;
  tree: FileTree;
  game?: string;
}

type Painter = (u: number, v: number) => Rgb;

const ropes: Painter = (u, v) => {
  const strand = Math.sin((u * 16 + v * 8) * Math.PI * 2) * 0.5 + 0.5;
  return shade(blend([128, 104, 70], [186, 160, 112], strand), 0.8 + fractal(u, v, 32, 5, 3) * 0.3);
};
const verdigris: Painter = (u, v) => {
  const patina = fractal(u, v, 6, 11, 4);
  return shade(blend([146, 112, 58], [84, 150, 128], patina > 0.48 ? 1 : 0.15), 0.8 + fractal(u, v, 40, 12, 2) * 0.3);
};
const tiles: Painter = (u, v) => {
  const [x, y] = [(u * 8) % 1, (v * 8) % 1];
  const joint = Math.min(x, y, 1 - x, 1 - y) < 0.05;
  const tint = fractal(Math.floor(u * 8) / 8, Math.floor(v * 8) / 8, 8, 40, 1);
  return joint ? [94, 90, 84] : shade(blend([178, 186, 172], [122, 146, 150], tint), 0.9 + fractal(u, v, 48, 41, 2) * 0.15);
};
const lichen: Painter = (u, v) =>
  shade(blend([96, 98, 100], [158, 160, 92], fractal(u, v, 10, 61, 4) > 0.55 ? 1 : 0), 0.75 + fractal(u, v, 30, 62, 3) * 0.4);
const firn: Painter = (u, v) => shade([214, 224, 236], 0.9 + fractal(u, v, 24, 71, 4) * 0.14);

/** Textures of optional packs by profile: those of the first version, and those that the second adds. */
const PACKS: Record<string, { id: string; title: string; brings: string; first: Record<string, Painter>; second: Record<string, Painter> }> = {
  brinewick: {
    id: 'chandlery',
    title: 'Chandlery',
    brings: 'Rope, green brass and tiles for ships’ stores: three materials with textures.',
    first: { rope: ropes, green_brass: verdigris },
    second: { galley_tiles: tiles },
  },
  skarrow: {
    id: 'high_pass',
    title: 'High Pass',
    brings: 'Old snow and rock with lichen, for ground above the trees.',
    first: { firn },
    second: { lichen_rock: lichen },
  },
};

/** An optional pack as it lies below the base pack. */
async function stockPack(profile: Profile, title: string, version: string, textures: Record<string, Painter>): Promise<FileTree> {
  const files: FileTree = new Map();
  const pack: BasePack = { format: 1, title, version, materials: [], assets: {}, files: [] };
  for (const [name, painter] of Object.entries(textures)) {
    const asset = await importAsset(profile, { file: `${name}.png`, bytes: paintTexture(painter), name, options: {}, companions: new Map() });
    for (const [path, content] of asset.files) if (!path.startsWith('sources/')) files.set(path, content);
    const { origin: _origin, ...record } = asset.record!;
    pack.assets[asset.path] = { ...record, source: `${name}.png` };
    pack.materials.push({ name, ...asset.material!.add, type: 'lit' } as CrateMaterial);
  }
  pack.files = [...files]
    .map(([path, bytes]) => ({ path, bytes: bytes.length, sha256: sha256Hex(bytes) }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  return new Map([['pack.json', json(pack)], ...files]);
}

/** Files that go with a community's pack, and what to do with them. */
const COMMUNITY: Record<string, { id: string; title: string; brings: string; tree: FileTree }> = {
  brinewick: {
    id: 'night_bell',
    title: 'Night bell',
    brings: 'A bell that tells the hour: a script, a texture for its frame, and where to hang it.',
    tree: new Map<string, Uint8Array>([
      ['files/bell_frame.png', paintTexture(verdigris)],
      [
        'instructions.json',
        json({
          format: 1,
          title: 'Night bell',
          author: 'The Lamplighters’ Table',
          licence: 'CC-BY-4.0',
          steps: [
            { do: 'put', title: 'The frame’s texture', file: 'files/bell_frame.png', path: 'sources/bell_frame.png' },
            {
              do: 'snippet',
              title: 'The bell’s function',
              script: 'scripts/main.lua',
              function: 'ring_bell',
              text: 'function ring_bell()\n  say("The bell tolls.")\nend\n',
            },
            { do: 'set', title: 'A darker sky, so that the bell is heard at night', setting: 'skyIntensity', value: 0.4 },
            {
              do: 'hand',
              title: 'Choose a lamp and let its signal run ring_bell',
              text: 'Select the lamp, open Signals, and choose the function ring_bell.',
            },
          ],
        }),
      ],
    ]),
  },
};

/**
 * Every file of a depot's folder by path, `index.json` among them.
 *
 * @param games the install of each game, with nothing of it started yet
 * @param crates the example crates
 */
export async function depotTree(
  games: { profile: Profile; install: FileTree }[],
  crates: { profile: string; name: string; title: string; tree: FileTree }[],
): Promise<FileTree> {
  const files: FileTree = new Map();
  const index: DepotIndex = { format: 1, title: 'Quayside Depot', items: [] };
  const offer = (kind: DepotKind, about: Omit<DepotItem, 'kind' | 'versions'>, versions: Offered[]) => {
    index.items.push({
      kind,
      ...about,
      versions: versions.map(({ version, notes, tree, game }) => {
        const zip = writeZip(tree, isExecutable);
        files.set(depotFile(about.id, version), zip);
        return { ...measured(zip, tree), version, notes, ...(game ? { game } : {}) };
      }),
    });
  };
  for (const { profile, install } of games) {
    const studio = { author: `The makers of ${profile.title}`, licence: 'Stock files: use in mods of the game only', profile: profile.id };
    offer('game', { id: profile.id, title: profile.title, brings: `The stand-in game itself: ${profile.description}`, ...studio }, [
      { version: '2.4.1', notes: 'The release that the examples are made for.', tree: install },
    ]);
    for (const tool of profile.install.tools)
      offer('tool', { id: tool.id, title: tool.title, brings: `A tool of ${profile.title}.`, ...studio }, [
        { version: '2.4.0', notes: 'First release for 2.4.', tree: toolFiles(profile, tool.id, '2.4.0'), game: '2.4.x' },
        { version: '2.4.2', notes: 'Tells of files that are too large.', tree: toolFiles(profile, tool.id, '2.4.2'), game: '2.4.x' },
        { version: '2.5.0', notes: 'For release 2.5 of the game.', tree: toolFiles(profile, tool.id, '2.5.0'), game: '>=2.5.0' },
      ]);
    const pack = PACKS[profile.id];
    if (pack)
      offer('pack', { id: pack.id, title: pack.title, brings: pack.brings, ...studio }, [
        { version: '1.0.0', notes: 'First release.', tree: await stockPack(profile, pack.title, '1.0.0', pack.first) },
        {
          version: '1.1.0',
          notes: `Adds ${Object.keys(pack.second).join(', ')}.`,
          tree: await stockPack(profile, pack.title, '1.1.0', { ...pack.first, ...pack.second }),
        },
      ]);
    const made = COMMUNITY[profile.id];
    if (made)
      offer(
        'community',
        { id: made.id, title: made.title, brings: made.brings, author: 'The Lamplighters’ Table', licence: 'CC-BY-4.0', profile: profile.id },
        [{ version: '1.0.0', notes: 'First release.', tree: made.tree }],
      );
  }
  for (const { profile, name, title, tree } of crates)
    offer('crate', { id: name, title, brings: 'The example crate, to take apart.', author: 'Violet Crate', licence: 'CC0-1.0', profile }, [
      { version: '1.0.0', notes: 'First release.', tree },
    ]);
  const [profile, text] = guideProfile();
  offer(
    'profile',
    { id: profile.id, title: profile.title, brings: profile.description, author: 'Violet Crate', licence: 'CC0-1.0', profile: profile.id },
    [{ version: profile.version ?? '0.1.0', notes: 'As the guide describes it.', tree: new Map([['profile.json', text]]) }],
  );
  files.set('index.json', json(index));
  return files;
}

/** The third game's profile, out of the guide that walks through it: `docs/profiles.md`. */
function guideProfile(): [Profile, Uint8Array] {
  const guide = readFileSync(join(import.meta.dirname, '..', '..', 'docs', 'profiles.md'), 'utf8');
  const from = guide.indexOf('```json\n', guide.indexOf('`oxbow.json`:')) + '```json\n'.length;
  const text = guide.slice(from, guide.indexOf('```', from));
  return [loadProfile(text, 'oxbow.json'), new TextEncoder().encode(text)];
}

function measured(zip: Uint8Array, tree: FileTree): Pick<DepotVersion, 'bytes' | 'unpacked' | 'sha256' | 'blockBytes' | 'blocks'> {
  const blocks: string[] = [];
  for (let at = 0; at < zip.length; at += BLOCK) blocks.push(hash(zip.subarray(at, at + BLOCK)));
  return {
    bytes: zip.length,
    unpacked: [...tree.values()].reduce((sum, file) => sum + file.length, 0),
    sha256: hash(zip),
    blockBytes: BLOCK,
    blocks,
  };
}
