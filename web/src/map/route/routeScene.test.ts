import { describe, expect, it } from '@jest/globals';
import { Box3, type LineSegments, type Mesh } from 'three';
import type { GameMap } from '@violet-crate/core/document/schema';
import { fromGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { shaped, terrain } from '@violet-crate/core/testing/terrains';
import { testProfile } from '@violet-crate/core/testing/world';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { routesGroup } from './routeScene.ts';

const profile = testProfile('skarrow');
const { map: land } = shaped(terrain([201, 61]), (i) => (i <= 80 ? 60 + Math.max(0, i - 60) * 0.2 : Math.max(0, 64 - (i - 80) * 0.4)));
const colours = { violet: '#8855ff', warm: '#ffaa55' };
const map: GameMap = {
  ...land,
  routes: {
    r1: {
      name: 'Race',
      start: 's',
      stops: [],
      finish: 'f',
      laps: 1,
      width: 6,
      points: [[5, 30, 0], [195, 30, 0]], // prettier-ignore
      branches: [{ name: 'Side', after: 0, until: 1, stops: [], points: [[5, 30, 0], [100, 50, 0], [195, 30, 0]] }], // prettier-ignore
    },
  },
};

describe('routes in the perspective', () => {
  it('lie on the ground as wide as they are, with branches and the flights of jumps in other lines', () => {
    const [strip, edges, flights] = routesGroup(map, profile, 18, colours).children as [Mesh, LineSegments, LineSegments];
    const box = new Box3().setFromObject(strip);
    expect([box.min.x, box.max.x, -box.max.z, -box.min.z].map(Math.round)).toEqual([5, 195, 27, 33]);
    const places = strip.geometry.getAttribute('position');
    const ground = groundOf(map, 'e1')!;
    for (let n = 0; n < places.count; n += 7) {
      const [x, y, z] = fromGltf([places.getX(n), places.getY(n), places.getZ(n)], 1);
      expect(z - ground.heightAt(x, y)!).toBeCloseTo(profile.player.height / 4, 4);
    }
    expect(-new Box3().setFromObject(edges).min.z).toBeCloseTo(50, 0);
    // The flight leaves the lip at 80 and is above the ground until it lands.
    const flight = new Box3().setFromObject(flights);
    expect(flight.min.x).toBeCloseTo(80, -1);
    expect(flight.max.y).toBeGreaterThan(64);
  });

  it('are nothing where there are none', () => {
    expect(routesGroup(land, profile, 18, colours).children).toEqual([]);
  });
});
