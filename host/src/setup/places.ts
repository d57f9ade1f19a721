/** Paths of a profile with their placeholders filled in. */

import { homedir } from 'node:os';
import { join, normalize } from 'node:path';
import { linked, linkOn } from '../inside.ts';

export interface Places {
  /** Folder in which the application keeps games. */
  games: string;
  home: string;
  env: NodeJS.ProcessEnv;
}

export const placesOf = (games: string, env: NodeJS.ProcessEnv = process.env): Places => ({ games, home: homedir(), env });

/** A path of a profile on this machine, or null where it needs a variable that is not set. `values` are further placeholders. */
export function placed(path: string, places: Places, values: Readonly<Record<string, string>> = {}): string | null {
  let missing = false;
  const filled = path.replace(/\{(home|games|env:[A-Za-z_][A-Za-z0-9_]*|[a-z]+)\}/g, (whole, name: string) => {
    if (name === 'home') return places.home;
    if (name === 'games') return places.games;
    if (name.startsWith('env:')) {
      const value = places.env[name.slice(4)];
      if (!value) missing = true;
      return value ?? '';
    }
    return Object.hasOwn(values, name) ? values[name] : whole;
  });
  return missing ? null : normalize(filled);
}

/** A path within a folder, which a profile's path may not leave. Null where it would. */
export function within(folder: string, path: string): string | null {
  const whole = normalize(join(folder, path));
  return whole === normalize(folder) || whole.startsWith(normalize(folder).replace(/[/\\]?$/, '/')) ? whole : null;
}

/**
 * A place of an install, as its profile names it.
 *
 * @param folder of the install
 * @throws UnreadableInput where a link is on the way, which may lead out of the install
 */
export function inInstall(folder: string, path: string): string {
  if (linkOn(folder, path)) throw linked(folder, path);
  return join(folder, path);
}
