/** Shadow rays per second against raw casts of three-mesh-bvh, on the demo map's triangles. */
import { readFileSync } from 'node:fs';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { loadProfile } from '@violet-crate/core/profile/load';
import { exposeFaces } from '@violet-crate/core/stages/geometry/expose';
import { buildBvh, castRay } from '@violet-crate/core/stages/lighting/bvh';
import { pumphouseMap } from '@violet-crate/demo/pumphouse';
import { compare, seeded } from './measure.mjs';

export async function shadowRays(rounds) {
  const profile = loadProfile(readFileSync(new URL('../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');
  const solids = Object.values(pumphouseMap(profile).solids);
  const corners = exposeFaces(solids).flatMap(({ winding }) => winding.slice(2).flatMap((p, i) => [...winding[0], ...winding[i + 1], ...p]));
  const random = seeded(7);
  const point = () => [random() * 640, random() * 448, random() * 224];
  const rays = Array.from({ length: 200_000 }, () => {
    const [a, b] = [point(), point()];
    return [...a, b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  });
  const own = buildBvh(Float32Array.from(corners));
  const hit = { triangle: -1, distance: 0 };
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(corners), 3));
  const reference = new MeshBVH(geometry);
  const ray = new Ray();
  let blockedOurs = 0;
  let blockedReference = 0;
  const row = await compare(
    'shadow rays, demo map, 200,000 segments (reference: three-mesh-bvh raycastFirst)',
    rounds,
    () => {
      blockedOurs = 0;
      for (const [x, y, z, dx, dy, dz] of rays) if (castRay(own, x, y, z, dx, dy, dz, 0, 1, true, hit)) blockedOurs++;
    },
    () => {
      blockedReference = 0;
      for (const [x, y, z, dx, dy, dz] of rays) {
        const length = Math.hypot(dx, dy, dz);
        ray.origin.set(x, y, z);
        ray.direction.set(dx / length, dy / length, dz / length);
        if (reference.raycastFirst(ray, DoubleSide, 0, length)) blockedReference++;
      }
    },
  );
  console.log(`  blocked: ours ${blockedOurs}, reference ${blockedReference}`);
  return row;
}
