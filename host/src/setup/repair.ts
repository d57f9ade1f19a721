/** Carries out the fix of a check, from the archives that came with the game. */

import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { readZip } from '@violet-crate/core/asset/archive/zip';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readInside, writeInside } from '../inside.ts';
import { inInstall } from './places.ts';
import type { GameInstall } from './readFacts.ts';

/** Answers what was done. */
export function repairInstall({ profile, folder }: GameInstall, action: string): string {
  const { install } = profile;
  if (action === 'mods') {
    mkdirSync(inInstall(folder, install.mods), { recursive: true });
    return `Made ${install.mods}.`;
  }
  const tool = install.tools.find((t) => action === `tool:${t.id}`);
  const [archive, target] = action === 'base' ? [install.basePack, install.basePack] : tool ? [tool.id, tool.folder] : [null, null];
  if (!archive || !target) throw new UnreadableInput('fix-unknown', `There is no repair "${action}".`);
  const path = `${install.redist}/${archive}.zip`;
  const file = join(folder, path);
  const zip = readInside(folder, path);
  if (!zip) throw new UnreadableInput('fix-source', `${install.redist}/${archive}.zip is missing; reinstall the game.`);
  const tree = readZip(zip, file);
  writeInside(
    folder,
    [...tree].map(([at, bytes]) => [`${target}/${at}`, bytes] as const),
  );
  return `Restored ${tree.size} files of ${target}.`;
}
