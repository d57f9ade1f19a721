/**
 * The map as one GLB by the glTF 2.0 standard: metres, +Y up. One mesh per group of surfaces that are drawn together
 * (`extras.group` of its node, see visibilityBin.ts), one primitive per material; TEXCOORD_0 in
 * repeats of the material's texture, TEXCOORD_1 into the lightmap. Materials are named as in the crate or the
 * game, whose pictures stay there; the crate's own lie in the file. The lightmap lies in the file and every lit material
 * names it in `extras.lightmap`: { image, texCoord, range }. Decals are primitives of the mesh that they lie on, cut to its surfaces, with their
 * tint and cover in COLOR_0; their materials have `extras.decal`, the level at which they are drawn. Those on ground are a mesh of their own without a group, cut to
 * the finest triangles of the ground, whose light is multiplied into COLOR_0. Lamps and models are nodes of their own (glbObjects.ts).
 */

import { Document, WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRTextureBasisu } from '@gltf-transform/extensions';
import type { LightingOutput } from '../lighting/stage.ts';
import { lightmapUv } from '../lighting/charts.ts';
import type { Surface } from '../surface/surface.ts';
import { GlbMaterials, type ReadFile } from './glbMaterials.ts';
import { addObjects } from './glbObjects.ts';
import { hostsOf, layCounts, layDecals, lifted } from '../../decal/lay.ts';
import { trianglesNear } from '../../decal/onGround.ts';
import { throwing } from '../../decal/throwing.ts';
import { linearOfHex } from '../../math/srgb.ts';
import type { Winding } from '../../solid/winding.ts';
import { toGltf } from './gltfSpace.ts';
import type { PackingInputs } from './inputs.ts';
import { lightmapPng } from './lightmapPng.ts';
import { own } from '../../own.ts';

interface Batch {
  material: string;
  /** Level of its decals; -1 where they are surfaces. */
  level: number;
  positions: number[];
  /** Of decals: red, green, blue, linear, and cover. */
  colours: number[];
  normals: number[];
  uv: number[];
  lightUv: number[];
  indices: number[];
}

export interface MapGlbInputs {
  packing: PackingInputs;
  surfaces: readonly Surface[];
  /** By surface, the group that it is drawn with: every group becomes a mesh of its own, in order. */
  groups: readonly number[];
  groupCount: number;
  light: Pick<LightingOutput, 'atlas' | 'lit' | 'values'>;
  /** Whether the lightmap is put into the file; its coordinates always are. */
  withLightmap: boolean;
  /** Ground that decals may lie on. */
  grounds?: readonly LitGround[];
  /** Reads the crate's own textures and models, which are then put into the file. */
  readFile?: ReadFile;
}

/** Ground as it is drawn from nearby: nine numbers a triangle, map space, and the light of a place (E/π, linear). */
export interface LitGround {
  triangles: Float32Array;
  light(x: number, y: number): readonly [number, number, number];
}

export async function mapGlb(inputs: MapGlbInputs): Promise<{ glb: Uint8Array; triangles: number; decals: ReturnType<typeof layCounts> }> {
  const { packing, surfaces, groups, groupCount, light, readFile } = inputs;
  const { name, materials, types, metresPerUnit } = packing;
  const chartOf = new Map<number, (typeof light.atlas.charts)[number]>();
  for (const chart of light.atlas.charts) for (const index of chart.surfaces) chartOf.set(light.lit[index], chart);

  const batches = Array.from({ length: groupCount }, () => new Map<string, Batch>());
  const batchOf = (index: number, material: string, level: number): Batch => {
    const ofGroup = batches[groups[index]];
    const key = `${String(level + 1).padStart(4, '0')} ${material}`;
    const known = ofGroup.get(key);
    if (known) return known;
    const batch: Batch = { material, level, positions: [], normals: [], colours: [], uv: [], lightUv: [], indices: [] };
    ofGroup.set(key, batch);
    return batch;
  };
  /** A convex polygon on a surface. @param on the same polygon in the plane of the surface, whose light it has */
  const put = (batch: Batch, index: number, winding: Winding, uv: readonly [number, number][], on: Winding) => {
    const first = batch.positions.length / 3;
    const chart = chartOf.get(index);
    winding.forEach((point, corner) => {
      batch.positions.push(...toGltf(point, metresPerUnit));
      batch.normals.push(...toGltf(surfaces[index].normal, 1));
      batch.uv.push(...uv[corner]);
      batch.lightUv.push(...(chart ? lightmapUv(light.atlas, chart, on[corner]) : [0, 0]));
      if (corner >= 2) batch.indices.push(first, first + corner - 1, first + corner);
    });
  };
  const isSky = (surface: Surface) => types[own(materials, surface.material)?.type ?? '']?.sky;
  surfaces.forEach((surface, index) => {
    if (!isSky(surface)) put(batchOf(index, surface.material, -1), index, surface.winding, surface.uv, surface.winding);
  });
  const boxes = Object.values(packing.lying).map((one) => throwing(one).box);
  const groundHosts = (inputs.grounds ?? []).flatMap(({ triangles, light: lightAt }) =>
    trianglesNear(triangles, boxes).map((host) => ({ ...host, lightAt })),
  );
  const laid = layDecals(packing.lying, hostsOf([...surfaces, ...groundHosts])).filter(
    ({ host }) => host >= surfaces.length || !isSky(surfaces[host]),
  );
  const onGround = new Map<string, Batch>();
  for (const piece of laid) {
    const { material, tint } = packing.lying[piece.decal];
    if (piece.host >= surfaces.length) {
      const key = `${String(piece.level + 1).padStart(4, '0')} ${material}`;
      const batch = onGround.get(key) ?? { material, level: piece.level, positions: [], normals: [], colours: [], uv: [], lightUv: [], indices: [] };
      onGround.set(key, batch);
      const first = batch.positions.length / 3;
      const colour = linearOfHex(tint);
      const { lightAt } = groundHosts[piece.host - surfaces.length];
      lifted(piece, metresPerUnit).forEach((point, corner) => {
        const light = lightAt(point[0], point[1]);
        batch.positions.push(...toGltf(point, metresPerUnit));
        batch.normals.push(...toGltf(piece.normal, 1));
        batch.uv.push(...piece.uv[corner]);
        batch.lightUv.push(0, 0);
        batch.colours.push(...colour.map((value, k) => value * light[k]), piece.alpha[corner]);
        if (corner >= 2) batch.indices.push(first, first + corner - 1, first + corner);
      });
      continue;
    }
    const batch = batchOf(piece.host, material, piece.level);
    const colour = linearOfHex(tint);
    for (const alpha of piece.alpha) batch.colours.push(...colour, alpha);
    put(batch, piece.host, lifted(piece, metresPerUnit), piece.uv, piece.winding);
  }

  const document = new Document();
  document.getRoot().getAsset().generator = 'Violet Crate';
  const buffer = document.createBuffer();
  const anyLit = light.lit.length > 0;
  if (anyLit && inputs.withLightmap)
    document
      .createTexture('lightmap')
      .setMimeType('image/png')
      .setImage(lightmapPng(light.atlas.width, light.atlas.height, light.values));
  const dressed = new GlbMaterials(document, packing, anyLit, readFile);
  const accessor = (type: 'VEC4' | 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const scene = document.createScene(name);
  let triangles = 0;
  // What lies on the ground is drawn with no group, so that it is always there.
  for (const [group, ofGroup] of [...batches, onGround].entries()) {
    if (ofGroup.size === 0) continue;
    const ground = ofGroup === onGround;
    const mesh = document.createMesh(ground ? `${name} on the ground` : `${name} ${group}`);
    for (const [, batch] of [...ofGroup].sort(([a], [b]) => (a < b ? -1 : 1))) {
      const primitive = document
        .createPrimitive()
        .setMaterial(await dressed.get(batch.material, batch.level < 0 ? undefined : batch.level, ground))
        .setAttribute('POSITION', accessor('VEC3', floats(batch.positions)))
        .setAttribute('NORMAL', accessor('VEC3', floats(batch.normals)))
        .setAttribute('TEXCOORD_0', accessor('VEC2', floats(batch.uv)))
        .setAttribute('TEXCOORD_1', accessor('VEC2', floats(batch.lightUv)))
        .setIndices(accessor('SCALAR', Uint32Array.from(batch.indices)));
      if (batch.level >= 0) primitive.setAttribute('COLOR_0', accessor('VEC4', floats(batch.colours)));
      mesh.addPrimitive(primitive);
      triangles += batch.indices.length / 3;
    }
    const node = ground ? document.createNode('on-ground') : document.createNode(`group-${group}`).setExtras({ group });
    scene.addChild(node.setMesh(mesh));
  }
  await addObjects(document, scene, packing, readFile);
  document.getRoot().setDefaultScene(scene);
  return {
    glb: await new WebIO().registerExtensions([KHRLightsPunctual, KHRTextureBasisu]).writeBinary(document),
    triangles,
    decals: layCounts(laid),
  };
}

/** Negative zeros become zeros: a stage that comes from the cache has lost their sign, and equal maps have equal bytes. */
const floats = (values: readonly number[]): Float32Array => Float32Array.from(values, (v) => v + 0);
