/** A built map as the game would show it: lightmapped GLB, textures by material name, objects that move. */

import type { Quaternion } from 'three';
import { Color, Scene, type Texture, type WebGLRenderer } from 'three';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import { groupsSeenFrom, type VisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { MapSettings } from '@violet-crate/core/document/schema';
import { posePoint } from '@violet-crate/core/math/pose';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { ShownObject } from '@violet-crate/core/trial/apart';
import type { TrialBody, TrialThing } from '../part/look.ts';
import { looksOf } from '../part/looks.ts';
import { loadModel } from '../three/assets3d.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { BuiltMap } from '../three/builtMap.ts';
import { lightAt, lightByProbes } from '../three/probeLit.ts';
import { freeTree } from '../three/stage3d.ts';

export class TrialScene {
  readonly scene = new Scene();
  private readonly shown: { item: ShownObject; body: TrialBody; placed: Quaternion }[] = [];
  private readonly built: BuiltMap;
  private sky: Texture | null = null;
  private readonly m: number;

  constructor(
    private readonly world: CrateWorld,
    private readonly objects: ReadonlyMap<string, ShownObject>,
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
    await Promise.all([...this.objects.values()].map((item) => this.addObject(item)));
  }

  /** Leaves out what cannot be seen from a point, in map units. */
  showFrom(eye: Vec3): void {
    groupsSeenFrom(this.lookup.visibility, eye).forEach((seen, group) => {
      const node = this.built.groups.get(group);
      if (node) node.visible = seen;
    });
  }

  private async addObject(item: ShownObject): Promise<void> {
    const looks = looksOf(this.world.profile, item.object.class);
    const thing: TrialThing = {
      item,
      box: item.box,
      profile: this.world.profile,
      metres: this.m,
      texture: (material) => this.built.textureOf(String(material)),
      brightness: (at) => lightAt(this.lookup.probes, at, [0, 0, 1]),
      model: async (path) => {
        const model = await loadModel(this.source, path);
        if (model) lightByProbes(model, this.lookup.probes, this.m);
        return model;
      },
    };
    const bodies = looks.flatMap((look) => look.trialExtra?.(thing) ?? []);
    for (const look of looks) {
      const body = await look.trialBody?.(thing);
      if (!body) continue;
      bodies.push(body);
      break;
    }
    for (const body of bodies) {
      this.scene.add(body.node);
      this.shown.push({ item, body, placed: body.node.quaternion.clone() });
    }
  }

  /** Puts everything where the simulation has it now. */
  update(): void {
    for (const { item, body, placed } of this.shown) {
      if (body.update) {
        body.update(item);
        continue;
      }
      const { pose, object, gone } = item;
      body.node.visible = !gone;
      body.node.position.set(...toGltf(posePoint(pose, object.position, body.rest), this.m));
      const [x, y, z, w] = pose.turn;
      body.node.quaternion.set(x, z, 0 - y, w).multiply(placed);
    }
  }

  dispose(): void {
    freeTree(this.scene);
    this.sky?.dispose();
    this.built.dispose();
  }
}
