/** A built map as the game would show it: lightmapped GLB, textures by material name, objects that move. */

import {
  BoxGeometry,
  BufferAttribute,
  Color,
  LinearFilter,
  Matrix3,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  PlaneGeometry,
  PointLight,
  RepeatWrapping,
  Scene,
  SRGBColorSpace,
  Texture,
  Vector3,
  type Material,
  type MeshStandardMaterial,
  type Object3D,
  type WebGLRenderer,
} from 'three';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { KTX2Loader } from 'three/examples/jsm/loaders/KTX2Loader.js';
import { toGltf } from '@violet-crate/core/build/pack/mapGlb';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { linearOfHex } from '@violet-crate/core/math/srgb';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { hasPart } from '@violet-crate/core/profile/schema';
import type { TrialObject, TrialWorld } from '@violet-crate/core/trial/world';
import { fileUrl, loadModel, type AssetSource } from '../three/assets3d.ts';

interface Moving {
  item: TrialObject;
  node: Object3D;
  rest: Vec3;
}

export class TrialScene {
  readonly scene = new Scene();
  private readonly movers: Moving[] = [];
  private readonly waters: Moving[] = [];
  private readonly lamps: { item: TrialObject; light: PointLight }[] = [];
  private readonly textures = new Map<string, Promise<Texture>>();
  private readonly ktx2: KTX2Loader;
  private light: Texture | null = null;
  private readonly m: number;

  constructor(
    private readonly world: CrateWorld,
    private readonly trial: TrialWorld,
    private readonly source: AssetSource,
    renderer: WebGLRenderer,
  ) {
    this.m = world.profile.unit.metres;
    // The loader's own transcoder is bundled and served with the application.
    this.ktx2 = new KTX2Loader().detectSupport(renderer);
  }

  async load(glb: ArrayBuffer, skyColour: string): Promise<void> {
    this.scene.background = new Color(skyColour);
    const gltf = await new GLTFLoader().parseAsync(glb, '');
    await this.dressMap(gltf);
    this.scene.add(gltf.scene);
    await Promise.all(this.trial.objects.map((item) => this.addObject(item)));
  }

  /** Gives every material its texture and the lightmap; light is π × range since Lambert divides by π. */
  private async dressMap(gltf: GLTF): Promise<void> {
    const work: Promise<void>[] = [];
    gltf.scene.traverse((node) => {
      const mesh = node as Mesh;
      if (!mesh.isMesh) return;
      work.push(this.dressMesh(mesh, mesh.material as MeshStandardMaterial, gltf));
    });
    await Promise.all(work);
  }

  private async dressMesh(mesh: Mesh, original: MeshStandardMaterial, gltf: GLTF): Promise<void> {
    const extras = original.userData as { lightmap?: { image: number; range: number } };
    const texture = await this.textureOf(original.name);
    const shared = {
      color: texture ? new Color('#ffffff') : original.color,
      map: texture,
      transparent: original.transparent,
      opacity: original.opacity,
    };
    if (!extras.lightmap) {
      mesh.material = new MeshBasicMaterial(shared);
      return;
    }
    const lightMap = await this.lightmap(gltf, extras.lightmap.image);
    mesh.material = new MeshLambertMaterial({ ...shared, lightMap, lightMapIntensity: Math.PI * extras.lightmap.range });
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

  private async textureOf(name: string): Promise<Texture | null> {
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

  /** How bright it is at a point of the map, on a surface that faces every lamp alike. */
  private brightness(at: Vec3): Color {
    const point = new Vector3(...toGltf(at, this.m));
    const sum = new Color(0.06, 0.06, 0.08);
    for (const { at: lamp, colour, intensity, reach } of this.lampsLitAtStart()) {
      const away = Math.max(0.3, lamp.distanceTo(point));
      if (reach > 0 && away > reach) continue;
      const window = reach > 0 ? (1 - (away / reach) ** 4) ** 2 : 1;
      const e = (intensity * window) / (away * away) / Math.PI / 3;
      sum.add(new Color(colour[0] * e, colour[1] * e, colour[2] * e));
    }
    return sum;
  }

  /**
   * Props have no lightmap: every vertex is lit by the lamps that are lit at the start, without shadows.
   * Half of the cosine wraps round to the far side, as light in a room does.
   */
  private lightProp(mesh: Mesh): void {
    const original = mesh.material as MeshStandardMaterial;
    const geometry = mesh.geometry.clone();
    const position = geometry.getAttribute('position');
    const normal = geometry.getAttribute('normal');
    const colours = new Float32Array(position.count * 3);
    const lamps = this.lampsLitAtStart();
    const turn = new Matrix3().getNormalMatrix(mesh.matrixWorld);
    const [p, n, to] = [new Vector3(), new Vector3(), new Vector3()];
    for (let i = 0; i < position.count; i++) {
      p.fromBufferAttribute(position, i).applyMatrix4(mesh.matrixWorld);
      n.fromBufferAttribute(normal, i).applyMatrix3(turn).normalize();
      const sky = 0.05 + 0.05 * Math.max(0, n.y);
      const sum = [sky, sky, sky * 1.2];
      for (const lamp of lamps) {
        to.subVectors(lamp.at, p);
        const away = Math.max(0.3, to.length());
        if (lamp.reach > 0 && away > lamp.reach) continue;
        const window = lamp.reach > 0 ? (1 - (away / lamp.reach) ** 4) ** 2 : 1;
        const facing = 0.15 + 0.85 * Math.max(0, n.dot(to) / away);
        const e = (lamp.intensity * facing * window) / (away * away) / Math.PI;
        for (let k = 0; k < 3; k++) sum[k] += lamp.colour[k] * e;
      }
      colours.set(sum, i * 3);
    }
    geometry.setAttribute('color', new BufferAttribute(colours, 3));
    mesh.geometry = geometry;
    mesh.material = new MeshBasicMaterial({
      color: original.color,
      map: original.map,
      vertexColors: true,
      transparent: original.transparent,
      opacity: original.opacity,
    });
  }

  private lampsLitAtStart(): { at: Vector3; colour: [number, number, number]; intensity: number; reach: number }[] {
    return this.trial.objects
      .filter((item) => hasPart(this.world.profile, item.object.class, 'light') && item.object.properties.lit === true)
      .map(({ object, properties }) => ({
        at: new Vector3(...toGltf(object.position, this.m)),
        colour: linearOfHex(String(properties.colour)),
        intensity: Number(properties.intensity),
        reach: Number(properties.reach) * this.m,
      }));
  }

  private async addObject(item: TrialObject): Promise<void> {
    const { profile } = this.world;
    const { object, properties } = item;
    const is = (part: Parameters<typeof hasPart>[2]) => hasPart(profile, object.class, part);
    const box = this.trial.boxOf(item);
    const centre = boxCentre(box);
    if (is('light')) {
      const [r, g, b] = linearOfHex(String(properties.colour));
      const light = new PointLight(new Color(r, g, b), 0, Number(properties.reach) * this.m || 0, 2);
      const lit = is('model') ? ([centre[0], centre[1], box.max[2] - 4] as Vec3) : centre;
      light.position.set(...toGltf(lit, this.m));
      this.scene.add(light);
      this.lamps.push({ item, light });
    }
    if (is('model') && typeof properties.model === 'string') {
      const model = await loadModel(this.source, properties.model);
      if (!model) return;
      model.position.set(...toGltf(object.position, this.m));
      model.rotation.y = (object.turn * Math.PI) / 180;
      model.updateMatrixWorld(true);
      model.traverse((node) => {
        if ((node as Mesh).isMesh) this.lightProp(node as Mesh);
      });
      this.scene.add(model);
      return;
    }
    if (is('mover')) {
      const [w, d, h] = boxSize(box).map((v) => v * this.m);
      const texture = await this.textureOf(String(properties.material));
      const light = this.brightness(centre);
      const material = new MeshLambertMaterial({ map: texture, emissiveMap: texture, emissive: light });
      const mesh = new Mesh(new BoxGeometry(w, h, d), material);
      mesh.position.set(...toGltf(centre, this.m));
      this.scene.add(mesh);
      this.movers.push({ item, node: mesh, rest: centre });
    }
    if (is('water')) {
      const [w, d] = boxSize(box).map((v) => v * this.m);
      const texture = await this.textureOf(String(properties.material));
      const repeat = texture?.clone() ?? null;
      repeat?.repeat.set(w / 2, d / 2);
      const light = this.brightness([centre[0], centre[1], box.max[2]]);
      const material = new MeshBasicMaterial({ map: repeat, color: light.multiplyScalar(2.4), transparent: true, opacity: 0.8 });
      const mesh = new Mesh(new PlaneGeometry(w, d).rotateX(-Math.PI / 2), material);
      mesh.position.set(...toGltf(centre, this.m));
      this.scene.add(mesh);
      this.waters.push({ item, node: mesh, rest: [centre[0], centre[1], box.min[2]] });
    }
  }

  /** Puts everything where the simulation has it now. */
  update(): void {
    for (const { item, node, rest } of this.movers) {
      const offset = this.trial.offsetOf(item);
      node.position.set(...toGltf([rest[0] + offset[0], rest[1] + offset[1], rest[2] + offset[2]], this.m));
    }
    for (const { item, node, rest } of this.waters) {
      node.visible = item.level > 0.5;
      node.position.copy(new Vector3(...toGltf([rest[0], rest[1], rest[2] + item.level], this.m)));
    }
    for (const { item, light } of this.lamps) {
      // Lamps lit at the start are in the lightmap already.
      light.intensity = item.properties.lit === true && item.object.properties.lit !== true ? Number(item.properties.intensity) : 0;
    }
  }

  dispose(): void {
    this.scene.traverse((node) => {
      const mesh = node as Mesh;
      mesh.geometry?.dispose();
      for (const material of ([] as Material[]).concat(mesh.material ?? [])) material.dispose();
    });
    for (const texture of this.textures.values()) void texture.then((t) => t.dispose()).catch(() => {});
    this.light?.dispose();
    this.ktx2.dispose();
  }
}
