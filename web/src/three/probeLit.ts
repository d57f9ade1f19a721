/** Props have no lightmap: every corner is lit by the probes around it. */

import { BufferAttribute, Matrix3, MeshBasicMaterial, Vector3, type Mesh, type MeshStandardMaterial, type Object3D } from 'three';
import { probeLight, type ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import type { Vec3 } from '@violet-crate/core/math/vec3';

/** E/π that arrives at a point, in map units, on a surface with a normal; a dim guess where no probe tells. */
export const lightAt = (probes: ProbeGrid | null, point: Vec3, normal: Vec3): [number, number, number] =>
  (probes && probeLight(probes, point, normal)) ?? [0.1, 0.1, 0.12];

/** Lights all meshes below a node, which stands in its place in a scene of metres and y up. */
export function lightByProbes(root: Object3D, probes: ProbeGrid | null, metresPerUnit: number): void {
  root.updateMatrixWorld(true);
  root.traverse((node) => {
    if ((node as Mesh).isMesh) lightMesh(node as Mesh, probes, metresPerUnit);
  });
}

function lightMesh(mesh: Mesh, probes: ProbeGrid | null, m: number): void {
  const original = mesh.material as MeshStandardMaterial;
  const geometry = mesh.geometry.clone();
  const position = geometry.getAttribute('position');
  const normal = geometry.getAttribute('normal');
  const colours = new Float32Array(position.count * 3);
  const turn = new Matrix3().getNormalMatrix(mesh.matrixWorld);
  const [p, n] = [new Vector3(), new Vector3()];
  for (let i = 0; i < position.count; i++) {
    p.fromBufferAttribute(position, i).applyMatrix4(mesh.matrixWorld);
    n.fromBufferAttribute(normal, i).applyMatrix3(turn).normalize();
    colours.set(lightAt(probes, [p.x / m, -p.z / m, p.y / m], [n.x, -n.z, n.y]), i * 3);
  }
  geometry.setAttribute('color', new BufferAttribute(colours, 3));
  mesh.geometry = geometry;
  mesh.material = new MeshBasicMaterial({
    color: original.color,
    map: original.map,
    vertexColors: true,
    transparent: original.transparent,
    opacity: original.opacity,
  });
}
