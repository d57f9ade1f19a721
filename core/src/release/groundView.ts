/** The ground for the default picture of a package: coarse triangles in plain daylight, without shadows. */

import { findMaterial, type CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import { mapSuns } from '../map/lights.ts';
import { linearOfHex } from '../math/srgb.ts';
import { dot, type Vec3 } from '../math/vec3.ts';
import { groundsOf } from '../terrain/ground.ts';
import { edgeSteps, gridMesh, stepsFrom } from '../terrain/mesh/gridMesh.ts';

export interface GroundView {
  /** Map space, nine numbers a triangle; and the radiance of each, three numbers. */
  corners: number[];
  colours: number[];
}

/** @param eye what lies near it is finer */
export function groundView(world: CrateWorld, map: GameMap, eye: Vec3): GroundView | null {
  const grounds = groundsOf(map);
  if (grounds.length === 0) return null;
  const view: GroundView = { corners: [], colours: [] };
  const sky = linearOfHex(map.settings.skyColour).map((v) => v * map.settings.skyIntensity);
  const suns = mapSuns(world.profile, map);
  for (const ground of grounds) {
    const colours = ground.terrain.surfaces.map(({ material }) => linearOfHex(findMaterial(world, material)?.material.colour ?? '#808080'));
    const steps = stepsFrom(ground, eye).map((step) => Math.min(32, step * 2));
    for (let y = 0; y < ground.tilesY; y++)
      for (let x = 0; x < ground.tilesX; x++) {
        const mesh = gridMesh(ground, x, y, steps[y * ground.tilesX + x], edgeSteps(ground, steps, x, y));
        for (let t = 0; t < mesh.indices.length; t += 3) {
          const three = [mesh.indices[t], mesh.indices[t + 1], mesh.indices[t + 2]];
          for (const k of three) view.corners.push(mesh.positions[k * 3], mesh.positions[k * 3 + 1], mesh.positions[k * 3 + 2]);
          const [k] = three;
          const normal: Vec3 = [mesh.normals[k * 3], mesh.normals[k * 3 + 1], mesh.normals[k * 3 + 2]];
          const weights = ground.weightsAt(mesh.samples[k * 2], mesh.samples[k * 2 + 1]);
          for (let c = 0; c < 3; c++) {
            const light = suns.reduce(
              (sum, sun) => sum + sun.intensity * sun.colour[c] * Math.max(0, dot(sun.towards, normal)),
              sky[c] * (0.6 + 0.4 * normal[2]),
            );
            view.colours.push(light * colours.reduce((sum, colour, n) => sum + colour[c] * weights[n], 0));
          }
        }
      }
  }
  return view;
}
