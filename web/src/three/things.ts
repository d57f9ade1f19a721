/** Scattered things as instances of their models. */

import type { Mesh } from 'three';
import { Matrix4, MeshLambertMaterial, Quaternion, SphereGeometry, Vector3, type BufferGeometry, type Object3D } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { GroundThing } from '@violet-crate/core/terrain/ground';

const UP = new Vector3(0, 1, 0);

/** Where a thing stands, as a matrix in scene space. */
export function thingMatrix({ position, turn, scale, up }: Omit<GroundThing, 'kind'>, m: number): Matrix4 {
  const lean = new Quaternion().setFromUnitVectors(UP, new Vector3(up[0], up[2], -up[1]));
  const turned = lean.multiply(new Quaternion().setFromAxisAngle(UP, (turn * Math.PI) / 180));
  return new Matrix4().compose(new Vector3(...toGltf(position, m)), turned, new Vector3(scale, scale, scale));
}

export interface ModelPart {
  geometry: BufferGeometry;
  material: Mesh['material'];
  /** Where it lies within the model. */
  own: Matrix4;
}

/** The meshes of a model; a ball where it could not be loaded. */
export function partsOfModel(model: Object3D | null): ModelPart[] {
  const parts: ModelPart[] = [];
  model?.updateMatrixWorld(true);
  model?.traverse((node) => {
    const mesh = node as Mesh;
    if (mesh.isMesh) parts.push({ geometry: mesh.geometry, material: mesh.material, own: mesh.matrixWorld });
  });
  if (parts.length === 0)
    parts.push({ geometry: new SphereGeometry(0.6, 8, 6), material: new MeshLambertMaterial({ color: '#ff6a5a' }), own: new Matrix4() });
  return parts;
}
