/** What changes for a crate when its profile becomes another: told before it is saved, and before a crate is moved to it. */

import type { CrateContents } from '../crate/contents.ts';
import { own } from '../own.ts';
import { expandMap } from '../map/prefab.ts';
import { classOf, type Profile } from '../profile/schema.ts';

/** What is different in general, in a few sentences; empty where nothing is. */
export function profileDifferences(before: Profile, after: Profile): string[] {
  const lines: string[] = [];
  const list = <T extends { id: string }>(what: string, old: readonly T[], now: readonly T[]) => {
    const ids = (all: readonly T[]) => new Set(all.map(({ id }) => id));
    const [was, is] = [ids(old), ids(now)];
    const gone = [...was].filter((id) => !is.has(id));
    const fresh = [...is].filter((id) => !was.has(id));
    const changed = [...is].filter(
      (id) => was.has(id) && JSON.stringify(old.find((one) => one.id === id)) !== JSON.stringify(now.find((one) => one.id === id)),
    );
    for (const [verb, names] of [
      ['gone', gone],
      ['new', fresh],
      ['changed', changed],
    ] as const)
      if (names.length > 0) lines.push(`${what} ${verb}: ${names.slice(0, 6).join(', ')}${names.length > 6 ? ' …' : ''}`);
  };
  list('Classes', before.classes, after.classes);
  list('Material types', before.materialTypes, after.materialTypes);
  list('Programs', before.programs ?? [], after.programs ?? []);
  const plain = [
    'unit',
    'grid',
    'band',
    'player',
    'naming',
    'models',
    'textures',
    'sounds',
    'lighting',
    'scripts',
    'install',
    'package',
    'budgets',
    'launch',
    'required',
  ] as const;
  const other = plain.filter((part) => JSON.stringify(before[part]) !== JSON.stringify(after[part]));
  if (other.length > 0) lines.push(`Changed: ${other.join(', ')}`);
  return lines;
}

/** What of a crate would not be as it should under another profile. */
export function profileTrouble(contents: CrateContents, before: Profile, after: Profile): string[] {
  const lines: string[] = [];
  for (const [name, map] of Object.entries(contents.maps)) {
    const lost = new Map<string, number>();
    const without = new Map<string, number>();
    for (const object of Object.values(expandMap(map, before).objects)) {
      const next = classOf(after, object.class);
      if (!next) lost.set(object.class, (lost.get(object.class) ?? 0) + 1);
      else
        for (const property of Object.keys(object.properties))
          if (!next.properties.some(({ id }) => id === property))
            without.set(`${object.class}.${property}`, (without.get(`${object.class}.${property}`) ?? 0) + 1);
    }
    for (const [id, count] of lost) lines.push(`${name}: ${count} of class ${id}, which is gone`);
    for (const [id, count] of without) lines.push(`${name}: ${count} with ${id}, which is gone`);
  }
  const types = new Set(after.materialTypes.map(({ id }) => id));
  for (const material of contents.manifest.materials)
    if (!types.has(material.type)) lines.push(`material ${material.name} is of type ${material.type}, which is gone`);
  if (own(contents.scripts, before.scripts.main) !== undefined && after.scripts.main !== before.scripts.main)
    lines.push(`the main script is ${after.scripts.main} now`);
  return lines;
}
