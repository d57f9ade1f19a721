import { describe, expect, it } from '@jest/globals';
import { sortFindings, countFindings, hasBlocker, type Finding } from '../finding.ts';
import { testProfile } from '../testing/world.ts';
import { loadProfile } from './load.ts';
import { partsOf, placingOf } from './parts.ts';
import { classOf, materialType } from './schema.ts';

const changed = (change: (profile: ReturnType<typeof testProfile>) => void) => {
  const profile = structuredClone(testProfile());
  change(profile);
  return () => loadProfile(JSON.stringify(profile), 'p.json');
};

describe('profiles', () => {
  it('both games load, and their parts can be asked for', () => {
    for (const id of ['brinewick', 'skarrow']) expect(testProfile(id).id).toBe(id);
    const profile = testProfile();
    expect(partsOf(profile, 'gallery_lamp').map((part) => part.id)).toEqual(['light', 'use', 'model']);
    expect(partsOf(profile, 'nothing')).toEqual([]);
    expect([placingOf(profile, 'lamp'), placingOf(profile, 'gallery_lamp'), placingOf(profile, 'start')]).toEqual(['ceiling', 'floor', 'clear']);
    expect(classOf(profile, 'crank')?.useEvent).toBe('turned');
    expect(materialType(profile, 'sky')?.seals).toBe(true);
  });

  it('every stair of the demo can be climbed: steps are lower than the player’s', () => {
    expect(testProfile().player.stepHeight).toBeGreaterThan(5.5);
  });

  it.each([
    ['a class twice', changed((p) => p.classes.push(p.classes[0])), /class "start" is listed twice/],
    ['a use without its event', changed((p) => (p.classes.find((c) => c.id === 'crank')!.useEvent = 'melted')), /useEvent/],
    ['an unknown required class', changed((p) => p.required.push({ class: 'ghost', min: 1, reason: 'x' })), /"ghost" is not in the catalogue/],
    ['a naming pattern that is none', changed((p) => (p.naming.crate.pattern = '[')), /not a regular expression/],
    ['a negative unit', changed((p) => (p.unit.metres = -1)), /\/unit\/metres/],
  ])('refuses %s', (_what, load, message) => {
    expect(load).toThrow(message);
  });
});

describe('findings', () => {
  const finding = (severity: Finding['severity'], stage: Finding['stage'], code: string): Finding => ({ severity, stage, code, message: code });

  it('come in the order in which people mend', () => {
    const sorted = sortFindings([
      finding('note', 'setup', 'a'),
      finding('blocker', 'map', 'z'),
      finding('warning', 'assets', 'm'),
      finding('blocker', 'scripts', 'b'),
      finding('blocker', 'map', 'c'),
    ]);
    expect(sorted.map((f) => f.code)).toEqual(['b', 'c', 'z', 'm', 'a']);
    expect(countFindings(sorted)).toEqual({ blocker: 3, warning: 1, note: 1 });
    expect(hasBlocker(sorted)).toBe(true);
    expect(hasBlocker([])).toBe(false);
  });
});
