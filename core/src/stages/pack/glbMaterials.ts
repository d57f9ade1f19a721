/** The materials of a packed map: mean colours, and the crate's own pictures as KTX2 where they are wanted. */

import type { Document, Material, Texture } from '@gltf-transform/core';
import { KHRTextureBasisu } from '@gltf-transform/extensions';
import type { OwnFile, PackingInputs } from './inputs.ts';
import { LIGHTMAP_RANGE } from './lightmapPng.ts';

/** Contents of a file of the crate, or nothing where files are not to be embedded. */
export type ReadFile = (path: string) => Promise<Uint8Array>;

/** Makes materials by name, each once. */
export class GlbMaterials {
  private readonly made = new Map<string, Material>();
  private readonly textures = new Map<string, Texture>();

  constructor(
    private readonly document: Document,
    private readonly inputs: Pick<PackingInputs, 'materials' | 'types'>,
    private readonly anyLit: boolean,
    private readonly readFile: ReadFile | undefined,
  ) {}

  /**
   * @param decal level of the decals that it is for, see decal/lay.ts; without it, it is for surfaces
   * @param onGround its light is in the colours of its corners
   */
  async get(name: string, decal?: number, onGround = false): Promise<Material> {
    const key = decal === undefined ? name : `${name}\n${decal} ${onGround}`;
    const known = this.made.get(key);
    if (known) return known;
    const { albedo, type: typeName } = this.inputs.materials[name];
    const type = this.inputs.types[typeName];
    const opaque = decal === undefined && (type?.opaque ?? true);
    const cutout = decal === undefined && typeName === 'cutout';
    const material = this.document
      .createMaterial(name)
      .setBaseColorFactor([...albedo, opaque || cutout || decal !== undefined ? 1 : 0.6])
      .setMetallicFactor(0)
      .setRoughnessFactor(1)
      .setExtras({
        colour: albedo,
        ...(decal === undefined ? {} : { decal }),
        ...(type?.lit && this.anyLit && !onGround ? { lightmap: { image: 0, texCoord: 1, range: LIGHTMAP_RANGE } } : {}),
      });
    if (!opaque) material.setAlphaMode(cutout ? 'MASK' : 'BLEND');
    this.made.set(key, material);
    await this.dress(material, name);
    return material;
  }

  /** Stock pictures must not travel: a material that has some is found by its name, as all are. */
  private async dress(material: Material, name: string): Promise<void> {
    const { pictures, roughness, metalness, emission } = this.inputs.materials[name];
    const picture = async (file: OwnFile | undefined): Promise<Texture | null> => {
      if (!file || !this.readFile || !file.path.endsWith('.ktx2')) return null;
      const { path } = file;
      const known = this.textures.get(path);
      if (known) return known;
      this.document.createExtension(KHRTextureBasisu).setRequired(true);
      const made = this.document
        .createTexture(path)
        .setMimeType('image/ktx2')
        .setImage((await this.readFile(path)) as Uint8Array<ArrayBuffer>);
      this.textures.set(path, made);
      return made;
    };
    const colour = await picture(pictures.texture);
    if (colour) material.setBaseColorTexture(colour).setBaseColorFactor([1, 1, 1, material.getAlpha()]);
    material.setNormalTexture(await picture(pictures.normal));
    const orm = await picture(pictures.packed);
    if (orm) material.setOcclusionTexture(orm).setMetallicRoughnessTexture(orm);
    if (orm || roughness !== undefined) material.setRoughnessFactor(roughness ?? 1);
    if (orm || metalness !== undefined) material.setMetallicFactor(metalness ?? 0);
    const glow = await picture(pictures.emissionMap);
    // The factor multiplies the picture, and is 0 unless it is said.
    if (glow) material.setEmissiveTexture(glow).setEmissiveFactor([1, 1, 1]);
    // It ends at 1; brighter light is in the lightmap of what it falls on.
    else if (emission.some((v) => v > 0)) material.setEmissiveFactor(emission.map((v) => Math.min(1, v)) as [number, number, number]);
  }
}
