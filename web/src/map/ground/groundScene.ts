/** The ground in the perspective: a mesh per tile, finer near the eye, made anew where it or a neighbour has changed. */

import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DataTexture,
  Group,
  InstancedMesh,
  LinearFilter,
  Mesh,
  RGBAFormat,
  Vector2,
  type Object3D,
  type Texture,
} from 'three';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { TILE } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Ground, GroundThing } from '@violet-crate/core/terrain/ground';
import { edgeSteps, gridMesh, stepsFrom } from '@violet-crate/core/terrain/mesh/gridMesh';
import { weightPictures } from '@violet-crate/core/terrain/weights';
import type { AssetSource } from '../../api/assetUrl.ts';
import { loadModel, previewTexture } from '../../three/assets3d.ts';
import { groundMaterial, type GroundSurface } from '../../three/groundMaterial.ts';
import { freeTree } from '../../three/stage3d.ts';
import { partsOfModel, thingMatrix } from '../../three/things.ts';

interface TileEntry {
  of: readonly unknown[];
  mesh: Mesh;
  textures: Texture[];
}

/** Distance up to which scattered things are drawn while editing, metres; and most of them. */
const THINGS_TO = 450;
const MOST_THINGS = 6000;

export class GroundScene {
  readonly group = new Group();
  private readonly tiles = new Map<string, TileEntry>();
  private readonly things = new Group();
  private thingsOf: readonly unknown[] = [];
  private readonly models = new Map<string, Promise<Object3D | null>>();

  constructor(private readonly onLoad: () => void) {
    this.group.add(this.things);
  }

  /** @param eye in map units; @param changing tiles that are under the brush and always made anew */
  update(world: CrateWorld, source: AssetSource, grounds: readonly Ground[], eye: Vec3, changing: ReadonlySet<number> | null): void {
    const m = world.profile.unit.metres;
    const present = new Set<string>();
    for (const ground of grounds) {
      const surfaces = this.surfacesOf(world, source, ground);
      const steps = stepsFrom(ground, eye);
      for (let y = 0; y * TILE < ground.ny - 1; y++)
        for (let x = 0; x * TILE < ground.nx - 1; x++) {
          const number = y * ground.tilesX + x;
          const key = `${ground.id}/${number}`;
          present.add(key);
          const edges = edgeSteps(ground, steps, x, y);
          // Heights of the tile and of those that its last row and its normals read.
          const near = [0, 1].flatMap((b) => [0, 1].map((a) => ground.tileAt(x + a, y + b)));
          const of = [ground.terrain, ground.tiles[number], source, ...near, steps[number], ...edges];
          const known = this.tiles.get(key);
          if (known && !changing?.has(number) && known.of.every((value, i) => value === of[i])) continue;
          if (known) this.drop(known);
          const entry = this.tile(ground, x, y, steps[number], edges, surfaces, m);
          this.tiles.set(key, { ...entry, of: changing?.has(number) ? [] : of });
          this.group.add(entry.mesh);
        }
    }
    for (const [key, entry] of this.tiles)
      if (!present.has(key)) {
        this.drop(entry);
        this.tiles.delete(key);
      }
    if (!changing) this.updateThings(source, grounds, eye, m);
  }

  private surfacesOf(world: CrateWorld, source: AssetSource, { terrain }: Ground): GroundSurface[] {
    return terrain.surfaces.map(({ material }) => {
      const found = findMaterial(world, material)?.material;
      return {
        texture: found ? previewTexture(source, found, this.onLoad) : null,
        colour: new Color(found?.colour ?? '#ff6a5a'),
        repeats: found ? 1 / (found.unitsPerRepeat * world.profile.unit.metres) : 0,
      };
    });
  }

  private tile(
    ground: Ground,
    x: number,
    y: number,
    step: number,
    edges: readonly [number, number, number, number],
    surfaces: GroundSurface[],
    m: number,
  ) {
    const { positions, normals, samples, indices } = gridMesh(ground, x, y, step, edges);
    const count = positions.length / 3;
    const [place, upright, on] = [new Float32Array(count * 3), new Float32Array(count * 3), new Float32Array(count * 2)];
    const [w, h] = [Math.min(TILE, ground.nx - 1 - x * TILE), Math.min(TILE, ground.ny - 1 - y * TILE)];
    for (let k = 0; k < count; k++) {
      place.set([positions[k * 3] * m, positions[k * 3 + 2] * m, -positions[k * 3 + 1] * m], k * 3);
      upright.set([normals[k * 3], normals[k * 3 + 2], -normals[k * 3 + 1]], k * 3);
      on.set([(samples[k * 2] - x * TILE) / w, (samples[k * 2 + 1] - y * TILE) / h], k * 2);
    }
    const geometry = new BufferGeometry()
      .setAttribute('position', new BufferAttribute(place, 3))
      .setAttribute('normal', new BufferAttribute(upright, 3))
      .setAttribute('ground', new BufferAttribute(on, 2))
      .setIndex(new BufferAttribute(indices, 1));
    const { width, height, pictures } = weightPictures(ground, x, y, Math.min(8, Math.max(1, step)));
    const textures = pictures.map((data) => {
      const texture = new DataTexture(data, width, height, RGBAFormat);
      texture.minFilter = texture.magFilter = LinearFilter;
      texture.needsUpdate = true;
      return texture;
    });
    const mesh = new Mesh(geometry, groundMaterial(surfaces, textures, { texels: new Vector2(width, height) }, null));
    return { mesh, textures };
  }

  private drop({ mesh, textures }: TileEntry): void {
    this.group.remove(mesh);
    freeTree(mesh);
    textures.forEach((texture) => texture.dispose());
  }

  /** Things near the eye, one instanced mesh per part of their models. */
  private updateThings(source: AssetSource, grounds: readonly Ground[], eye: Vec3, m: number): void {
    // Made anew when the ground has changed, or the eye has come a good way.
    const place = eye.map((v) => Math.round((v * m) / 60));
    const of = [...grounds, ...place];
    if (of.length === this.thingsOf.length && of.every((value, i) => value === this.thingsOf[i])) return;
    this.thingsOf = of;
    const byModel = new Map<string, GroundThing[]>();
    for (const ground of grounds)
      for (let number = 0; number < ground.tiles.length; number++) {
        const [px, py] = ground.pointOf((number % ground.tilesX) * TILE, Math.floor(number / ground.tilesX) * TILE);
        const side = TILE * ground.terrain.spacing;
        if (Math.hypot(Math.max(px - eye[0], 0, eye[0] - px - side), Math.max(py - eye[1], 0, eye[1] - py - side)) * m > THINGS_TO) continue;
        for (const thing of ground.thingsOn(number)) {
          const { model } = ground.terrain.things[thing.kind];
          const list = byModel.get(model);
          if (list) list.push(thing);
          else byModel.set(model, [thing]);
        }
      }
    const wanted = [...byModel].map(async ([path, list]) => {
      const near = list
        .map((thing) => ({ thing, away: Math.hypot(thing.position[0] - eye[0], thing.position[1] - eye[1]) }))
        .filter(({ away }) => away * m <= THINGS_TO)
        .sort((a, b) => a.away - b.away)
        .slice(0, MOST_THINGS)
        .map(({ thing }) => thing);
      let model = this.models.get(path);
      if (!model) this.models.set(path, (model = loadModel(source, path)));
      return instances(await model, near, m);
    });
    void Promise.all(wanted).then((made) => {
      if (this.thingsOf !== of) return made.flat().forEach((mesh) => mesh.dispose());
      this.clearThings();
      made.flat().forEach((mesh) => this.things.add(mesh));
      this.onLoad();
    });
  }

  private clearThings(): void {
    for (const mesh of [...this.things.children] as InstancedMesh[]) {
      this.things.remove(mesh);
      mesh.dispose();
    }
  }

  dispose(): void {
    for (const entry of this.tiles.values()) this.drop(entry);
    this.tiles.clear();
    this.clearThings();
  }
}

/** A model many times. */
function instances(model: Object3D | null, things: readonly GroundThing[], m: number): InstancedMesh[] {
  const matrices = things.map((thing) => thingMatrix(thing, m));
  return partsOfModel(model).map(({ geometry, material, own }) => {
    const mesh = new InstancedMesh(geometry, material, things.length);
    matrices.forEach((matrix, i) => mesh.setMatrixAt(i, matrix.clone().multiply(own)));
    mesh.computeBoundingSphere();
    return mesh;
  });
}
