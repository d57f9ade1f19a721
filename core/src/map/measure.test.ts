import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { type Vec3 } from '../math/vec3.ts';
import { jumpHeight, jumpReach, measureAngle, measureArea, measureDistance, playerCan } from './measure.ts';
import { profile } from '../testing/maps.ts';

describe('what the player can do', () => {
  const { player } = profile;
  // The closed form of projectile motion: height v²/2g, range from the later root of z(t).
  it('jump height and reach solve the equation of motion', () => {
    expect(jumpHeight(player)).toBeCloseTo(player.jumpSpeed ** 2 / (2 * player.gravity), 9);
    fc.assert(
      fc.property(fc.double({ min: -100, max: jumpHeight(player) * 0.999, noNaN: true }), (rise) => {
        const t = jumpReach(player, rise)! / player.runSpeed;
        expect(player.jumpSpeed * t - (player.gravity * t * t) / 2).toBeCloseTo(rise, 6);
      }),
    );
    expect(jumpReach(player, jumpHeight(player) + 0.1)).toBeNull();
  });

  it('says of two points what works', () => {
    const can = (b: Vec3) => Object.fromEntries(playerCan(player, [0, 0, 0], b).map((a) => [a.what, a.can]));
    expect(can([10, 0, 12])).toMatchObject({ step: true, 'jump up': true });
    expect(can([10, 0, 20])).toMatchObject({ step: false, 'jump up': true });
    expect(can([400, 0, 0])).toMatchObject({ 'jump across': false, 'fit through': true });
    expect(can([20, 0, 0])).toMatchObject({ 'fit through': false });
  });

  it('measures', () => {
    expect(measureDistance([0, 0, 0], [3, 4, 12])).toMatchObject({ distance: 13, level: 5 });
    expect(measureAngle([1, 0, 0], [0, 0, 0], [0, 5, 0])).toBeCloseTo(90, 9);
    expect(
      measureArea([
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 3],
        [0, 0, 3],
      ]),
    ).toBeCloseTo(12, 9);
  });
});
