/**
 * Solids that were edited while a run goes on: what the build drew of them is taken away, and what they are now is drawn
 * in its place, lit by the probes of the build and with marked edges, since their light is not computed yet.
 */

import { EdgesGeometry, Group, LineBasicMaterial, LineSegments, Mesh, MeshBasicMaterial, type BufferGeometry, type Object3D } from 'three';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Solid } from '@violet-crate/core/document/schema';
import { boxesTouch, type Box3 } from '@violet-crate/core/math/box3';
import { dot, type Vec3 } from '@violet-crate/core/math/vec3';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { windingContains } from '@violet-crate/core/solid/winding';
import { fromGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import type { ShownSolid } from '@violet-crate/core/trial/liveMap';
import type { BuiltMap } from '../three/builtMap.ts';
import { lightByProbes } from '../three/probeLit.ts';
import { solidGeometries } from '../three/solidGeometry.ts';
import { freeTree } from '../three/stage3d.ts';

/** Distance in units within which a triangle of the build lies on a face; files hold 32-bit floats. */
const ON_FACE = 0.05;

export class LiveSolids {
  readonly group = new Group();
  private readonly shown = new Map<string, Object3D>();
  private readonly hidden = new Set<string>();

  constructor(
    private readonly built: BuiltMap,
    private readonly probes: ProbeGrid | null,
    private readonly metres: number,
    private readonly mark: string,
  ) {}

  async edit(world: CrateWorld, solids: Readonly<Record<string, ShownSolid>>): Promise<void> {
    for (const [id, { before, after }] of Object.entries(solids)) {
      // What the build drew is taken away once; later edits replace what is drawn here.
      if (before && !this.hidden.has(id)) this.hide(before);
      this.hidden.add(id);
      const old = this.shown.get(id);
      if (old) {
        this.group.remove(old);
        freeTree(old);
        this.shown.delete(id);
      }
      if (!after) continue;
      const node = new Group();
      this.shown.set(id, node);
      this.group.add(node);
      await this.draw(world, after, node);
    }
  }

  private async draw(world: CrateWorld, solid: Solid, node: Group): Promise<void> {
    for (const [name, geometry] of solidGeometries(world, [solid], false)) {
      const mesh = new Mesh(geometry, new MeshBasicMaterial({ map: await this.built.textureOf(name) }));
      lightByProbes(mesh, this.probes, this.metres);
      node.add(mesh, new LineSegments(new EdgesGeometry(geometry), new LineBasicMaterial({ color: this.mark })));
    }
  }

  /** Flattens the triangles of the build that lie on the solid's faces. */
  private hide(solid: Solid): void {
    const { polygons, box } = shapeOf(solid);
    const faces = polygons.map(({ face, winding }) => ({ plane: solid.faces[face], winding }));
    for (const root of this.built.groups.values())
      root.traverse((node) => {
        const mesh = node as Mesh;
        if (mesh.isMesh && this.near(mesh, box)) this.flatten(mesh, faces);
      });
  }

  private near(mesh: Mesh, box: Box3): boolean {
    mesh.geometry.computeBoundingBox();
    const { min, max } = mesh.geometry.boundingBox!;
    const [a, b] = [fromGltf([min.x, min.y, max.z], this.metres), fromGltf([max.x, max.y, min.z], this.metres)];
    return boxesTouch({ min: a, max: b }, box, 1);
  }

  private flatten({ geometry }: Mesh, faces: readonly { plane: { normal: Vec3; distance: number }; winding: Vec3[] }[]): void {
    const index = geometry.getIndex();
    if (!index) return;
    for (let i = 0; i < index.count; i += 3) {
      const corners = [0, 1, 2].map((k) => this.corner(geometry, index.getX(i + k)));
      const middle = [0, 1, 2].map((axis) => (corners[0][axis] + corners[1][axis] + corners[2][axis]) / 3) as Vec3;
      const lies = faces.some(
        ({ plane, winding }) =>
          corners.every((corner) => Math.abs(dot(plane.normal, corner) - plane.distance) < ON_FACE) &&
          windingContains(winding, plane.normal, middle, ON_FACE),
      );
      if (!lies) continue;
      for (let k = 1; k < 3; k++) index.setX(i + k, index.getX(i));
      index.needsUpdate = true;
    }
  }

  private corner(geometry: BufferGeometry, i: number): Vec3 {
    const position = geometry.getAttribute('position');
    return fromGltf([position.getX(i), position.getY(i), position.getZ(i)], this.metres);
  }
}
