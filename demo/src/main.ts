/** `node demo/dist/main.js DIR`: lays the demo games and their crates out in DIR. */

import { chmodSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { DEMO_GAMES } from './games.ts';
import { depotTree } from './depot.ts';
import { gameInstall } from './install.ts';
import { crateTitle, gameProgram, startedSettings } from './programs.ts';

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

const games: { profile: Profile; install: FileTree }[] = [];
const crates: { profile: string; name: string; title: string; tree: FileTree }[] = [];
for (const { profile: id, crate, makeCrate } of DEMO_GAMES) {
  const profileFile = fileURLToPath(import.meta.resolve(`@violet-crate/core/profiles/${id}.json`));
  const profile = loadProfile(readFileSync(profileFile, 'utf8'), `${id}.json`);
  const install = await gameInstall(profile);
  games.push({ profile, install });
  write(join(target, 'games', id), new Map([...install, ...startedSettings(profile)]));
  const program = gameProgram(profile);
  if (program) chmodSync(join(target, 'games', id, program.path), 0o755);
  const tree = await makeCrate(profile);
  crates.push({ profile: id, name: crate, title: crateTitle(tree), tree });
  write(join(target, 'crates', crate), tree);
}
write(join(target, 'depot'), await depotTree(games, crates));
