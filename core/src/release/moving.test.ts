import { describe, expect, it } from '@jest/globals';
import { distance, dot, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { testWorld } from '../testing/world.ts';
import { FRAMES_PER_SECOND, previewViews } from './moving.ts';

function world(points: Vec3[], loop = false, seconds = 2) {
  const made = testWorld();
  made.crate.maps.hall.paths = { w1: { name: 'tour', points, loop } };
  made.crate.manifest.preview = { path: 'tour', seconds };
  return made;
}

describe('a moving preview', () => {
  it('goes along its path from end to end at one speed, looking ahead', () => {
    const views = previewViews(
      world([
        [0, 0, 64],
        [400, 0, 64],
      ]),
    );
    expect(views).toHaveLength(2 * FRAMES_PER_SECOND);
    expect([views[0].eye, views[views.length - 1].eye]).toEqual([
      [0, 0, 64],
      [400, 0, 64],
    ]);
    const steps = views.slice(1).map(({ eye }, n) => distance(eye, views[n].eye));
    expect(Math.max(...steps) - Math.min(...steps)).toBeLessThan(1e-6);
    for (const { direction } of views) expect(dot(normalise(direction), [1, 0, 0])).toBeCloseTo(1, 9);
  });

  it('turns round corners softly, climbs, and a loop ends where it began', () => {
    const corner = previewViews(
      world(
        [
          [0, 0, 64],
          [400, 0, 64],
          [400, 400, 64],
        ],
        false,
        4,
      ),
    );
    for (const [n, { direction }] of corner.entries())
      if (n > 0) expect(dot(normalise(direction), normalise(corner[n - 1].direction))).toBeGreaterThan(0.85);
    const up = previewViews(
      world([
        [0, 0, 0],
        [0, 0, 200],
      ]),
    );
    expect(up[up.length - 1].eye).toEqual([0, 0, 200]);
    const round = previewViews(
      world(
        [
          [0, 0, 64],
          [200, 0, 64],
          [200, 200, 64],
          [0, 200, 64],
        ],
        true,
        4,
      ),
    );
    const [first, last] = [round[0].eye, round[round.length - 1].eye];
    expect(distance(first, last)).toBeCloseTo(distance(round[1].eye, first), -1);
    expect(dot(normalise(sub(first, last)), normalise(round[0].direction))).toBeGreaterThan(0.5);
  });

  it('is none where none is wanted; a path that is gone is told', () => {
    const none = world([
      [0, 0, 64],
      [400, 0, 64],
    ]);
    delete none.crate.manifest.preview;
    expect(previewViews(none)).toEqual([]);
    const gone = world([
      [0, 0, 64],
      [400, 0, 64],
    ]);
    gone.crate.maps.hall.paths = {};
    expect(() => previewViews(gone)).toThrow(/goes along the path "tour", which map hall does not have/);
  });
});
