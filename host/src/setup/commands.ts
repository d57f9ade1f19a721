/** The commands of a profile as they would run on this machine: with an install of its game, found programs and their content. */

import { accessSync, constants, statSync } from 'node:fs';
import { delimiter, isAbsolute, join } from 'node:path';
import { canonicalJson, sha256Hex } from '@violet-crate/core/hash';
import { commandsOf } from '@violet-crate/core/setup/programs';
import { hashFileNow } from './hashFiles.ts';
import type { GameInstall } from './readFacts.ts';

/** A file that a command runs or hands to what it runs, with its content: null where it is not there. */
export interface CommandFile {
  path: string;
  sha256: string | null;
}

export interface ResolvedCommand {
  what: string;
  /** Program and arguments; the program by its whole path where it was found. What is known only when it runs is a placeholder. */
  line: string[];
  folder: string;
  environment: Record<string, string>;
  files: CommandFile[];
}

export interface ResolvedCommands {
  commands: ResolvedCommand[];
  /** Of all that was found: whatever is another one, in the profile or on the disk, makes another hash. */
  hash: string;
}

/** A program as the system would find it by its name; the name itself where it would find none. */
function found(program: string): string {
  if (isAbsolute(program) || program.includes('/')) return program;
  const endings = process.platform === 'win32' ? ['.exe', '.com', ''] : [''];
  for (const folder of (process.env.PATH ?? '').split(delimiter))
    for (const ending of endings) {
      const file = join(folder, program + ending);
      try {
        accessSync(file, constants.X_OK);
        if (statSync(file).isFile()) return file;
      } catch {
        // Not in this one.
      }
    }
  return program;
}

export function resolveCommands({ profile, folder }: GameInstall): ResolvedCommands {
  const filled = (text: string) => text.replaceAll('{game}', folder);
  const commands = commandsOf(profile).map(({ what, line: [program, ...rest], folder: runsIn, environment }) => {
    const line = [found(filled(program)), ...rest.map(filled)];
    const files = line
      .filter((word) => isAbsolute(word) && statSync(word, { throwIfNoEntry: false })?.isFile() !== false)
      .map((path) => ({ path, sha256: hashFileNow(path) }));
    return {
      what,
      line,
      folder: filled(runsIn),
      environment: Object.fromEntries(Object.entries(environment).map(([name, value]) => [name, filled(value)])),
      files,
    };
  });
  const limits = (profile.programs ?? []).map(({ id, seconds, memory, outputs, log }) => ({ id, seconds, memory, outputs, log }));
  return { commands, hash: sha256Hex(canonicalJson({ profile: profile.id, folder, commands, limits })) };
}
