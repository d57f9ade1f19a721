import { describe, expect, it } from '@jest/globals';
import semver from 'semver';
import { needersOf, planInstall, type Offered } from './dependencies.ts';

const mod = (name: string, version: string, requires?: Record<string, string>): Offered => ({
  name,
  version,
  shareCode: `${name}-${version}`,
  ...(requires ? { requires } : {}),
});
const shop =
  (...offered: Offered[]) =>
  (name: string) =>
    Promise.resolve(offered.filter((one) => one.name === name));
const names = (list: Offered[]) => list.map(({ name, version }) => `${name} ${version}`);

describe('versions', () => {
  // Outside reference: semver.org, Semantic Versioning 2.0.0, item 11.
  it('are ordered as semver.org orders its examples', () => {
    const ordered = [
      '1.0.0-alpha',
      '1.0.0-alpha.1',
      '1.0.0-alpha.beta',
      '1.0.0-beta',
      '1.0.0-beta.2',
      '1.0.0-beta.11',
      '1.0.0-rc.1',
      '1.0.0',
      '2.0.0',
      '2.1.0',
      '2.1.1',
    ];
    expect([...ordered].reverse().sort(semver.compare)).toEqual(ordered);
  });
});

describe('what is installed for a mod', () => {
  it('is all that it needs, what is needed first, in the newest versions that suit', async () => {
    const shopped = shop(
      mod('lamps', '1.0.0'),
      mod('lamps', '1.4.0', { glass: '^2' }),
      mod('lamps', '2.0.0'),
      mod('glass', '2.3.1'),
      mod('glass', '3.0.0'),
    );
    const plan = await planInstall(mod('hall', '1.0.0', { lamps: '^1.0.0' }), [], shopped);
    expect([names(plan.install), plan.problems]).toEqual([['glass 2.3.1', 'lamps 1.4.0', 'hall 1.0.0'], []]);
  });

  it('is no more than is missing; what is too old is brought up, what was withdrawn is not taken', async () => {
    const gone = { ...mod('lamps', '1.9.0'), withdrawnAt: 'yesterday' };
    const shopped = shop(mod('lamps', '1.4.0'), gone);
    const hall = mod('hall', '1.0.0', { lamps: '>=1.2.0 <2.0.0' });
    expect(names((await planInstall(hall, [mod('lamps', '1.3.0')], shopped)).install)).toEqual(['hall 1.0.0']);
    expect(names((await planInstall(hall, [mod('lamps', '1.0.0')], shopped)).install)).toEqual(['lamps 1.4.0', 'hall 1.0.0']);
  });

  it('two that want different versions of a third are told so, with who wants what', async () => {
    const there = [mod('weir', '1.0.0', { lamps: '^1' }), mod('lamps', '1.4.0')];
    const plan = await planInstall(mod('hall', '1.0.0', { lamps: '^2' }), there, shop(mod('lamps', '1.4.0'), mod('lamps', '2.1.0')));
    expect(plan).toEqual({ install: [], problems: ['No version of lamps suits everybody: weir needs ^1, hall needs ^2.'] });
  });

  it('what is missing, what is no range, circles, and depths without end', async () => {
    const problems = async (wanted: Offered, ...offered: Offered[]) => (await planInstall(wanted, [], shop(...offered))).problems;
    expect(await problems(mod('a', '1.0.0', { b: '^1' }))).toEqual(['a needs b ^1, which the workshop does not have.']);
    expect(await problems(mod('a', '1.0.0', { b: 'new' }), mod('b', '1.0.0'))).toEqual(['a needs b "new", which is no range of versions.']);
    expect(await problems(mod('a', '1.0.0', { b: '*' }), mod('b', '1.0.0', { a: '*' }))).toEqual(['a needs b needs a: they go round in a circle.']);
    const endless = Array.from({ length: 40 }, (_, i) => mod(`m${i}`, '1.0.0', { [`m${i + 1}`]: '*' }));
    expect((await problems(endless[0], ...endless)).join()).toMatch(/more than 20 deep/);
  });

  it('a version that somebody who is installed cannot live with is refused', async () => {
    const there = [mod('weir', '1.0.0', { hall: '^1' }), mod('hall', '1.2.0')];
    expect((await planInstall(mod('hall', '2.0.0'), there, shop())).problems).toEqual(['weir, which is installed, needs hall ^1; this is 2.0.0.']);
    expect(needersOf('hall', there)).toEqual([{ name: 'weir', range: '^1' }]);
  });
});
