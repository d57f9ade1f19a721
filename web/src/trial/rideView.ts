/** What is seen of a ride beside the vehicle itself: its kite with lines, a shadow under it, the ghosts of earlier runs. */

import {
  BufferAttribute,
  BufferGeometry,
  CircleGeometry,
  Color,
  DoubleSide,
  Group,
  Line,
  LineBasicMaterial,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  Vector3,
  type Object3D,
} from 'three';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { ShownRide } from '@violet-crate/core/trial/apart';
import { freeTree } from '../three/stage3d.ts';
import type { GhostTrack } from './ghosts.ts';
import { ghostAt } from './ghosts.ts';

/** Metres of line, and how far a kite leans to the side of the wind. */
const LINE = 15;
const CELLS = 10;

const COLOURS = ['#c2453d', '#e5a93c', '#f2ead8'];

/** A bowed wing of cloth, in stripes; it hangs between its tips at ±3 m. */
function wing(): Group {
  const kite = new Group();
  for (let k = 0; k < CELLS; k++) {
    const edge = (t: number): [Vec3, Vec3] => {
      const a = (t - 0.5) * 2;
      const chord = 1.5 * Math.sqrt(Math.max(0.08, 1 - a * a * 0.9));
      const [y, z] = [Math.cos(a * 1.15) * 1.4, a * 3.1];
      return [
        [-chord / 2, y, z],
        [chord / 2, y - 0.25, z],
      ];
    };
    const [a, b] = edge(k / CELLS);
    const [c, d] = edge((k + 1) / CELLS);
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from([...a, ...b, ...c, ...b, ...d, ...c]), 3));
    geometry.computeVertexNormals();
    kite.add(new Mesh(geometry, new MeshLambertMaterial({ color: COLOURS[k % COLOURS.length], side: DoubleSide })));
  }
  return kite;
}

export class RideView {
  readonly group = new Group();
  private readonly kite = wing();
  private readonly lines: Line;
  private readonly shadow: Mesh;
  private readonly ghosts: { track: GhostTrack; node: Object3D }[] = [];
  private way = new Vector3(1, 0, 0);
  private high = 0.4;

  constructor(private readonly m: number) {
    this.lines = new Line(
      new BufferGeometry().setAttribute('position', new BufferAttribute(new Float32Array(9), 3)),
      new LineBasicMaterial({ color: '#f4eefb', transparent: true, opacity: 0.7 }),
    );
    this.lines.frustumCulled = false;
    this.shadow = new Mesh(
      new CircleGeometry(0.95, 24),
      new MeshBasicMaterial({ color: '#0a0a18', transparent: true, opacity: 0.32, depthWrite: false }),
    );
    this.shadow.rotation.x = -Math.PI / 2;
    this.group.add(this.kite, this.lines, this.shadow);
    this.group.visible = false;
  }

  /** Sleds of earlier runs, as pale as breath. */
  race(tracks: readonly GhostTrack[], model: Object3D | null): void {
    for (const { node } of this.ghosts.splice(0)) this.group.remove(node);
    if (!model) return;
    tracks.forEach((track, n) => {
      const node = model.clone(true);
      const tint = new Color(['#b794f6', '#7fd6c2', '#e5b45c'][n % 3]);
      node.traverse((part) => {
        const mesh = part as Mesh;
        if (mesh.isMesh) mesh.material = new MeshBasicMaterial({ color: tint, transparent: true, opacity: 0.35, depthWrite: false });
      });
      this.ghosts.push({ track, node });
      this.group.add(node);
    });
  }

  /** @param at where the vehicle is, in units; @param ground height below it in units; @param time of the race in seconds, or null */
  update(ride: ShownRide | null, at: Vec3, ground: number | null, time: number | null): void {
    this.group.visible = ride !== null;
    if (!ride) return;
    const base = new Vector3(...toGltf(at, this.m));
    const air = ride.wind.from + Math.PI;
    const off = Math.atan2(Math.sin(ride.heading - air), Math.cos(ride.heading - air));
    const beside = air + Math.max(-1.3, Math.min(1.3, off));
    const wanted = new Vector3(Math.cos(beside), 0, -Math.sin(beside));
    this.way.lerp(wanted, 0.06).normalize();
    // It comes down to pull, and stands overhead when it is let out.
    this.high += ((ride.down ? 0.05 : 1.15 - ride.sheet * 0.6) - this.high) * 0.05;
    const mast = base.clone().add(new Vector3(0, 1.1, 0));
    const place = mast
      .clone()
      .addScaledVector(this.way, Math.cos(this.high) * LINE)
      .add(new Vector3(0, Math.sin(this.high) * LINE, 0));
    this.kite.position.copy(place);
    this.kite.lookAt(mast);
    this.kite.rotateY(Math.PI / 2);
    this.kite.updateMatrixWorld();
    const points = this.lines.geometry.getAttribute('position') as BufferAttribute;
    const tips = [new Vector3(0, 0.6, -2.9), new Vector3(0, 0.6, 2.9)].map((tip) => tip.applyMatrix4(this.kite.matrixWorld));
    [tips[0], mast, tips[1]].forEach((p, n) => points.setXYZ(n, p.x, p.y, p.z));
    points.needsUpdate = true;
    this.shadow.visible = ground !== null;
    if (ground !== null) {
      this.shadow.position.set(base.x, ground * this.m + 0.04, base.z);
      const up = Math.max(0, base.y - ground * this.m);
      this.shadow.scale.setScalar(1 / (1 + up * 0.25));
    }
    for (const { track, node } of this.ghosts) {
      const ghost = time === null ? null : ghostAt(track, time);
      node.visible = ghost !== null;
      if (!ghost) continue;
      node.position.set(...toGltf(ghost.at, this.m));
      node.rotation.y = ghost.heading;
    }
  }

  dispose(): void {
    freeTree(this.group);
  }
}
