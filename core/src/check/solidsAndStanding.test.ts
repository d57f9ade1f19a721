import { describe, expect, it } from '@jest/globals';
import { block } from '../solid/primitives.ts';
import { checkCrate } from './checkCrate.ts';
import { testWorld } from '../testing/world.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import { dropToSurface } from './checkStand.ts';
import { hall, withChanges, cube, solid, object, codesOf, findingsOf, mended } from '../testing/maps.ts';

describe('checks of solids and standing', () => {
  it.each([
    ['solid-off-grid', [solid('s20', cube([0.3, 0, 0]))]],
    ['solid-thin', [solid('s20', block({ min: [0, 0, 40], max: [64, 64, 41] }, 'brick'))]],
    ['solid-twice', [solid('s20', cube([32, 32, 32])), solid('s21', cube([32, 32, 32]))]],
    ['object-floats', [object('o20', 'prop', 'box', [32, 32, 50], { model: '' })]],
    ['object-sinks', [object('o20', 'prop', 'box', [32, 32, -10], { model: '' })]],
  ] as [string, Change[]][])('%s is found, and its fix mends it', (code, changes) => {
    const map = withChanges(hall(), ...changes);
    expect(codesOf(hall())).not.toContain(code);
    expect(codesOf(map)).toContain(code);
    expect(codesOf(mended(map, code))).not.toContain(code);
  });

  it('faces in one plane flicker only where they overlap with different looks', () => {
    const flicker = (material: string, at: number) =>
      codesOf(
        withChanges(
          hall(),
          solid('s20', block({ min: [0, 0, 32], max: [32, 32, 64] }, 'brick')),
          solid('s21', block({ min: [at, 0, 32], max: [at + 32, 32, 64] }, material)),
        ),
      ).includes('solid-flicker');
    expect(flicker('slate', 16)).toBe(true);
    expect(flicker('brick', 16)).toBe(false);
    expect(flicker('slate', 32)).toBe(false);
  });

  it('drops what floats and lifts what sank, by what is needed', () => {
    const world = testWorld();
    const map = withChanges(
      hall(),
      solid('s20', cube([0, 0, 0], 24)),
      object('o20', 'prop', 'box', [12, 12, 90], { model: '' }),
      object('o21', 'prop', 'low', [100, 100, -4], { model: '' }),
    );
    const dropped = applyEdit(map, dropToSurface(world, map, ['o20', 'o21'])!);
    expect([dropped.objects.o20.position[2], dropped.objects.o21.position[2]]).toEqual([24, 0]);
  });

  it('a pair has to lead back', () => {
    const map = withChanges(
      hall(),
      object('o20', 'trigger', 'gate_in', [0, 0, 0], { exit: 'o21' }),
      object('o21', 'trigger', 'gate_out', [64, 64, 0]),
    );
    expect(codesOf(map)).toContain('pair-broken');
    expect(codesOf(mended(map, 'pair-broken'))).not.toContain('pair-broken');
  });

  it('few blocks on a much finer grid are found, many or none are not', () => {
    const withOffsets = (fine: number) =>
      codesOf(withChanges(hall(), ...Array.from({ length: 20 }, (_, i) => solid(`s${20 + i}`, cube([i < fine ? i * 32 + 0.5 : i * 32, 900, 0])))));
    expect(withOffsets(0)).not.toContain('grid-mixed');
    expect(withOffsets(1)).toContain('grid-mixed');
    expect(withOffsets(12)).not.toContain('grid-mixed');
  });

  it('more solids than the game is made for are a warning', () => {
    const world = testWorld();
    const count = Object.keys(world.crate.maps.hall.solids).length;
    const within = (solids: number) =>
      checkCrate({ ...world, profile: { ...world.profile, budgets: { ...world.profile.budgets!, solids } } }).findings.map((f) => f.code);
    expect(within(count)).not.toContain('budget-solids');
    expect(within(count - 1)).toContain('budget-solids');
  });

  it('what stands deep inside a solid is said to stand in it, not to sink', () => {
    const map = withChanges(hall(), solid('s20', cube([0, 0, 0], 96)), object('o20', 'prop', 'box', [48, 48, 30], { model: '' }));
    const found = findingsOf(map).filter((f) => f.place?.object === 'o20');
    expect(found.map((f) => f.code)).toContain('object-in-solid');
    expect(found.map((f) => f.code)).not.toContain('object-sinks');
  });
});
