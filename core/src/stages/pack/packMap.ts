/** The files that the game loads, from what the stages made. */

import { encodeLight, encodePixels } from '../../asset/texture/encodeKtx2.ts';
import type { LightPicture } from '../../asset/texture/picture.ts';
import type { FileTree } from '../../crate/fileTree.ts';
import type { DaylightOutput } from '../ground/daylight.ts';
import { groundTriangles, type GroundOutput } from '../ground/stage.ts';
import type { LightingOutput } from '../lighting/stage.ts';
import type { OverviewOutput } from '../overview/stage.ts';
import type { NavigationOutput } from '../navigation/stage.ts';
import { cellsBefore, type SealingOutput, type SealTree } from '../sealing/stage.ts';
import type { Surface } from '../surface/surface.ts';
import type { VisibilityOutput } from '../visibility/stage.ts';
import { modelBodies } from './bodies.ts';
import { collisionOf, encodeCollision } from './collisionBin.ts';
import type { ReadFile } from './glbMaterials.ts';
import type { PackingInputs } from './inputs.ts';
import { mapGlb, type LitGround } from './mapGlb.ts';
import { encodeNavigation } from './navBin.ts';
import { encodeProbes } from './probesBin.ts';
import { encodeTerrains } from './terrainBin.ts';
import { soundFile } from './soundFile.ts';
import { runtimeMap } from './runtime.ts';
import { encodeVisibilityFile } from './visibilityBin.ts';

/** How space is divided, and what of it objects reach. */
export interface Sealed {
  tree: SealTree;
  output: SealingOutput;
}

export interface MapParts {
  surfaces: readonly Surface[];
  light: LightingOutput;
  sealed: Sealed | null;
  visibility: VisibilityOutput | null;
  navigation: NavigationOutput | null;
  ground: GroundOutput | null;
  daylight: DaylightOutput | null;
  overview: OverviewOutput | null;
  /** Reads the crate's own textures and models, which are then put into the GLB. */
  readFile?: ReadFile;
}

/** The map with its light as far as it is known: what can be looked at while the rest is computed. */
export async function packPicture(
  packing: PackingInputs,
  { surfaces, light }: Pick<MapParts, 'surfaces'> & { light: Pick<LightingOutput, 'atlas' | 'lit' | 'values'> },
  withMap: boolean,
): Promise<FileTree> {
  const files: FileTree = new Map([['lightmap.ktx2', await encodeLight(lightPicture(light))]]);
  if (withMap) {
    const plain = { packing, surfaces, light, groups: surfaces.map(() => 0), groupCount: 1, withLightmap: false };
    files.set('map.glb', (await mapGlb(plain)).glb);
  }
  return files;
}

/** Ground as decals lie on it; none where there are no decals. */
function litGrounds({ lying }: PackingInputs, ground: GroundOutput | null, daylight: DaylightOutput | null): LitGround[] {
  if (!ground || Object.keys(lying).length === 0) return [];
  return ground.grounds.map((one) => {
    const light = daylight?.grounds.find(({ id }) => id === one.id);
    return {
      triangles: groundTriangles(one, 0),
      light(x, y) {
        if (!light) return [1, 1, 1];
        const { width, height, stride, values } = light;
        const place = (v: number, k: 0 | 1, most: number) => Math.min(most - 1, Math.max(0, Math.round((v - one.origin[k]) / one.spacing / stride)));
        const at = (place(y, 1, height) * width + place(x, 0, width)) * 3;
        return [values[at], values[at + 1], values[at + 2]];
      },
    };
  });
}

export async function packMap(packing: PackingInputs, parts: MapParts, onProgress: (fraction: number) => void): Promise<FileTree> {
  const { surfaces, light, sealed, visibility, navigation, ground, daylight, overview } = parts;
  const { groupOf, groups } = drawnTogether(surfaces, sealed, visibility);
  const readFile = packing.parameters.embed === 'own' ? parts.readFile : undefined;
  const grounds = litGrounds(packing, ground, daylight);
  const { glb } = await mapGlb({ packing, surfaces, light, withLightmap: true, groups: groupOf, groupCount: groups.length, grounds, readFile });
  onProgress(0.8);
  const json = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));
  const files: [string, Uint8Array][] = [
    ['map.glb', glb],
    ['map.json', json(runtimeMap(packing, await modelBodies(packing, parts.readFile)))],
    ['collision.bin', encodeCollision(collisionOf(packing.collision, ground?.grounds ?? []))],
    ['visibility.bin', encodeVisibilityFile(sealed?.tree.bsp ?? null, visibility, groups)],
  ];
  if (light.lit.length > 0) files.push(['lightmap.ktx2', await encodeLight(lightPicture(light))]);
  if (sealed && packing.beds) files.push(['sound.json', json(soundFile(sealed))]);
  if (navigation) files.push(['nav.bin', encodeNavigation(navigation)]);
  if (light.probes) files.push(['probes.bin', encodeProbes(light.probes)]);
  if (ground) {
    files.push(['terrain.bin', encodeTerrains(ground.grounds, daylight)]);
    for (const { id, weights } of ground.grounds)
      for (const [n, data] of weights.pictures.entries())
        files.push([`weights_${id}_${n}.ktx2`, await encodePixels({ width: weights.width, height: weights.height, data })]);
    for (const { id, width, height, values } of daylight?.grounds ?? [])
      files.push([`daylight_${id}.ktx2`, await encodeLight(opaque(width, height, values))]);
  }
  files.push(...(overview ?? []));
  return new Map(files.map(([name, bytes]) => [`maps/${packing.name}/${name}`, bytes]));
}

/** The lightmap as it was computed: linear, as bright as it is, opaque. */
function lightPicture({ atlas, values }: Pick<LightingOutput, 'atlas' | 'values'>): LightPicture {
  return opaque(atlas.width, atlas.height, values);
}

function opaque(width: number, height: number, values: Float32Array): LightPicture {
  const light = new Float32Array(width * height * 4).fill(1);
  for (let i = 0; i < width * height; i++) light.set(values.subarray(i * 3, i * 3 + 3), i * 4);
  return { width, height, light };
}

/** Surfaces that face the same sectors are drawn together. */
function drawnTogether(
  surfaces: readonly Surface[],
  sealed: Sealed | null,
  visibility: VisibilityOutput | null,
): { groupOf: number[]; groups: number[][] } {
  if (!sealed || !visibility) return { groupOf: surfaces.map(() => 0), groups: [[]] };
  const sectorOf = new Map(visibility.leaves.map((leaf, cell) => [leaf, visibility.sectors[cell]]));
  const numbers = new Map<string, number>();
  const groups: number[][] = [];
  const groupOf = surfaces.map((surface) => {
    const sectors = [...new Set(cellsBefore(sealed.tree.bsp, surface).flatMap((leaf) => sectorOf.get(leaf) ?? []))].sort((a, b) => a - b);
    const key = sectors.join();
    if (!numbers.has(key)) {
      numbers.set(key, groups.length);
      groups.push(sectors);
    }
    return numbers.get(key)!;
  });
  return { groupOf, groups };
}
