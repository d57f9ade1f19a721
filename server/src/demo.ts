import { chmodSync, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { DEMO_GAMES } from '@violet-crate/demo/games';
import { gameInstall, gameProgram } from '@violet-crate/demo/install';
import { writeWhole } from '@violet-crate/host/files';
import { BlobStore } from './blobs/blobStore.ts';
import type { Config } from './config.ts';
import { CratesService } from './crates/crates.service.ts';
import { openDatabase } from './database/database.ts';
import { settings } from './database/schema.ts';
import { GamesService } from './games/games.service.ts';
import { Notices } from './notices/notices.ts';

/** Lays out the demo games and puts their crates in, once per data folder. What users change stays. */
export async function prepareDemo(config: Config): Promise<void> {
  const database = openDatabase(config.database);
  try {
    const done = new Set(
      database
        .select()
        .from(settings)
        .all()
        .map((row) => row.key),
    );
    const crates = new CratesService(database, new BlobStore(config.blobs), new GamesService(config), new Notices());
    for (const { profile: id, crate, makeCrate } of DEMO_GAMES) {
      const profile = readProfile(id);
      await prepareGame(config, profile);
      // Under the key of the first demo crate before there were several.
      const key = id === DEMO_GAMES[0].profile ? 'demo' : `demo/${id}`;
      if (done.has(key)) continue;
      console.log(`Preparing the demo crate of ${profile.title} …`);
      if (!crates.names().includes(crate)) crates.importTree(await makeCrate(profile));
      database.insert(settings).values({ key, value: 'prepared' }).run();
    }
  } finally {
    database.$client.close();
  }
}

const readProfile = (id: string): Profile =>
  loadProfile(readFileSync(fileURLToPath(import.meta.resolve(`@violet-crate/core/profiles/${id}.json`)), 'utf8'), `${id}.json`);

async function prepareGame(config: Config, profile: Profile): Promise<void> {
  const folder = join(config.games, profile.id);
  if (!existsSync(folder)) {
    console.log(`Preparing the game ${profile.title} …`);
    for (const [path, bytes] of await gameInstall(profile)) writeWhole(join(folder, path), bytes);
  }
  // It leads to where the application lies, which may have been moved; and a game that was laid out before had none.
  const program = gameProgram(profile);
  if (!program) return;
  writeWhole(join(folder, program.path), program.bytes);
  chmodSync(join(folder, program.path), 0o755);
}
