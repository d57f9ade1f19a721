/** The map.glb of a build, dressed with the crate's textures and its lightmap. */

import {
  Color,
  EquirectangularReflectionMapping,
  LinearFilter,
  MeshBasicMaterial,
  MeshLambertMaterial,
  RepeatWrapping,
  SRGBColorSpace,
  Texture,
  type Mesh,
  type DataTexture,
  type MeshStandardMaterial,
  type Object3D,
  type WebGLRenderer,
} from 'three';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { KTX2Loader } from 'three/examples/jsm/loaders/KTX2Loader.js';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { ktx2Loader } from './ktx2.ts';
import { DECAL_MATERIAL } from './decalMaterial.ts';
import { freeTree } from './stage3d.ts';

export class BuiltMap {
  private readonly textures = new Map<string, Promise<Texture>>();
  private readonly ktx2: KTX2Loader;
  private light: Texture | null = null;
  private readonly lit: (MeshLambertMaterial | MeshBasicMaterial)[] = [];
  /** Whether the light is as bright as it was computed. */
  private float = false;
  /** One node per group of surfaces that are drawn together, by its number. */
  readonly groups = new Map<number, Object3D>();

  constructor(
    private readonly world: CrateWorld,
    private readonly source: AssetSource,
    renderer: WebGLRenderer,
    /** In the open props are lit by lamps of the scene, which what has its light built in must not see. */
    private readonly open = false,
  ) {
    this.ktx2 = ktx2Loader(renderer);
  }

  /** @param light `lightmap.ktx2` of the same build; without it the lightmap within the GLB is shown, which is cut off at its range */
  async load(glb: ArrayBuffer, light?: ArrayBuffer): Promise<Object3D> {
    if (light) this.light = await this.floatLightmap(light);
    const gltf = await new GLTFLoader().setKTX2Loader(this.ktx2).parseAsync(glb, '');
    // Lamps are in the lightmap, and props are drawn by whoever knows what moves.
    for (const node of gltf.scene.children.filter(({ userData }) => (userData as { object?: string }).object !== undefined)) {
      gltf.scene.remove(node);
      freeTree(node);
    }
    const work: Promise<void>[] = [];
    gltf.scene.traverse((node) => {
      const { group } = node.userData as { group?: number };
      if (group !== undefined) this.groups.set(group, node);
      const mesh = node as Mesh;
      if (mesh.isMesh) work.push(this.dress(mesh, mesh.material as MeshStandardMaterial, gltf));
    });
    await Promise.all(work);
    return gltf.scene;
  }

  /** Gives a material its texture and the lightmap; light is π × range since Lambert divides by π. */
  private async dress(mesh: Mesh, original: MeshStandardMaterial, gltf: GLTF): Promise<void> {
    const extras = original.userData as { lightmap?: { image: number; range: number }; decal?: number };
    // The crate's own pictures may lie in the file.
    const texture = original.map ?? (await this.textureOf(original.name));
    const shared = {
      color: texture ? new Color('#ffffff') : original.color,
      map: texture,
      transparent: original.transparent,
      opacity: original.opacity,
      name: original.name,
      ...(extras.decal === undefined ? {} : DECAL_MATERIAL),
    };
    if (extras.decal !== undefined) mesh.renderOrder = 1 + extras.decal;
    if (!extras.lightmap) {
      mesh.material = new MeshBasicMaterial(shared);
      return;
    }
    const range = this.light && this.float ? 1 : extras.lightmap.range;
    const lightMap = await this.lightmap(gltf, extras.lightmap.image);
    const lit = { ...shared, lightMap, lightMapIntensity: Math.PI * range };
    const material = this.open ? new MeshBasicMaterial(lit) : new MeshLambertMaterial(lit);
    mesh.material = material;
    this.lit.push(material);
  }

  /** Another light for the same map: `lightmap.ktx2` of a picture that came later. */
  async setLight(light: ArrayBuffer): Promise<void> {
    const next = await this.floatLightmap(light);
    for (const material of this.lit) material.lightMap = next;
    this.light?.dispose();
    this.light = next;
  }

  private floatLightmap(light: ArrayBuffer): Promise<Texture> {
    return new Promise((resolve, reject) =>
      this.ktx2.parse(
        light,
        (texture) => {
          texture.channel = 1;
          texture.minFilter = LinearFilter;
          texture.magFilter = LinearFilter;
          texture.needsUpdate = true;
          this.float = true;
          resolve(texture);
        },
        reject,
      ),
    );
  }

  /** The image is no texture of the file, since glTF has no slot for lightmaps: it is read from its buffer view. */
  private async lightmap(gltf: GLTF, image: number): Promise<Texture> {
    if (!this.light) {
      const { bufferView, mimeType } = (gltf.parser.json as { images: { bufferView: number; mimeType: string }[] }).images[image];
      const bytes = (await gltf.parser.getDependency('bufferView', bufferView)) as ArrayBuffer;
      const light = new Texture(await createImageBitmap(new Blob([bytes], { type: mimeType }), { colorSpaceConversion: 'none' }));
      light.flipY = false;
      light.colorSpace = SRGBColorSpace;
      light.channel = 1;
      light.generateMipmaps = false;
      light.minFilter = LinearFilter;
      light.needsUpdate = true;
      this.light = light;
    }
    return this.light;
  }

  async textureOf(name: string): Promise<Texture | null> {
    const path = findMaterial(this.world, name)?.material.texture;
    if (!path) return null;
    let texture = this.textures.get(path);
    if (!texture) {
      texture = this.ktx2.loadAsync(fileUrl(this.source, path)).then((t) => {
        t.wrapS = t.wrapT = RepeatWrapping;
        t.colorSpace = SRGBColorSpace;
        t.anisotropy = 8;
        return t;
      });
      this.textures.set(path, texture);
    }
    return texture.catch(() => null);
  }

  /** The picture of a sky around everything; null where there is none, or it is of colours only and cannot be turned upright. */
  async skyOf(name: string): Promise<Texture | null> {
    const path = findMaterial(this.world, name)?.material.texture;
    const texture = path ? await this.ktx2.loadAsync(fileUrl(this.source, path)).catch(() => null) : null;
    if (!(texture as DataTexture | null)?.isDataTexture) return null;
    texture!.mapping = EquirectangularReflectionMapping;
    // Rows come from the top.
    texture!.flipY = true;
    texture!.minFilter = texture!.magFilter = LinearFilter;
    texture!.needsUpdate = true;
    return texture;
  }

  /** Frees the textures; whoever holds the nodes frees those. */
  dispose(): void {
    for (const texture of this.textures.values()) void texture.then((t) => t.dispose()).catch(() => {});
    this.light?.dispose();
    this.ktx2.dispose();
  }
}
