import { describe, expect, it } from '@jest/globals';
import { newObject } from '../profile/newObject.ts';
import { checkCrate } from './checkCrate.ts';
import { testProfile, testWorld } from '../testing/world.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import { profile } from '../testing/maps.ts';

const codes = (world: ReturnType<typeof testWorld>) => checkCrate(world).findings.map((f) => f.code);

/** A world whose map is changed by edits. */
function edited(...changes: Change[]) {
  const world = testWorld();
  world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'test', changes });
  return world;
}

describe('checks of a map', () => {
  it('the templates have no blockers or warnings', () => {
    expect(codes(testWorld())).toEqual([]);
    // What lies in the game's pack is checked by e2e/commandLine.sh.
    for (const template of ['ridge-race', 'open-field'] as const)
      expect(
        checkCrate(testWorld(template, testProfile('skarrow'))).findings.filter((f) => f.severity !== 'note' && f.code !== 'link-missing'),
      ).toEqual([]);
    expect(codes(testWorld('blank'))).toEqual(['map-empty', 'required-missing']);
  });

  // The game drops a player through the floor when the start touches it: common practice is to lift it.
  it('a start that touches the floor is found, and the fix lifts it clear', () => {
    const world = testWorld();
    const start = world.crate.maps.hall.objects.o1;
    world.crate.maps.hall = applyEdit(world.crate.maps.hall, {
      name: 'sink',
      changes: [{ of: 'objects', id: 'o1', to: { ...start, position: [start.position[0], start.position[1], 0] } }],
    });
    const finding = checkCrate(world).findings.find((f) => f.code === 'start-touches')!;
    expect(finding.message).toContain('start');
    expect(finding.fix?.label).toMatch(/Lift by/);
    if (finding.fix?.kind === 'edit') world.crate.maps.hall = applyEdit(world.crate.maps.hall, finding.fix.edit);
    expect(codes(world)).toEqual([]);
    expect(world.crate.maps.hall.objects.o1.position[2]).toBeGreaterThan(0);
  });

  it('a missing required object is a blocker, and the fix places one', () => {
    const world = edited({ of: 'objects', id: 'o1', to: null });
    const finding = checkCrate(world).findings.find((f) => f.code === 'required-missing')!;
    expect(finding.severity).toBe('blocker');
    if (finding.fix?.kind === 'edit') world.crate.maps.hall = applyEdit(world.crate.maps.hall, finding.fix.edit);
    expect(codes(world)).toEqual([]);
  });

  it('names with spaces or twice the same are blockers with a rename', () => {
    const lamp = newObject(profile, 'lamp', 'My Lamp', [0, 0, 64]);
    const world = edited({ of: 'objects', id: 'o8', to: lamp }, { of: 'objects', id: 'o9', to: { ...lamp, name: 'start' } });
    const found = checkCrate(world).findings;
    expect(found.find((f) => f.code === 'object-name')?.fix?.label).toBe('Rename to my_lamp');
    expect(found.find((f) => f.code === 'object-name-twice')?.fix?.label).toBe('Rename to start_2');
  });

  it('properties out of range are blockers with a reset', () => {
    const lamp = newObject(profile, 'lamp', 'lamp_9', [0, 0, 64]);
    const world = edited({ of: 'objects', id: 'o9', to: { ...lamp, properties: { ...lamp.properties, intensity: -5, colour: 'red' } } });
    expect(
      checkCrate(world)
        .findings.filter((f) => f.code === 'object-property')
        .map((f) => f.message),
    ).toEqual(['lamp_9: Colour has to be a colour like #ffcc88.', 'lamp_9: Intensity has to be at least 0.']);
  });

  it('broken signals say what is gone', () => {
    const crank = newObject(profile, 'crank', 'crank', [0, 0, 0]);
    const world = edited(
      { of: 'objects', id: 'o9', to: crank },
      { of: 'signals', id: 'g1', to: { from: 'o9', event: 'turned', to: { script: 'no_such' }, delay: 0 } },
      { of: 'signals', id: 'g2', to: { from: 'o77', event: 'turned', to: { object: 'o9', action: 'raise' }, delay: 0 } },
      { of: 'signals', id: 'g3', to: { from: 'o9', event: 'melted', to: { object: 'o1', action: 'raise' }, delay: 0 } },
    );
    const messages = checkCrate(world)
      .findings.filter((f) => f.code === 'signal-broken')
      .map((f) => f.message);
    expect(messages).toEqual(
      expect.arrayContaining([
        'The signal from crank calls no_such, which no script defines.',
        'Signal g2 starts at an object that is gone.',
        'crank has no event "melted".',
        'start has no action "raise".',
      ]),
    );
  });

  it('a name that the game does not take is a blocker of the set-up', () => {
    const world = testWorld();
    world.crate.manifest.name = 'My Crate';
    expect(checkCrate(world).findings.find((f) => f.code === 'crate-name')).toMatchObject({
      severity: 'blocker',
      place: { file: 'crate.json' },
      message: expect.stringContaining('"My Crate"'),
    });
  });

  it('an object of a class that the game does not have is a blocker', () => {
    const lamp = newObject(profile, 'lamp', 'lamp_9', [0, 0, 64]);
    const found = checkCrate(edited({ of: 'objects', id: 'o9', to: { ...lamp, class: 'chandelier' } })).findings;
    expect(found.find((f) => f.code === 'object-class')).toMatchObject({ severity: 'blocker', place: { object: 'o9' } });
    expect(found.find((f) => f.code === 'object-class')!.message).toContain('"chandelier"');
  });

  it('more of a class than may be is a blocker, the most that may be is not', () => {
    const world = testWorld();
    const withMost = (max: number) => ({ ...world, profile: { ...world.profile, required: [{ class: 'lamp', min: 0, max, reason: 'r' }] } });
    const lamps = Object.values(world.crate.maps.hall.objects).filter((o) => o.class === 'lamp').length;
    expect(codes(withMost(lamps))).not.toContain('required-too-many');
    expect(codes(withMost(lamps - 1))).toContain('required-too-many');
  });

  it('a prefab that has to be there is placed by the fix', () => {
    const world = testWorld();
    world.profile = { ...world.profile, requiredPrefabs: [{ prefab: 'mooring', reason: 'ships have to land' }] };
    const finding = checkCrate(world).findings.find((f) => f.code === 'required-prefab')!;
    expect(finding.message).toMatch(/: ships have to land\.$/);
    if (finding.fix?.kind === 'edit') world.crate.maps.hall = applyEdit(world.crate.maps.hall, finding.fix.edit);
    expect(codes(world)).not.toContain('required-prefab');
  });

  it('a map without what it would start with is named', () => {
    const world = testWorld();
    world.crate.manifest.mainMap = 'attic';
    expect(checkCrate(world).findings.find((f) => f.code === 'map-missing')?.message).toContain('attic');
  });
});
