/**
 * Lamps that were put, moved or changed since the build: their light is added to that of the build, without shadows and without
 * what walls give back, until the map is built again. What the build computed of them before stays in its lightmap.
 */

import { DirectionalLight, Group, PointLight, SpotLight, type Light } from 'three';
import type { MapObject } from '@violet-crate/core/document/schema';
import { lightOf } from '@violet-crate/core/map/lights';
import { own } from '@violet-crate/core/own';
import type { Light as Source } from '@violet-crate/core/part/lightSource';
import type { Profile } from '@violet-crate/core/profile/schema';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';

/** Lamps that are lit at once: each costs every pixel. */
const MOST = 8;

type Objects = Readonly<Record<string, MapObject>>;

/** Ids and lights of what shines now and did not, or not so, when the map was built; `missing` is how many more there are. */
export function changedLamps(profile: Profile, built: Objects, now: Objects): { lamps: { id: string; light: Source }[]; missing: number } {
  const lamps = Object.entries(now).flatMap(([id, object]) => {
    const before = own(built, id);
    if (before === object) return [];
    const light = lightOf(profile, object);
    const was = before && lightOf(profile, before);
    return light?.lit && JSON.stringify(light) !== JSON.stringify(was) ? [{ id, light }] : [];
  });
  return { lamps: lamps.slice(0, MOST), missing: Math.max(0, lamps.length - MOST) };
}

export class LiveLamps {
  readonly group = new Group();
  private shown = '';

  constructor(
    private readonly profile: Profile,
    private readonly built: Objects,
  ) {}

  follow(now: Objects): void {
    const { lamps } = changedLamps(this.profile, this.built, now);
    const key = JSON.stringify(lamps);
    if (key === this.shown) return;
    this.shown = key;
    for (const node of [...this.group.children]) {
      this.group.remove(node);
      (node as Light).dispose();
    }
    for (const { light } of lamps) this.group.add(...this.nodesOf(light));
  }

  private nodesOf(source: Source): Light[] {
    const { metres } = this.profile.unit;
    if (source.kind === 'sun') {
      const { colour, intensity, towards } = source.light;
      const sun = new DirectionalLight();
      sun.color.setRGB(...colour);
      // E/π is given; a matt surface divides by π.
      sun.intensity = intensity * Math.PI;
      sun.position.set(...toGltf(towards, 1));
      return [sun];
    }
    const { position, colour, intensity, reach, cone } = source.light;
    const lamp = cone ? new SpotLight() : new PointLight();
    lamp.color.setRGB(...colour);
    lamp.intensity = intensity;
    lamp.distance = reach * metres;
    lamp.position.set(...toGltf(position, metres));
    if (cone && lamp instanceof SpotLight) {
      lamp.angle = Math.min(Math.PI / 2, Math.acos(cone.outer));
      lamp.penumbra = lamp.angle > 0 ? 1 - Math.acos(cone.inner) / lamp.angle : 0;
      const ahead = position.map((v, i) => v + cone.direction[i]) as [number, number, number];
      lamp.target.position.set(...toGltf(ahead, metres));
      lamp.target.updateMatrixWorld();
    }
    return [lamp];
  }
}
