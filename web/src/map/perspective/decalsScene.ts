/** Decals in the perspective: cut to the solids and the ground that they lie on, drawn over them in their order. */

import { BufferAttribute, BufferGeometry, Color, DoubleSide, Group, Mesh, MeshLambertMaterial } from 'three';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { lifted } from '@violet-crate/core/decal/lay';
import { DecalPieces } from '@violet-crate/core/decal/pieces';
import type { Decal, Overlay, Solid } from '@violet-crate/core/document/schema';
import { linearOfHex } from '@violet-crate/core/math/srgb';
import type { Ground } from '@violet-crate/core/terrain/ground';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { AssetSource } from '../../api/assetUrl.ts';
import { previewTexture } from '../../three/assets3d.ts';
import { DECAL_MATERIAL } from '../../three/decalMaterial.ts';
import { freeTree } from '../../three/stage3d.ts';

/** Decals of neighbouring numbers, one material and one order are one mesh. */
const CHUNK = 64;

export interface DecalsLook {
  world: CrateWorld;
  source: AssetSource;
  /** Ground that decals may lie on, beside the solids. */
  grounds?: readonly Ground[];
  shown(id: string): boolean;
  onTexture(): void;
}

export class DecalsScene {
  readonly group = new Group();
  private readonly pieces = new DecalPieces();
  private readonly meshes = new Map<string, Mesh>();
  private of = new Map<string, string>();
  private context: readonly unknown[] = [];

  /** @param context what else changes how they look: where a part of it is another value, all are made anew */
  update(decals: Record<string, Decal | Overlay>, solids: Record<string, Solid>, look: DecalsLook, context: readonly unknown[]): void {
    const anew = this.pieces.update(decals, solids, look.grounds);
    const all = context.length !== this.context.length || context.some((value, i) => value !== this.context[i]);
    this.context = context;
    const of = new Map<string, string>();
    for (const id in decals) if (look.shown(id)) of.set(id, meshKey(id, decals[id]));
    const stale = new Set<string>();
    for (const map of [of, this.of]) for (const [id, key] of map) if (all || anew.has(id) || of.get(id) !== this.of.get(id)) stale.add(key);
    this.of = of;
    if (stale.size === 0) return;
    const members = new Map<string, string[]>([...stale].map((key) => [key, []]));
    for (const [id, key] of of) members.get(key)?.push(id);
    for (const [key, ids] of members) {
      const known = this.meshes.get(key);
      if (known) {
        freeTree(known);
        this.group.remove(known);
        this.meshes.delete(key);
      }
      const mesh = ids.length > 0 ? this.mesh(ids, decals, look) : null;
      if (!mesh) continue;
      this.meshes.set(key, mesh);
      this.group.add(mesh);
    }
  }

  private mesh(ids: readonly string[], decals: Record<string, Decal | Overlay>, { world, source, onTexture }: DecalsLook): Mesh | null {
    const metres = world.profile.unit.metres;
    const [positions, normals, uvs, colours, indices]: number[][] = [[], [], [], [], []];
    for (const id of ids) {
      const tint = linearOfHex(decals[id].tint);
      for (const piece of this.pieces.get(id)) {
        const first = positions.length / 3;
        lifted({ ...piece, rank: 1 }, metres).forEach((point, i) => {
          positions.push(...toGltf(point, metres));
          normals.push(...toGltf(piece.normal, 1));
          uvs.push(...piece.uv[i]);
          colours.push(...tint, piece.alpha[i]);
          if (i >= 2) indices.push(first, first + i - 1, first + i);
        });
      }
    }
    if (indices.length === 0) return null;
    const { material: name, order } = decals[ids[0]];
    const found = findMaterial(world, name)?.material;
    const texture = found ? previewTexture(source, found, onTexture) : null;
    const geometry = new BufferGeometry();
    const attribute = (values: number[], size: number) => new BufferAttribute(Float32Array.from(values), size);
    geometry.setAttribute('position', attribute(positions, 3)).setAttribute('normal', attribute(normals, 3));
    geometry.setAttribute('uv', attribute(uvs, 2)).setAttribute('color', attribute(colours, 4)).setIndex(indices);
    const material = new MeshLambertMaterial({
      ...DECAL_MATERIAL,
      color: new Color(texture ? '#ffffff' : (found?.colour ?? '#ff6a5a')),
      map: texture,
      side: DoubleSide,
    });
    const mesh = new Mesh(geometry, material);
    mesh.renderOrder = 1 + order + Number(ids[0].replace(/\D/g, '')) * 1e-6;
    return mesh;
  }
}

const meshKey = (id: string, { material, order }: Decal | Overlay): string =>
  `${Math.floor(Number(id.replace(/\D/g, '')) / CHUNK)} ${order} ${material}`;
