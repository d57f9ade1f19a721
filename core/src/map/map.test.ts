import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { newObject } from '../profile/newObject.ts';
import { checkCrate } from '../check/checkCrate.ts';
import { readDocument } from '../document/readDocument.ts';
import { testProfile, testWorld } from '../testing/world.ts';
import { block } from '../solid/primitives.ts';
import { applyEdit, freshId, invertEdit, type Change, type MapEdit } from '../document/edit.ts';
import { MapSchema, type GameMap } from '../document/schema.ts';
import { readMap } from '../crate/readMap.ts';
import { serialiseMap } from '../document/serialise.ts';

const profile = testProfile();
const codes = (world: ReturnType<typeof testWorld>) => checkCrate(world).findings.map((f) => f.code);

/** A world whose map is changed by edits. */
function edited(...changes: Change[]) {
  const world = testWorld();
  world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'test', changes });
  return world;
}

const changeArbitrary: fc.Arbitrary<Change> = fc.oneof(
  fc
    .tuple(fc.integer({ min: 1, max: 6 }), fc.boolean())
    .map(([n, gone]): Change => ({ of: 'solids', id: `s${n}`, to: gone ? null : block({ min: [0, 0, 0], max: [n * 8, 8, 8] }, 'brick') })),
  fc
    .tuple(fc.integer({ min: 1, max: 4 }), fc.string())
    .map(([n, name]): Change => ({ of: 'objects', id: `o${n}`, to: { ...newObject(profile, 'lamp', name, [n, 0, 0]) } })),
  fc.integer({ min: 0, max: 4 }).map((n): Change => ({ of: 'settings', to: { skyColour: '#ffffff', skyIntensity: n, trial: [] } })),
);
const editArbitrary: fc.Arbitrary<MapEdit> = fc
  .array(changeArbitrary, { minLength: 1, maxLength: 6 })
  .map((changes) => ({ name: 'random', changes }));

describe('edits', () => {
  it('have inverses that restore the map exactly', () => {
    fc.assert(
      fc.property(fc.array(editArbitrary, { maxLength: 8 }), (edits) => {
        const start = testWorld().crate.maps.hall;
        const inverses: MapEdit[] = [];
        let map: GameMap = start;
        for (const edit of edits) {
          inverses.push(invertEdit(map, edit));
          map = applyEdit(map, edit);
        }
        for (const inverse of inverses.reverse()) map = applyEdit(map, inverse);
        expect(map).toEqual(start);
      }),
    );
  });

  it('leave the old map as it was', () => {
    const map = testWorld().crate.maps.hall;
    const before = structuredClone(map);
    applyEdit(map, { name: 'x', changes: [{ of: 'solids', id: 's1', to: null }] });
    expect(map).toEqual(before);
  });

  it('fresh ids are never in use', () => {
    expect(freshId({ s1: 0, s9: 0, o12: 0 }, 's')).toBe('s10');
    expect(freshId({}, 's', new Set(['s1', 's2']))).toBe('s3');
  });
});

describe('map documents', () => {
  it('come back from text as they were, with any text in any property', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        const map = structuredClone(testWorld().crate.maps.hall);
        map.objects.o9 = { ...newObject(profile, 'sign', 'sign', [0, 0, 0]), properties: { text: `"${text}"\n\\` } };
        const back = readMap(serialiseMap(map), 'm');
        expect(back).toEqual(map);
        expect(serialiseMap(back)).toBe(serialiseMap(map));
      }),
    );
  });

  it('say where they cannot be read', () => {
    const text = serialiseMap(testWorld().crate.maps.hall);
    expect(() => readDocument(text.replace('"signals": {}', '"signals": {'), MapSchema, 'maps/hall.map.json')).toThrow(
      /maps\/hall.map.json is not valid JSON at line \d+/,
    );
    expect(() => readDocument(text.replace('"format": 1', '"format": "one"'), MapSchema, 'maps/hall.map.json')).toThrow(/\/format/);
  });
});

describe('checks of a map', () => {
  it('the templates have no blockers or warnings', () => {
    expect(codes(testWorld())).toEqual([]);
    const skarrow = testWorld('sealed-room', testProfile('skarrow'));
    expect(checkCrate(skarrow).findings.filter((f) => f.severity !== 'note')).toEqual([]);
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
});

describe('links', () => {
  it('missing materials and models are blockers; unused files are notes; near misses are named', () => {
    const prop = { ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model: 'models/Pump.glb', solid: true } };
    const world = edited({ of: 'objects', id: 'o9', to: prop }, { of: 'solids', id: 's9', to: block({ min: [0, 0, 0], max: [8, 8, 8] }, 'marble') });
    const sha256 = '0'.repeat(64);
    world.crate.files.push({ path: 'models/pump.glb', bytes: 10, sha256 }, { path: 'sources/pump.obj', bytes: 10, sha256 });
    const found = checkCrate(world).findings;
    expect(found.filter((f) => f.code === 'link-missing').map((f) => f.message)).toEqual([
      'The material marble is missing; solids need it.',
      'The model models/Pump.glb is missing; pump needs it.',
    ]);
    expect(found.find((f) => f.message.includes('Pump.glb'))?.hint).toContain('models/pump.glb');
    expect(found.filter((f) => f.code === 'link-unused').map((f) => f.place?.file)).toEqual(['models/pump.glb']);
  });
});
