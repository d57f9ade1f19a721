/**
 * The map as one GLB by the glTF 2.0 standard: metres, +Y up. One mesh per group of surfaces that are drawn together
 * (`extras.group` of its node, see visibilityBin.ts), one primitive per material; TEXCOORD_0 in
 * repeats of the material's texture, TEXCOORD_1 into the lightmap. Textures stay with the crate or the
 * game and are found by the material's name; the lightmap lies in the file and every lit material names
 * it in `extras.lightmap`: { image, texCoord, range }.
 */

import { Document, WebIO, type Material } from '@gltf-transform/core';
import type { Vec3 } from '../../math/vec3.ts';
import type { LightingOutput } from '../lighting/stage.ts';
import { lightmapUv } from '../lighting/charts.ts';
import type { BuildMaterial, Surface } from '../surface.ts';
import type { MaterialType } from '../../profile/schema.ts';
import { LIGHTMAP_RANGE, lightmapPng } from './lightmapPng.ts';

/** Map space (z up, units) to glTF space (y up, metres). */
export const toGltf = (p: Vec3, metresPerUnit: number): Vec3 => [p[0] * metresPerUnit, p[2] * metresPerUnit, 0 - p[1] * metresPerUnit];

interface Batch {
  positions: number[];
  normals: number[];
  uv: number[];
  lightUv: number[];
  indices: number[];
}

/**
 * @param groups by surface, the group that it is drawn with: every group becomes a mesh of its own, in order
 * @param groupCount number of groups
 */
export async function mapGlb(
  surfaces: readonly Surface[],
  groups: readonly number[],
  groupCount: number,
  light: LightingOutput,
  materials: Record<string, BuildMaterial>,
  types: Record<string, MaterialType>,
  metresPerUnit: number,
  name: string,
): Promise<{ glb: Uint8Array; triangles: number }> {
  const chartOf = new Map<number, (typeof light.atlas.charts)[number]>();
  for (const chart of light.atlas.charts) for (const index of chart.surfaces) chartOf.set(light.lit[index], chart);

  const batches = Array.from({ length: groupCount }, () => new Map<string, Batch>());
  surfaces.forEach((surface, index) => {
    if (types[materials[surface.material]?.type]?.sky) return;
    const own = batches[groups[index]];
    let batch = own.get(surface.material);
    if (!batch) own.set(surface.material, (batch = { positions: [], normals: [], uv: [], lightUv: [], indices: [] }));
    const first = batch.positions.length / 3;
    const chart = chartOf.get(index);
    surface.winding.forEach((point, corner) => {
      batch.positions.push(...toGltf(point, metresPerUnit));
      batch.normals.push(...toGltf(surface.normal, 1));
      batch.uv.push(...surface.uv[corner]);
      batch.lightUv.push(...(chart ? lightmapUv(light.atlas, chart, point) : [0, 0]));
      if (corner >= 2) batch.indices.push(first, first + corner - 1, first + corner);
    });
  });

  const document = new Document();
  document.getRoot().getAsset().generator = 'Violet Crate';
  const buffer = document.createBuffer();
  const anyLit = light.lit.length > 0;
  if (anyLit)
    document
      .createTexture('lightmap')
      .setMimeType('image/png')
      .setImage(lightmapPng(light.atlas.width, light.atlas.height, light.values));
  const made = new Map<string, Material>();
  const materialOf = (material: string): Material => {
    if (!made.has(material)) made.set(material, gltfMaterial(document, materials[material], types[materials[material].type], anyLit));
    return made.get(material)!;
  };
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const scene = document.createScene(name);
  let triangles = 0;
  batches.forEach((own, group) => {
    if (own.size === 0) return;
    const mesh = document.createMesh(`${name} ${group}`);
    for (const [materialName, batch] of [...own].sort(([a], [b]) => (a < b ? -1 : 1))) {
      mesh.addPrimitive(
        document
          .createPrimitive()
          .setMaterial(materialOf(materialName))
          .setAttribute('POSITION', accessor('VEC3', floats(batch.positions)))
          .setAttribute('NORMAL', accessor('VEC3', floats(batch.normals)))
          .setAttribute('TEXCOORD_0', accessor('VEC2', floats(batch.uv)))
          .setAttribute('TEXCOORD_1', accessor('VEC2', floats(batch.lightUv)))
          .setIndices(accessor('SCALAR', Uint32Array.from(batch.indices))),
      );
      triangles += batch.indices.length / 3;
    }
    scene.addChild(document.createNode(`group-${group}`).setMesh(mesh).setExtras({ group }));
  });
  document.getRoot().setDefaultScene(scene);
  return { glb: await new WebIO().writeBinary(document), triangles };
}

/** Negative zeros become zeros: a stage that comes from the cache has lost their sign, and equal maps have equal bytes. */
const floats = (values: readonly number[]): Float32Array => Float32Array.from(values, (v) => v + 0);

function gltfMaterial(document: Document, material: BuildMaterial, type: MaterialType | undefined, anyLit: boolean): Material {
  const opaque = type?.opaque ?? true;
  const result = document
    .createMaterial(material.name)
    .setBaseColorFactor([...material.albedo, opaque || material.type === 'cutout' ? 1 : 0.6])
    .setMetallicFactor(0)
    .setRoughnessFactor(1)
    .setExtras(type?.lit && anyLit ? { lightmap: { image: 0, texCoord: 1, range: LIGHTMAP_RANGE } } : {});
  if (!opaque) result.setAlphaMode(material.type === 'cutout' ? 'MASK' : 'BLEND');
  return result;
}
