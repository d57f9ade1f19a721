import type { Quality } from '../stage.ts';
import type { BuildMaterial, Surface } from '../surface.ts';
import type { MaterialType } from '../../profile/schema.ts';
import { layOutCharts, type Atlas } from './charts.ts';
import { lightAtlas, type LightingOptions, type PointLight, type SunLight } from './light.ts';

export const LIGHT_OPTIONS: Record<Quality, LightingOptions> = {
  draft: { hemisphereRays: 16, supersample: 1, sunRays: 4 },
  preview: { hemisphereRays: 32, supersample: 1, sunRays: 8 },
  final: { hemisphereRays: 64, supersample: 2, sunRays: 16 },
};

export interface LightingStageInputs {
  surfaces: readonly Surface[];
  materials: Record<string, BuildMaterial>;
  types: Record<string, MaterialType>;
  lights: PointLight[];
  suns: SunLight[];
  sky: { colour: [number, number, number]; radiance: number };
  metresPerUnit: number;
  luxel: number;
}

export interface LightingOutput {
  atlas: Atlas;
  /** Surface of every chart entry: indices into `lit`, which are indices into the given surfaces. */
  lit: number[];
  values: Float32Array;
}

export function buildLighting(inputs: LightingStageInputs, options: LightingOptions, onProgress: (fraction: number) => void): LightingOutput {
  const typeOf = (surface: Surface): MaterialType | undefined => inputs.types[inputs.materials[surface.material]?.type];
  const lit: number[] = [];
  inputs.surfaces.forEach((surface, index) => {
    if (typeOf(surface)?.lit && !typeOf(surface)?.sky) lit.push(index);
  });
  const litSurfaces = lit.map((index) => inputs.surfaces[index]);
  const atlas = layOutCharts(litSurfaces, inputs.luxel);

  const corners: number[] = [];
  const owners: number[] = [];
  const litIndex = new Map(lit.map((surface, index) => [surface, index]));
  inputs.surfaces.forEach((surface, index) => {
    const type = typeOf(surface);
    if (!type?.opaque || type.sky) return;
    for (let i = 2; i < surface.winding.length; i++) {
      corners.push(...surface.winding[0], ...surface.winding[i - 1], ...surface.winding[i]);
      owners.push(litIndex.get(index) ?? -1);
    }
  });
  const values = lightAtlas(
    {
      surfaces: litSurfaces,
      occluders: Float32Array.from(corners),
      occluderSurface: Int32Array.from(owners),
      lights: inputs.lights,
      suns: inputs.suns,
      sky: inputs.sky,
      albedo: (name) => inputs.materials[name]?.albedo ?? [0.5, 0.5, 0.5],
      metresPerUnit: inputs.metresPerUnit,
    },
    atlas,
    options,
    onProgress,
  );
  return { atlas, lit, values };
}

/** Layout: u32 length of the JSON head (little endian), the head (atlas and lit), padding to 4, float32 values. */
export function encodeLighting(output: LightingOutput): Uint8Array {
  const head = new TextEncoder().encode(JSON.stringify({ atlas: output.atlas, lit: output.lit }));
  const start = 4 + Math.ceil(head.length / 4) * 4;
  const bytes = new Uint8Array(start + output.values.byteLength);
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  bytes.set(new Uint8Array(output.values.buffer, output.values.byteOffset, output.values.byteLength), start);
  return bytes;
}

export function decodeLighting(bytes: Uint8Array): LightingOutput {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length))) as Pick<LightingOutput, 'atlas' | 'lit'>;
  const start = 4 + Math.ceil(length / 4) * 4;
  return { ...head, values: new Float32Array(bytes.slice(start).buffer) };
}
