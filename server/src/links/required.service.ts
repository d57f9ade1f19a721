import { Inject, Injectable } from '@nestjs/common';
import { diffCrates } from '@violet-crate/core/crate/crateEdit';
import { LOCK_FILE, requiredPath, writeLock, type CrateLock, type LockedCrate } from '@violet-crate/core/crate/lock';
import { own } from '@violet-crate/core/own';
import { changedByRequired, type RequiredProposal } from '@violet-crate/core/link/required';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { BlobStore } from '@violet-crate/host/blobStore';
import { fetchRequired, readRequired, resolveRequired, stockPlace } from '@violet-crate/host/requiredCrates';
import { inInstall } from '@violet-crate/host/setup/places';
import { CONFIG, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { GamesService } from '../games/games.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import { SettingsService } from '../settings/settings.service.ts';
import { CrateEditsService } from './crateEdits.service.ts';

/** The crates that one is made with. */
@Injectable()
export class RequiredService {
  constructor(
    @Inject(CONFIG) private readonly config: Config,
    @Inject(CratesService) private readonly crates: CratesService,
    @Inject(GamesService) private readonly games: GamesService,
    @Inject(SettingsService) private readonly settings: SettingsService,
    @Inject(CrateEditsService) private readonly edits: CrateEditsService,
    @Inject(BlobStore) private readonly blobs: BlobStore,
  ) {}

  /** Asks the workshop for the newest versions that suit everybody, fetches what is not here, and says what they would change. */
  async look(crateId: string): Promise<RequiredProposal> {
    const world = this.crates.world(crateId);
    const { lock } = this.crates.lock(crateId);
    const found = await resolveRequired(world.crate.manifest, this.workshop());
    const crates: Record<string, LockedCrate> = {};
    for (const [name, { version, shareCode }] of Object.entries(found)) {
      const known = own(lock.crates, name);
      crates[name] = await fetchRequired(this.config.required, name, known?.version === version ? known : { version, shareCode }, this.workshop());
    }
    const names = [...new Set([...Object.keys(lock.crates), ...Object.keys(crates)])].sort();
    const changes = names.flatMap((name) => {
      const [from, to] = [own(lock.crates, name)?.version ?? null, own(crates, name)?.version ?? null];
      return from === to ? [] : [{ name, from, to }];
    });
    const next = readRequired(this.config.required, { format: 1, crates }, this.games.basePack(this.crates.game(crateId)));
    return { crates, changes, means: changedByRequired(world, new LinkGraph(world), next.base) };
  }

  /** Makes the crate with these versions from now on, as one change that can be undone. */
  take(crateId: string, crates: Record<string, LockedCrate>) {
    const lock: CrateLock = { format: 1, crates };
    const { missing } = readRequired(this.config.required, lock, this.games.basePack(this.crates.game(crateId))).required;
    if (missing.length > 0)
      throw new Problem(409, 'required-missing', `${missing.join(', ')}: this version is not on this machine. Look for versions again.`);
    const before = this.crates.contents(crateId);
    const bytes = new TextEncoder().encode(writeLock(lock));
    const file = { path: LOCK_FILE, bytes: bytes.length, sha256: this.blobs.put(bytes) };
    const rest = before.files.filter(({ path }) => path !== LOCK_FILE);
    const files = Object.keys(crates).length > 0 ? [...rest, file] : rest;
    const edit = diffCrates(before, { ...before, files }, 'Take other versions of required crates');
    return { edit: edit && this.edits.apply(crateId, edit) };
  }

  /** Fetches what the lock names and this machine lacks, exactly that. */
  async fetch(crateId: string): Promise<string[]> {
    const { required } = this.crates.world(crateId);
    for (const name of required!.missing) await fetchRequired(this.config.required, name, required!.lock.crates[name], this.workshop());
    return required!.missing;
  }

  /** Where a file of a required crate lies. */
  file(crateId: string, name: string, path: string): string {
    const { lock } = this.crates.lock(crateId);
    const { base } = readRequired(this.config.required, lock, this.games.basePack(this.crates.game(crateId)));
    const wanted = requiredPath(name, path);
    // Only what its list names: a path that leads elsewhere is none of it.
    if (!base.files.some((file) => file.path === wanted)) throw notFound(`file ${path} in ${name}`);
    return inInstall(...stockPlace('', this.config.required, lock, wanted));
  }

  private workshop() {
    return this.settings.workshop();
  }
}
