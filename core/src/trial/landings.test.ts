import { describe, expect, it } from '@jest/globals';
import { distance } from '../math/vec3.ts';
import { jumpReach } from '../map/measure.ts';
import { testProfile } from '../testing/world.ts';
import { obstacleFromBox } from './collide.ts';
import { jumpLandings } from './landings.ts';

const { player } = testProfile();
const DT = 1 / 60;
const floor = obstacleFromBox('floor', { min: [-900, -900, -16], max: [900, 900, 0] });

describe('where a jump lands', () => {
  it('on a plain as far as projectile motion carries it, in every direction', () => {
    const landings = jumpLandings([0, 0, 0], () => [floor], player, 16, DT);
    // x = v · 2 v_z / g (projectile motion), to within the way of one step.
    const reach = jumpReach(player, 0)!;
    for (const { at } of landings) expect(Math.abs(distance(at!, [0, 0, 0]) - reach)).toBeLessThan(player.runSpeed * DT * 1.5);
  });

  it('on a ledge that it comes over, before a wall that it does not, and nowhere over a pit', () => {
    const ledge = obstacleFromBox('ledge', { min: [60, -900, 0], max: [900, 900, 18] });
    const wall = obstacleFromBox('wall', { min: [-900, 40, 0], max: [60, 60, 300] });
    const small = obstacleFromBox('floor', { min: [-20, -20, -16], max: [60, 60, 0] });
    const [east, north, west] = jumpLandings([0, 0, 0], () => [small, ledge, wall], player, 4, DT);
    expect(east.at![2]).toBeCloseTo(18, 1);
    expect(north.at![1]).toBeLessThan(40 - player.radius + 0.1);
    expect(west.at).toBeNull();
  });
});
