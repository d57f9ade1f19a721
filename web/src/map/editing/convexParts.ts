import type { Mesh } from 'three';
import type { MapObject, Solid } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { hullSolid } from '@violet-crate/core/solid/hull';
import { applyAffine, rotation } from '@violet-crate/core/solid/transform';
import type { RootState } from '../../state/store.ts';
import { loadGltf } from '../../three/assets3d.ts';

/**
 * The convex bodies of a model's collision scene as solids where an object stands; none where it has no such scene.
 *
 * @throws Error with a sentence where the model cannot be loaded
 */
export async function convexParts({ crate }: RootState, model: string, object: MapObject, material: string): Promise<Solid[]> {
  if (!crate.view || !crate.profile) return [];
  const metres = crate.profile.unit.metres;
  let scene;
  try {
    scene = (await loadGltf({ view: crate.view, profileId: crate.profile.id }, model)).scenes.find((s) => s.name === 'collision');
  } catch {
    throw new Error(`The model ${model} could not be loaded: its file may be gone, or damaged. Look at it in the library.`);
  }
  const turn = rotation(2, object.turn, [0, 0, 0]);
  const looks = [{ normal: [0, 0, 1] as Vec3, distance: 0, material }];
  const solids: Solid[] = [];
  scene?.traverse((node) => {
    const position = (node as Mesh).geometry?.getAttribute('position');
    if (!position) return;
    const points = Array.from({ length: position.count }, (_, i): Vec3 => {
      const own: Vec3 = [position.getX(i) / metres, -position.getZ(i) / metres, position.getY(i) / metres];
      return applyAffine(turn, own).map((v, axis) => v + object.position[axis]) as Vec3;
    });
    const solid = hullSolid(points, looks);
    if (solid) solids.push(solid);
  });
  return solids;
}
