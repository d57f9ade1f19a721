/** `node demo/dist/main.js DIR`: lays the demo games and their crates out in DIR. */

import { chmodSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { loadProfile } from '@violet-crate/core/profile/load';
import { DEMO_GAMES } from './games.ts';
import { gameInstall, gameProgram } from './install.ts';

const target = process.argv[2];
if (!target) {
  console.error('Usage: node demo/dist/main.js DIR');
  process.exit(2);
}

function write(folder: string, tree: FileTree): void {
  for (const [path, bytes] of tree) {
    const file = join(folder, path);
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, bytes);
  }
}

for (const { profile: id, crate, makeCrate } of DEMO_GAMES) {
  const profileFile = fileURLToPath(import.meta.resolve(`@violet-crate/core/profiles/${id}.json`));
  const profile = loadProfile(readFileSync(profileFile, 'utf8'), `${id}.json`);
  write(join(target, 'games', id), await gameInstall(profile));
  const program = gameProgram(profile);
  if (program) chmodSync(join(target, 'games', id, program.path), 0o755);
  write(join(target, 'crates', crate), await makeCrate(profile));
}
