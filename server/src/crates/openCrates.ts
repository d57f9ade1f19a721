import { BlobStore } from '@violet-crate/host/blobStore';
import type { Config } from '../config.ts';
import { Consents } from '../consents/consents.ts';
import type { Database } from '../database/database.ts';
import { GamesService } from '../games/games.service.ts';
import { ProfilesService } from '../games/profiles.service.ts';
import { Notices } from '../notices/notices.ts';
import { CratesService } from './crates.service.ts';

/** The crates of a data folder without an application around them: to lay out the demo, and in tests. */
export function openCrates(config: Config, database: Database): CratesService {
  const notices = new Notices();
  const consents = new Consents(database);
  const profiles = new ProfilesService(config, database, consents);
  return new CratesService(
    database,
    new BlobStore(config.blobs),
    new GamesService(config, database, profiles, notices, consents),
    profiles,
    notices,
    config,
  );
}
