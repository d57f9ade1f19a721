/** A game's mods folder: each mod is there as it was or as it will be, never in between. */

import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { ModsFolder } from '@violet-crate/core/release/install';
import { writeTree } from './files.ts';
import { readTree } from './folderTree.ts';

/** A mod that is being written, and the one that is being replaced. */
const FRESH = '.new';
const ASIDE = '.old';
/** Where versions lie that were replaced, and mods that are disabled: out of the game's sight. */
export const BEFORE = '.before';
export const OFF = '.off';

/**
 * Opens a mods folder for installing. What an installation that was killed left behind is mended first.
 *
 * @param mods the folder; it is made with the first mod
 */
export function modsFolder(mods: string): ModsFolder {
  mendMods(mods);
  return {
    place(name: string, tree: FileTree, check: (written: FileTree) => void): void {
      const [fresh, aside, target] = [join(mods, `.${name}${FRESH}`), join(mods, `.${name}${ASIDE}`), join(mods, name)];
      try {
        writeTree(fresh, tree);
        check(readTree(fresh, { hidden: true }));
      } catch (error) {
        rmSync(fresh, { recursive: true, force: true });
        throw error;
      }
      if (existsSync(target)) renameSync(target, aside);
      renameSync(fresh, target);
      keepBefore(mods, name, aside);
    },
  };
}

/** The version that was replaced, so that one can go back to it. */
function keepBefore(mods: string, name: string, aside: string): void {
  if (!existsSync(aside)) return;
  const before = join(mods, BEFORE, name);
  mkdirSync(join(mods, BEFORE), { recursive: true });
  rmSync(before, { recursive: true, force: true });
  renameSync(aside, before);
}

/** Brings back a mod that was set aside when its installation was killed, and clears away what was half written. */
export function mendMods(mods: string): void {
  for (const entry of existsSync(mods) ? readdirSync(mods) : []) {
    // Notes that were being written, and what showed whether the folder can be.
    if (/^\.(installed\.json\..*\.part|probe-\d+)$/.test(entry)) rmSync(join(mods, entry), { force: true });
    const [, name, ending] = /^\.([a-z][a-z0-9_]*)(\.new|\.old)$/.exec(entry) ?? [];
    if (!name) continue;
    if (ending === ASIDE && !existsSync(join(mods, name))) renameSync(join(mods, entry), join(mods, name));
    else if (ending === ASIDE) keepBefore(mods, name, join(mods, entry));
    else rmSync(join(mods, entry), { recursive: true, force: true });
  }
}
