/** The ground of a build: `terrain.bin` with its pictures, drawn by distance, and what stands on it in clusters. */

import {
  BufferAttribute,
  BufferGeometry,
  Color,
  Group,
  InstancedMesh,
  LinearFilter,
  type Material,
  Mesh,
  NoColorSpace,
  Vector2,
  type Object3D,
  type Texture,
  type WebGLRenderer,
} from 'three';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import type { GameMap } from '@violet-crate/core/document/schema';
import { mapSuns } from '@violet-crate/core/map/lights';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { decodeTerrains, type TerrainFile } from '@violet-crate/core/stages/pack/terrainBin';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { BLOCK } from '@violet-crate/core/terrain/mesh/rightTriangles';
import type { AssetSource } from '../api/assetUrl.ts';
import { loadModel } from './assets3d.ts';
import type { BuiltMap } from './builtMap.ts';
import { daylightLamps } from './daylight.ts';
import { groundMaterial } from './groundMaterial.ts';
import { ktx2Loader } from './ktx2.ts';
import { freeTree } from './stage3d.ts';
import { thingMatrix, partsOfModel } from './things.ts';

/** Reads one of the build's files by its name; undefined where there is none. */
export type ReadBuilt = (name: string) => Promise<ArrayBuffer | undefined>;

/** Metres up to which the finest level is drawn; each further one reaches three times as far. */
const NEAR = 220;
const FARTHER = 3;

/** How many of a cluster's things are drawn, by how large they are in the picture: all of them down to this share of its height. */
const WHOLE_AT = 0.03;
/** Below this they are left out. */
const GONE_AT = 0.0035;

interface Block {
  levels: Mesh[];
  centre: Vec3;
  radius: number;
}

interface DrawnCluster {
  meshes: InstancedMesh[];
  centre: Vec3;
  radius: number;
  count: number;
  /** Height of one thing, metres. */
  tall: number;
}

export class BuiltGround {
  readonly group = new Group();
  private readonly blocks: Block[] = [];
  private readonly clusters: DrawnCluster[] = [];
  private readonly textures: Texture[] = [];
  private readonly m: number;

  constructor(
    private readonly world: CrateWorld,
    private readonly source: AssetSource,
    private readonly renderer: WebGLRenderer,
    private readonly built: BuiltMap,
  ) {
    this.m = world.profile.unit.metres;
  }

  /** False where the build has no ground. */
  async load(read: ReadBuilt): Promise<boolean> {
    const bytes = await read('terrain.bin');
    if (!bytes) return false;
    for (const terrain of decodeTerrains(new Uint8Array(bytes))) await this.lay(terrain, read);
    return true;
  }

  private async picture(bytes: ArrayBuffer): Promise<Texture> {
    const loader = ktx2Loader(this.renderer);
    const texture = await new Promise<Texture>((resolve, reject) => loader.parse(bytes, resolve, reject));
    loader.dispose();
    texture.colorSpace = NoColorSpace;
    texture.minFilter = texture.magFilter = LinearFilter;
    texture.generateMipmaps = false;
    texture.needsUpdate = true;
    this.textures.push(texture);
    return texture;
  }

  private async lay(terrain: TerrainFile, read: ReadBuilt): Promise<void> {
    const { weights, light, origin, spacing, nx, ny } = terrain;
    const pictures = await Promise.all(Array.from({ length: weights.pictures }, (_, n) => read(`weights_${terrain.id}_${n}.ktx2`)));
    const daylight = light ? await read(`daylight_${terrain.id}.ktx2`) : undefined;
    const surfaces = await Promise.all(
      terrain.surfaces.map(async ({ material }) => {
        const found = findMaterial(this.world, material)?.material;
        return {
          texture: await this.built.textureOf(material),
          colour: new Color(found?.colour ?? '#ff6a5a'),
          repeats: found ? 1 / (found.unitsPerRepeat * this.m) : 0,
        };
      }),
    );
    const material = groundMaterial(
      surfaces,
      await Promise.all(pictures.map((bytes) => (bytes ? this.picture(bytes) : null))),
      { texels: new Vector2(weights.width, weights.height) },
      daylight && light ? { texture: await this.picture(daylight), texels: new Vector2(light.width, light.height) } : null,
    );
    const byBlock = new Map<string, Block>();
    for (const { x, y, level, vertices, indices } of terrain.blocks) {
      const count = vertices.length / 3;
      const [place, on] = [new Float32Array(count * 3), new Float32Array(count * 2)];
      let [low, high] = [Infinity, -Infinity];
      for (let k = 0; k < count; k++) {
        const [i, j, height] = [vertices[k * 3], vertices[k * 3 + 1], vertices[k * 3 + 2]];
        place.set(toGltf([origin[0] + i * spacing, origin[1] + j * spacing, height], this.m), k * 3);
        on.set([i / (nx - 1), j / (ny - 1)], k * 2);
        low = Math.min(low, height);
        high = Math.max(high, height);
      }
      const geometry = new BufferGeometry()
        .setAttribute('position', new BufferAttribute(place, 3))
        .setAttribute('ground', new BufferAttribute(on, 2))
        .setIndex(new BufferAttribute(indices, 1));
      // Lit by its picture; normals are asked for by the shader all the same.
      geometry.setAttribute(
        'normal',
        new BufferAttribute(
          Float32Array.from({ length: count * 3 }, (_, k) => (k % 3 === 1 ? 1 : 0)),
          3,
        ),
      );
      const mesh = new Mesh(geometry, material);
      mesh.visible = level === 0;
      this.group.add(mesh);
      let block = byBlock.get(`${x}/${y}`);
      if (!block) {
        const middle = (v: number, o: number) => o + (v + 0.5) * BLOCK * spacing;
        block = {
          levels: [],
          centre: [middle(x, origin[0]), middle(y, origin[1]), (low + high) / 2],
          radius: Math.hypot(BLOCK * spacing * Math.SQRT1_2, (high - low) / 2),
        };
        byBlock.set(`${x}/${y}`, block);
        this.blocks.push(block);
      }
      block.levels[level] = mesh;
    }
    await this.plant(terrain);
  }

  private async plant({ clusters, kinds }: TerrainFile): Promise<void> {
    const models = await Promise.all(kinds.map(({ model }) => loadModel(this.source, model)));
    for (const { kind, centre, radius, things } of clusters) {
      const parts = partsOfModel(models[kind] as Object3D | null);
      const count = things.length / 8;
      const matrices = Array.from({ length: count }, (_, n) => {
        const at = n * 8;
        return thingMatrix(
          {
            position: [things[at], things[at + 1], things[at + 2]],
            up: [things[at + 3], things[at + 4], things[at + 5]],
            turn: things[at + 6],
            scale: things[at + 7],
          },
          this.m,
        );
      });
      const meshes = parts.map(({ geometry, material, own }) => {
        const mesh = new InstancedMesh(geometry, material, count);
        matrices.forEach((matrix, n) => mesh.setMatrixAt(n, matrix.clone().multiply(own)));
        mesh.computeBoundingSphere();
        this.group.add(mesh);
        return mesh;
      });
      const [first] = parts;
      first.geometry.computeBoundingBox();
      const tall = Math.max(
        0.5,
        ...parts.map(({ geometry }) => (geometry.computeBoundingBox(), geometry.boundingBox!.max.y - geometry.boundingBox!.min.y)),
      );
      this.clusters.push({ meshes, centre, radius, count, tall });
    }
  }

  /** Shows triangles as their edges, or as they are. */
  showEdges(edges: boolean): void {
    for (const { levels } of this.blocks) for (const { material } of levels) (material as Material & { wireframe: boolean }).wireframe = edges;
  }

  /** Draws what is near finely, what is far coarsely, and leaves out what would be specks. @param eye in map units */
  update(eye: Vec3): void {
    for (const { levels, centre, radius } of this.blocks) {
      const away = (Math.hypot(centre[0] - eye[0], centre[1] - eye[1], centre[2] - eye[2]) - radius) * this.m;
      let level = 0;
      while (level < levels.length - 1 && away > NEAR * FARTHER ** level) level++;
      levels.forEach((mesh, n) => (mesh.visible = n === level));
    }
    for (const { meshes, centre, radius, count, tall } of this.clusters) {
      const away = Math.max(1, (Math.hypot(centre[0] - eye[0], centre[1] - eye[1], centre[2] - eye[2]) - radius) * this.m);
      const size = tall / away;
      const share = Math.min(1, Math.max(0, (size - GONE_AT) / (WHOLE_AT - GONE_AT)));
      const shown = size <= GONE_AT ? 0 : Math.max(1, Math.round(count * Math.max(0.3, share)));
      for (const mesh of meshes) {
        mesh.visible = shown > 0;
        mesh.count = shown;
      }
    }
  }

  dispose(): void {
    freeTree(this.group);
    this.textures.forEach((texture) => texture.dispose());
  }
}

/** The ground of a build with lamps for what stands on it, to be looked at from outside; null where the build has none. */
export async function groundInDaylight(
  world: CrateWorld,
  source: AssetSource,
  renderer: WebGLRenderer,
  built: BuiltMap,
  { settings, objects }: Pick<GameMap, 'settings' | 'objects'>,
  read: ReadBuilt,
): Promise<BuiltGround | null> {
  const ground = new BuiltGround(world, source, renderer, built);
  if (!(await ground.load(read))) return null;
  ground.group.add(daylightLamps(mapSuns(world.profile, { objects }), settings));
  return ground;
}
