/** A built map as the game would show it: lightmapped GLB, textures by material name, objects that move. */

import {
  BoxGeometry,
  Color,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  PlaneGeometry,
  PointLight,
  Scene,
  Vector3,
  type Object3D,
  type Texture,
  type WebGLRenderer,
} from 'three';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import { groupsSeenFrom, type VisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { linearOfHex } from '@violet-crate/core/math/srgb';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import type { MapSettings } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { hasPart } from '@violet-crate/core/profile/schema';
import type { ShownObject } from '@violet-crate/core/trial/apart';
import { loadModel, type AssetSource } from '../three/assets3d.ts';
import { BuiltMap } from '../three/builtMap.ts';
import { lightAt, lightByProbes } from '../three/probeLit.ts';
import { freeTree } from '../three/stage3d.ts';

interface Moving {
  item: ShownObject;
  node: Object3D;
  rest: Vec3;
}

export class TrialScene {
  readonly scene = new Scene();
  private readonly movers: Moving[] = [];
  private readonly waters: Moving[] = [];
  private readonly lamps: { item: ShownObject; light: PointLight }[] = [];
  private readonly built: BuiltMap;
  private sky: Texture | null = null;
  private readonly m: number;

  constructor(
    private readonly world: CrateWorld,
    private readonly objects: readonly ShownObject[],
    private readonly source: AssetSource,
    renderer: WebGLRenderer,
    private readonly lookup: { visibility: VisibilityFile; probes: ProbeGrid | null },
  ) {
    this.m = world.profile.unit.metres;
    this.built = new BuiltMap(world, source, renderer);
  }

  async load(glb: ArrayBuffer, light: ArrayBuffer | undefined, { skyColour, skyIntensity, skyMaterial }: MapSettings): Promise<void> {
    this.scene.background = new Color(skyColour);
    const sky = skyMaterial ? await this.built.skyOf(skyMaterial) : null;
    if (sky) {
      this.sky = sky;
      this.scene.background = sky;
      this.scene.backgroundIntensity = skyIntensity;
    }
    this.scene.add(await this.built.load(glb, light));
    await Promise.all(this.objects.map((item) => this.addObject(item)));
  }

  /** Leaves out what cannot be seen from a point, in map units. */
  showFrom(eye: Vec3): void {
    groupsSeenFrom(this.lookup.visibility, eye).forEach((seen, group) => {
      const node = this.built.groups.get(group);
      if (node) node.visible = seen;
    });
  }

  private brightness(at: Vec3): Color {
    return new Color(...lightAt(this.lookup.probes, at, [0, 0, 1]));
  }

  private async addObject(item: ShownObject): Promise<void> {
    const { profile } = this.world;
    const { object, properties, box } = item;
    const is = (part: Parameters<typeof hasPart>[2]) => hasPart(profile, object.class, part);
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
      lightByProbes(model, this.lookup.probes, this.m);
      this.scene.add(model);
      if (is('mover') || is('follow')) this.movers.push({ item, node: model, rest: object.position });
      return;
    }
    if (is('mover')) {
      const [w, d, h] = boxSize(box).map((v) => v * this.m);
      const texture = await this.built.textureOf(String(properties.material));
      const light = this.brightness(centre);
      const material = new MeshLambertMaterial({ map: texture, emissiveMap: texture, emissive: light });
      const mesh = new Mesh(new BoxGeometry(w, h, d), material);
      mesh.position.set(...toGltf(centre, this.m));
      this.scene.add(mesh);
      this.movers.push({ item, node: mesh, rest: centre });
    }
    if (is('water')) {
      const [w, d] = boxSize(box).map((v) => v * this.m);
      const texture = await this.built.textureOf(String(properties.material));
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
      const { offset } = item;
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
    freeTree(this.scene);
    this.sky?.dispose();
    this.built.dispose();
  }
}
