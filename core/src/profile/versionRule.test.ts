import { describe, expect, it } from '@jest/globals';
import { isVersionRule, newestFirst, readVersion, versionProblem } from './versionRule.ts';

describe('versions', () => {
  it('are in the order of semver.org, item 11: numbers by value, pre-releases below, fields one by one', () => {
    // The two examples of https://semver.org/spec/v2.0.0.html#spec-item-11.
    const numbers = ['1.0.0', '2.0.0', '2.1.0', '2.1.1'];
    const early = ['1.0.0-alpha', '1.0.0-alpha.1', '1.0.0-alpha.beta', '1.0.0-beta', '1.0.0-beta.2', '1.0.0-beta.11', '1.0.0-rc.1', '1.0.0'];
    for (const order of [numbers, early]) expect([...order].reverse().sort((a, b) => -newestFirst(a, b))).toEqual(order);
    // Item 10: what was built when has no part in it.
    expect(newestFirst('1.0.0+20130313144700', '1.0.0+exp.sha.5114f85')).toBe(0);
  });

  it('are read as games write them, and nothing else is', () => {
    expect(readVersion('2.4')).toBe('2.4.0');
    expect(readVersion('2.4.1.7731')).toBe('2.4.1');
    expect(readVersion('v2.4.1')).toBe('2.4.1');
    for (const none of ['', '2', 'two', '2.4.x', '9'.repeat(400)]) expect(readVersion(none)).toBeNull();
  });

  it('suit by the same release, by the very same, or by a range', () => {
    expect(versionProblem('release', '2.4.9', '2.4.1')).toBeNull();
    expect(versionProblem('release', '2.5.0', '2.4.1')).toBe('The tool is 2.5.0, the game 2.4.1.');
    expect(versionProblem('exact', '2.4.1', '2.4.1')).toBeNull();
    expect(versionProblem('exact', '2.4.2', '2.4.1')).toContain('very same');
    expect(versionProblem('^3.2.0', '3.9.1', '2.4.1')).toBeNull();
    expect(versionProblem('^3.2.0', '4.0.0', '2.4.1')).toBe('The tool is 4.0.0; the game wants ^3.2.0.');
    expect(versionProblem('release', 'new', '2.4.1')).toContain('not a version');
    expect([isVersionRule('>=1 <2'), isVersionRule('release'), isVersionRule('newer than mine')]).toEqual([true, true, false]);
  });
});
