/** Looks at a game's install on disk and says what is right and what is not. */

import { accessSync, constants, existsSync, mkdirSync, readFileSync, rmSync, statfsSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readZip } from '@violet-crate/core/asset/archive/zip';
import { BasePackSchema, EMPTY_PACK, type BasePack } from '@violet-crate/core/crate/basePack';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { sha256Hex } from '@violet-crate/core/hash';
import type { Profile } from '@violet-crate/core/profile/schema';
import { writeTree } from '@violet-crate/host/files';

export interface SetupCheck {
  id: string;
  title: string;
  ok: boolean;
  detail: string;
  /** What to do when it is not ok. */
  hint?: string;
  /** An action that `repairInstall` knows. */
  fix?: { action: string; label: string };
}

export interface GameInstall {
  profile: Profile;
  folder: string;
}

const readJson = (file: string): Record<string, unknown> | null => {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as Record<string, unknown>;
  } catch {
    return null;
  }
};

export const gameVersion = ({ profile, folder }: GameInstall): string | null => {
  const version = readJson(join(folder, profile.install.versionFile))?.version;
  return typeof version === 'string' ? version : null;
};

export function readBasePack({ profile, folder }: GameInstall): BasePack {
  const file = join(folder, profile.install.basePack, 'pack.json');
  if (!existsSync(file)) return EMPTY_PACK;
  try {
    return readDocument(readFileSync(file, 'utf8'), BasePackSchema, 'pack.json');
  } catch (error) {
    if (error instanceof UnreadableInput) return EMPTY_PACK;
    throw error;
  }
}

const release = (version: string): string => version.split('.').slice(0, 2).join('.');

export function checkInstall(game: GameInstall): SetupCheck[] {
  const { profile, folder } = game;
  const { install } = profile;
  const version = gameVersion(game);
  const checks: SetupCheck[] = [
    version
      ? { id: 'game', title: 'Game found', ok: true, detail: `${profile.title} ${version} in ${folder}` }
      : {
          id: 'game',
          title: 'Game found',
          ok: false,
          detail: `${install.versionFile} is missing or unreadable in ${folder}.`,
          hint: 'Put the game there, or set VIOLET_CRATE_GAMES to the folder that holds it, and look again.',
        },
  ];
  for (const tool of install.tools) {
    const own = readJson(join(folder, tool.folder, 'tool.json'));
    const found = typeof own?.version === 'string' ? own.version : null;
    const fix = existsSync(join(folder, install.redist, `${tool.id}.zip`))
      ? { action: `tool:${tool.id}`, label: `Install ${tool.title}` }
      : undefined;
    checks.push(
      found
        ? { id: `tool-${tool.id}`, title: `${tool.title} in the same install`, ok: true, detail: `Version ${found} in ${tool.folder}` }
        : {
            id: `tool-${tool.id}`,
            title: `${tool.title} in the same install`,
            ok: false,
            detail: `${tool.folder}/tool.json is missing.`,
            hint: 'Install it into the game’s own folder; tools elsewhere are not used.',
            fix,
          },
    );
    if (found && version) {
      const same = release(found) === release(version);
      checks.push({
        id: `version-${tool.id}`,
        title: `${tool.title} matches the game`,
        ok: same,
        detail: same ? `Both are ${release(version)}` : `The tool is ${found}, the game ${version}.`,
        hint: same ? undefined : `Maps made with ${release(found)} may not load; bring both to the same version.`,
        fix: same ? undefined : fix,
      });
    }
  }
  checks.push(checkBasePack(game), checkMods(game), checkSpace(game));
  return checks;
}

function checkBasePack(game: GameInstall): SetupCheck {
  const { profile, folder } = game;
  const base = join(folder, profile.install.basePack);
  const title = 'Base pack complete';
  const canFix = existsSync(join(folder, profile.install.redist, `${profile.install.basePack}.zip`));
  const fix = canFix ? { action: 'base', label: 'Restore the base pack' } : undefined;
  const pack = readBasePack(game);
  if (pack.files.length === 0)
    return {
      id: 'base',
      title,
      ok: false,
      detail: `${profile.install.basePack}/pack.json is missing or unreadable.`,
      hint: 'Without the base pack there are no stock materials or models.',
      fix,
    };
  const wrong = pack.files.filter((file) => {
    const path = join(base, file.path);
    return !existsSync(path) || statSync(path).size !== file.bytes || sha256Hex(readFileSync(path)) !== file.sha256;
  });
  if (wrong.length > 0)
    return {
      id: 'base',
      title,
      ok: false,
      detail: `${wrong.length} of ${pack.files.length} files are missing or changed: ${wrong
        .slice(0, 3)
        .map((f) => f.path)
        .join(', ')}${wrong.length > 3 ? ' …' : ''}`,
      hint: 'Stock files were overwritten or lost; maps would look different for others.',
      fix,
    };
  return { id: 'base', title, ok: true, detail: `${pack.files.length} files, all hashes right` };
}

function checkMods({ profile, folder }: GameInstall): SetupCheck {
  const mods = join(folder, profile.install.mods);
  const title = 'Mods folder writable';
  if (!existsSync(mods))
    return {
      id: 'mods',
      title,
      ok: false,
      detail: `${mods} does not exist.`,
      hint: 'Installed mods go there.',
      fix: { action: 'mods', label: 'Make the folder' },
    };
  try {
    // Root may write anywhere, so ask the disk itself and not only the permission bits.
    accessSync(mods, constants.W_OK);
    const probe = join(mods, `.probe-${process.pid}`);
    writeFileSync(probe, '');
    rmSync(probe);
    return { id: 'mods', title, ok: true, detail: mods };
  } catch {
    return { id: 'mods', title, ok: false, detail: `${mods} cannot be written.`, hint: 'Change its owner or permissions to yours.' };
  }
}

function checkSpace({ profile, folder }: GameInstall): SetupCheck {
  const stats = statfsSync(existsSync(folder) ? folder : '.');
  const free = stats.bavail * stats.bsize;
  const ok = free >= profile.install.minFreeBytes;
  const megabytes = (n: number) => `${Math.floor(n / 1048576).toLocaleString('en')} MiB`;
  return {
    id: 'space',
    title: 'Free disk space',
    ok,
    detail: `${megabytes(free)} free, ${megabytes(profile.install.minFreeBytes)} wanted`,
    hint: ok ? undefined : 'Builds and packages need room; delete what you no longer need.',
  };
}

/** Carries out the fix of a check. Answers what was done. */
export function repairInstall({ profile, folder }: GameInstall, action: string): string {
  const { install } = profile;
  if (action === 'mods') {
    mkdirSync(join(folder, install.mods), { recursive: true });
    return `Made ${install.mods}.`;
  }
  const tool = install.tools.find((t) => action === `tool:${t.id}`);
  const [archive, target] = action === 'base' ? [install.basePack, install.basePack] : tool ? [tool.id, tool.folder] : [null, null];
  if (!archive || !target) throw new UnreadableInput('fix-unknown', `There is no repair "${action}".`);
  const file = join(folder, install.redist, `${archive}.zip`);
  if (!existsSync(file)) throw new UnreadableInput('fix-source', `${install.redist}/${archive}.zip is missing; reinstall the game.`);
  const tree = readZip(readFileSync(file), file);
  writeTree(join(folder, target), tree);
  return `Restored ${tree.size} files of ${target}.`;
}
