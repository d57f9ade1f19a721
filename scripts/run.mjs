/** Runs a command with its output shown; ends the process when it fails. */
import { spawnSync } from 'node:child_process';

export const root = new URL('..', import.meta.url).pathname;

export function run(command, args, options = {}) {
  const result = spawnSync(command, args, {
    cwd: root,
    stdio: options.quiet ? ['ignore', 2, 2] : 'inherit',
    env: { ...process.env, ...options.env },
  });
  if (result.error) throw result.error;
  if (result.status !== 0 && !options.tolerant) process.exit(result.status ?? 1);
  return result.status;
}
