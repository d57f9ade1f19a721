/** Other crates that one is made with: whether what is locked does, and what another version of one would change here. */

import semver from 'semver';
import type { BasePack } from '../crate/basePack.ts';
import { LOCK_FILE, splitRequired, type LockedCrate } from '../crate/lock.ts';
import { findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import { own } from '../own.ts';
import type { LinkGraph } from './graph.ts';
import { splitId } from './thing.ts';

/** Ranges that are none, a crate that needs itself, and, where the lock is known, what it lacks. */
export function checkRequired({ crate: { manifest }, required }: CrateWorld): Finding[] {
  const wrong = (code: string, message: string, hint: string, file = LOCK_FILE, severity: Finding['severity'] = 'blocker'): Finding => ({
    code,
    severity,
    stage: 'links',
    message,
    hint,
    place: { file },
  });
  const findings: Finding[] = [];
  if (required?.damage !== undefined) findings.push(wrong('lock-damaged', required.damage, 'Look for versions anew under Links, Other crates.'));
  for (const [name, range] of Object.entries(manifest.requires ?? {})) {
    if (name === manifest.name)
      findings.push(wrong('link-circle', `The crate needs itself, ${name}.`, 'Take it out of what it needs.', 'crate.json'));
    else if (semver.validRange(range) === null)
      findings.push(
        wrong('link-range', `${name} "${range}": that is no range of versions.`, 'Ranges look like ^1.2.0 or >=1.0.0 <2.0.0.', 'crate.json'),
      );
    else if (required && required.damage === undefined) {
      const locked = own(required.lock.crates, name);
      const look = 'Look for versions under Links, Other crates, or with "crate require DIR".';
      if (!locked)
        findings.push(wrong('required-open', `${name} ${range} is required, and no version of it is chosen yet.`, look, 'crate.json', 'warning'));
      else if (!semver.satisfies(locked.version, range))
        findings.push(wrong('required-range', `${name} ${range} is required; ${locked.version} is what the crate is made with.`, look));
    }
  }
  for (const name of required?.missing ?? [])
    findings.push(
      wrong(
        'required-missing',
        `${name} ${required!.lock.crates[name].version} is not on this machine.`,
        'Fetch it under Links, Other crates, or with "crate require DIR --fetch".',
      ),
    );
  return findings;
}

/**
 * What the crate would see changed if its required crates were others: a sentence for each thing that its maps use and that goes or becomes
 * another one. What they do not use says nothing.
 *
 * @param next stock of the game with the other versions
 */
export function changedByRequired(world: CrateWorld, graph: LinkGraph, next: BasePack): string[] {
  const after: CrateWorld = { ...world, base: next };
  return [...graph.reach(graph.roots)].sort().flatMap((id): string[] => {
    const [kind, name] = splitId(id);
    const by = () => {
      const users = [...new Set(graph.neededBy(id).flatMap((tie) => [...tie.uses.values()].map((use) => graph.whoIs(use))))];
      return `used by ${users.slice(0, 3).join(', ')}${users.length > 3 ? ` and ${users.length - 3} more` : ''}`;
    };
    if (kind === 'material') {
      const [was, is] = [findMaterial(world, name), findMaterial(after, name)];
      if (was?.origin !== 'game' || JSON.stringify(was.material) === JSON.stringify(is?.material)) return [];
      return [is ? `Material ${name} is another one, ${by()}.` : `Material ${name} is gone, ${by()}.`];
    }
    if (!splitRequired(name)) return [];
    const [was, is] = [findFile(world, name), findFile(after, name)];
    if (!was || was.sha256 === is?.sha256) return [];
    return [is ? `${name} is another one (${was.bytes} bytes, then ${is.bytes}), ${by()}.` : `${name} is gone, ${by()}.`];
  });
}

/** Other versions of required crates, fetched and looked at, none of them taken yet. */
export interface RequiredProposal {
  crates: Record<string, LockedCrate>;
  /** What would be another version, with null where none was or will be. */
  changes: { name: string; from: string | null; to: string | null }[];
  /** What that changes here, a sentence each. */
  means: string[];
}
