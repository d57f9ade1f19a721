/** What of a stand-in install leads to programs of this package: light to load, since every start of the server sees to it. */

import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { Profile } from '@violet-crate/core/profile/schema';

const encode = (text: string) => new TextEncoder().encode(text);
const json = (value: unknown) => encode(JSON.stringify(value, null, 2) + '\n');

/** What a first start leaves behind, with mods allowed: the value of every step of the preparation that is a setting. */
export function startedSettings({ preparation = [] }: Profile): FileTree {
  const tree: FileTree = new Map();
  for (const { done } of preparation) {
    if (done.when !== 'setting') continue;
    const path = done.file.replace('{game}/', '');
    tree.set(path, path.endsWith('.json') ? json({ [done.key]: true }) : encode(`volume = 8\n${done.key} = ${done.value}\n`));
  }
  return tree;
}

/** The programs of a tool: a map's stamp, or a table of contents of textures. Both import Node.js only, so that they run wherever they lie. */
const PROGRAMS: Record<string, string> = { mapkit: 'stamp', ridgekit: 'stamp', texpress: 'contents' };

/** A tool as it lies in its folder. */
export function toolFiles(profile: Profile, id: string, version: string): FileTree {
  const { title } = profile.install.tools.find((tool) => tool.id === id)!;
  const tree: FileTree = new Map([['tool.json', json({ tool: id, title, version })]]);
  const program = PROGRAMS[id];
  if (program) tree.set(`${program}.mjs`, new Uint8Array(readFileSync(fileURLToPath(import.meta.resolve(`@violet-crate/demo/tools/${program}`)))));
  return tree;
}

/** The game's program: a few lines that lead to the stand-in game of this package. Null where the profile starts none. */
export function gameProgram({ launch }: Profile): { path: string; bytes: Uint8Array } | null {
  const path = launch?.program.replace('{game}/', '');
  if (!path) return null;
  const main = import.meta.resolve('@violet-crate/demo/game/main');
  return { path, bytes: encode(`#!/usr/bin/env node\nimport ${JSON.stringify(main)};\n`) };
}

/** The title of a crate in its folder. */
export const crateTitle = (tree: FileTree): string => (JSON.parse(new TextDecoder().decode(tree.get('crate.json'))) as { title: string }).title;

export const isExecutable = (path: string): boolean => path.startsWith('bin/');
