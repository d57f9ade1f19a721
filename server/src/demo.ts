import { chmodSync, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { loadProfile } from '@violet-crate/core/profile/load';
import type { Profile } from '@violet-crate/core/profile/schema';
import { DEMO_GAMES } from '@violet-crate/demo/games';
import type { depotTree as DepotTree } from '@violet-crate/demo/depot';
import { crateTitle, gameProgram, startedSettings, toolFiles } from '@violet-crate/demo/programs';
import { writeWhole } from '@violet-crate/host/files';
import type { Config } from './config.ts';
import { openCrates } from './crates/openCrates.ts';
import { openDatabase } from './database/database.ts';
import { settings } from './database/schema.ts';

/**
 * Lays out the demo games, puts their crates in and fills the depot, once per data folder. What users change stays.
 * Without the demo (`config.demo`) only the depot is filled: a machine on which no game is yet.
 */
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
    const remember = (key: string) => database.insert(settings).values({ key, value: 'prepared' }).run();
    const crates = openCrates(config, database);
    const stocked = existsSync(join(config.depot, 'index.json'));
    const [games, examples]: Parameters<typeof DepotTree> = [[], []];
    for (const { profile: id, crate, makeCrate } of DEMO_GAMES) {
      const profile = readProfile(id);
      const folder = join(config.games, id);
      if ((config.demo && !existsSync(folder)) || !stocked) {
        console.log(`Preparing the game ${profile.title} …`);
        const { gameInstall } = await import('@violet-crate/demo/install');
        games.push({ profile, install: await gameInstall(profile) });
      }
      if (config.demo) layOut(profile, folder, games.at(-1)?.install);
      // Under the key of the first demo crate before there were several.
      const key = id === DEMO_GAMES[0].profile ? 'demo' : `demo/${id}`;
      const wanted = config.demo && !done.has(key);
      if (wanted || !stocked) {
        console.log(`Preparing the demo crate of ${profile.title} …`);
        const tree = await makeCrate(profile);
        examples.push({ profile: id, name: crate, title: crateTitle(tree), tree: new Map(tree) });
        if (wanted && !crates.names().includes(crate)) crates.importTree(tree);
      }
      if (wanted) remember(key);
    }
    // Its index comes last: a depot that was being filled when somebody pulled the plug is filled anew.
    if (stocked) return;
    const { depotTree } = await import('@violet-crate/demo/depot');
    for (const [path, bytes] of await depotTree(games, examples)) writeWhole(join(config.depot, path), bytes);
  } finally {
    database.$client.close();
  }
}

const readProfile = (id: string): Profile =>
  loadProfile(readFileSync(fileURLToPath(import.meta.resolve(`@violet-crate/core/profiles/${id}.json`)), 'utf8'), `${id}.json`);

/** Puts a game into its folder where it is not there yet, and sees that its programs are those of this application. */
function layOut(profile: Profile, folder: string, install: FileTree | undefined): void {
  if (!existsSync(folder) && install)
    for (const [path, bytes] of new Map([...install, ...startedSettings(profile)])) writeWhole(join(folder, path), bytes);
  // It leads to where the application lies, which may have been moved; and a game that was laid out before had none.
  const program = gameProgram(profile);
  if (!program) return;
  writeWhole(join(folder, program.path), program.bytes);
  chmodSync(join(folder, program.path), 0o755);
  for (const tool of profile.install.tools)
    for (const [path, bytes] of toolFiles(profile, tool.id, '2.4.0'))
      if (path.endsWith('.mjs') && existsSync(join(folder, tool.folder))) writeWhole(join(folder, tool.folder, path), bytes);
}
