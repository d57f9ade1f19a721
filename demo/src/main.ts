/** `node demo/dist/main.js DIR`: lays the demo game and the demo crate out in DIR. */

import { chmodSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { loadProfile } from '@violet-crate/core/profile/load';
import { pumphouseCrate } from './crate.ts';
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

const profileFile = fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json'));
const profile = loadProfile(readFileSync(profileFile, 'utf8'), 'brinewick.json');
write(join(target, 'games', 'brinewick'), await gameInstall(profile));
const program = gameProgram(profile);
if (program) chmodSync(join(target, 'games', 'brinewick', program.path), 0o755);
write(join(target, 'crates', 'pumphouse'), await pumphouseCrate(profile));
