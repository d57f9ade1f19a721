import { chmodSync, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { loadProfile } from '@violet-crate/core/profile/load';
import { pumphouseCrate } from '@violet-crate/demo/crate';
import { gameInstall, gameProgram } from '@violet-crate/demo/install';
import { writeWhole } from '@violet-crate/host/files';
import { BlobStore } from './blobs/blobStore.ts';
import type { Config } from './config.ts';
import { CratesService } from './crates/crates.service.ts';
import { openDatabase } from './database/database.ts';
import { settings } from './database/schema.ts';
import { GamesService } from './games/games.service.ts';
import { Notices } from './notices/notices.ts';

/** Lays out the demo game and puts the demo crate in, once per data folder. What users change stays. */
export async function prepareDemo(config: Config): Promise<void> {
  const profileFile = fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json'));
  const profile = loadProfile(readFileSync(profileFile, 'utf8'), 'brinewick.json');
  const folder = join(config.games, profile.id);
  if (!existsSync(folder)) {
    console.log('Preparing the demo game …');
    for (const [path, bytes] of await gameInstall(profile)) writeWhole(join(folder, path), bytes);
  }
  // It leads to where the application lies, which may have been moved; and a game that was laid out before had none.
  const program = gameProgram(profile);
  if (program) {
    writeWhole(join(folder, program.path), program.bytes);
    chmodSync(join(folder, program.path), 0o755);
  }
  const database = openDatabase(config.database);
  try {
    const done = database
      .select()
      .from(settings)
      .all()
      .some((row) => row.key === 'demo');
    if (done) return;
    console.log('Preparing the demo crate …');
    const crates = new CratesService(database, new BlobStore(config.blobs), new GamesService(config), new Notices());
    if (!crates.names().includes('pumphouse')) crates.importTree(await pumphouseCrate(profile));
    database.insert(settings).values({ key: 'demo', value: 'prepared' }).run();
  } finally {
    database.$client.close();
  }
}
