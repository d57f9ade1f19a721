import { describe, expect, it } from '@jest/globals';
import { chance } from '../math/chance.ts';
import { caseClashes, equalPlan, vanishedAtOnce } from './keepEqual.ts';

const map = (record: Record<string, string>) => new Map(Object.entries(record));

describe('keeping a crate and a folder equal', () => {
  it.each<[string, string | undefined, string | undefined, string | undefined, string | null]>([
    ['nothing changed', 'a', 'a', 'a', null],
    ['changed in the folder', 'a', 'a', 'b', 'take'],
    ['changed in the crate', 'a', 'b', 'a', 'give'],
    ['new in the folder', undefined, undefined, 'b', 'take'],
    ['new in the crate', undefined, 'b', undefined, 'give'],
    ['gone from the folder', 'a', 'a', undefined, 'dropFromCrate'],
    ['gone from the crate', 'a', undefined, 'a', 'dropFromFolder'],
    ['changed on both sides to the same', 'a', 'b', 'b', 'remember'],
    ['changed on both sides', 'a', 'b', 'c', 'clash'],
    ['gone here, changed there', 'a', undefined, 'c', 'clash'],
    ['changed here, gone there', 'a', 'c', undefined, 'clash'],
    ['new on both sides, and different', undefined, 'b', 'c', 'clash'],
    ['gone on both sides', 'a', undefined, undefined, 'remember'],
  ])('%s', (_, base, crate, folder, what) => {
    const one = (hash: string | undefined) => map(hash === undefined ? {} : { 'a.txt': hash });
    const plan = equalPlan(one(base), one(crate), one(folder));
    expect(Object.entries(plan).flatMap(([name, paths]: [string, string[]]) => paths.map(() => name))).toEqual(what === null ? [] : [what]);
  });

  it('carried out, it makes both equal and forgets no change of either', () => {
    const random = chance(3);
    const some = () => new Map(['a', 'b', 'c', 'd', 'e'].flatMap((path) => (random() < 0.7 ? [[path, `${Math.floor(random() * 3)}`] as const] : [])));
    for (let i = 0; i < 300; i++) {
      const [base, crate, folder] = [some(), some(), some()];
      const plan = equalPlan(base, crate, folder);
      const [here, there] = [new Map(crate), new Map(folder)];
      for (const path of plan.take) here.set(path, folder.get(path)!);
      for (const path of plan.give) there.set(path, crate.get(path)!);
      for (const path of plan.dropFromCrate) here.delete(path);
      for (const path of plan.dropFromFolder) there.delete(path);
      for (const path of plan.clash) expect([here.get(path), there.get(path)]).toEqual([crate.get(path), folder.get(path)]);
      for (const path of new Set([...here.keys(), ...there.keys()])) if (!plan.clash.includes(path)) expect(here.get(path)).toBe(there.get(path));
      // What one side changed and the other did not is what both have.
      for (const path of ['a', 'b', 'c', 'd', 'e']) {
        if (crate.get(path) === base.get(path)) expect(here.get(path)).toBe(folder.get(path));
        if (folder.get(path) === base.get(path)) expect(there.get(path)).toBe(crate.get(path));
      }
    }
  });

  it('notices an emptied folder, and names that some disks take for one', () => {
    expect([vanishedAtOnce(3, 4), vanishedAtOnce(400, 1000), vanishedAtOnce(600, 1000)]).toEqual([false, false, true]);
    expect(caseClashes(['a/Door.png', 'a/door.png', 'b'])).toEqual([['a/Door.png', 'a/door.png']]);
  });
});
