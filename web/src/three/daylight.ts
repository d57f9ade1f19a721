/** Sun, sky, fog and weather of a map in the open, for what has no light built in. */

import { BufferAttribute, BufferGeometry, Color, DirectionalLight, FogExp2, Group, HemisphereLight, Points, PointsMaterial, type Scene } from 'three';
import type { MapSettings } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { SunLight } from '@violet-crate/core/part/lightSource';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';

/** Lamps for props: light in a lightmap is E/π, three's lamps give E. */
export function daylightLamps(suns: readonly SunLight[], { skyColour, skyIntensity }: Pick<MapSettings, 'skyColour' | 'skyIntensity'>): Group {
  const group = new Group();
  for (const sun of suns) {
    const lamp = new DirectionalLight(new Color().setRGB(...sun.colour), sun.intensity * Math.PI);
    lamp.position.set(...toGltf(sun.towards, 100));
    group.add(lamp);
  }
  const sky = new Color(skyColour);
  group.add(new HemisphereLight(sky, sky.clone().multiplyScalar(0.55), skyIntensity * Math.PI));
  return group;
}

/** Fog at which two thirds are hidden at the stated distance: exp(−(k d)²) = ⅓ (three's squared exponential fog). */
export function fogOf(weather: MapSettings['weather'], metres: number): FogExp2 | null {
  return weather && weather.fog > 0 ? new FogExp2(weather.fogColour, Math.sqrt(Math.log(3)) / (weather.fog * metres)) : null;
}

const FLAKES = 1400;
/** Half the side of the box of flakes about the eye, metres. */
const BOX = 16;
/** Metres about the eye that stay free. */
const CLEAR = 2;

/** Snow or rain about the eye, drifting with the wind. */
export class Falling {
  private readonly points: Points | null = null;
  private readonly speed: number;

  constructor(
    scene: Scene,
    private readonly weather: MapSettings['weather'],
    private readonly m: number,
  ) {
    const rain = weather?.falling === 'rain';
    this.speed = rain ? 9 : 1.3;
    if (!weather || weather.falling === 'none') return;
    const at = new Float32Array(FLAKES * 3);
    for (let k = 0; k < at.length; k++) at[k] = (((Math.imul(k + 1, 2654435761) >>> 0) / 2 ** 32) * 2 - 1) * BOX;
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(at, 3));
    const flakes = new PointsMaterial({
      color: rain ? '#9fb4c8' : '#ffffff',
      size: rain ? 0.03 : 0.055,
      transparent: true,
      opacity: 0.75,
      fog: false,
    });
    // Flakes that stand nearly beside the eye would be as large as the picture, and some cards draw slivers of them.
    flakes.onBeforeCompile = (shader) => {
      shader.vertexShader = shader.vertexShader.replace(
        '#include <logdepthbuf_vertex>',
        'gl_PointSize = min(gl_PointSize, 8.0);\n#include <logdepthbuf_vertex>',
      );
    };
    this.points = new Points(geometry, flakes);
    this.points.frustumCulled = false;
    scene.add(this.points);
  }

  /** @param eye scene space; @param seconds since the last call */
  update(eye: Vec3, seconds: number): void {
    if (!this.points || !this.weather) return;
    const to = ((this.weather.windFrom + 180) * Math.PI) / 180;
    const drift = this.weather.wind * this.m * 0.6;
    const move = [Math.cos(to) * drift, -this.speed, -Math.sin(to) * drift].map((v) => v * Math.min(0.1, seconds));
    const moved = [0, 1, 2].map((k) => eye[k] - this.points!.position.getComponent(k));
    const at = this.points.geometry.getAttribute('position') as BufferAttribute;
    const values = at.array as Float32Array;
    for (let i = 0; i < values.length; i++) {
      const k = i % 3;
      // They stay in the world while the eye moves, and come in again on the other side.
      let v = values[i] + move[k] - moved[k];
      v = ((((v + BOX) % (2 * BOX)) + 2 * BOX) % (2 * BOX)) - BOX;
      values[i] = v;
    }
    // None flies through the eye: so near it would cover half the picture.
    for (let i = 0; i < values.length; i += 3) if (values[i] ** 2 + values[i + 1] ** 2 + values[i + 2] ** 2 < CLEAR ** 2) values[i + 1] = BOX;
    at.needsUpdate = true;
    this.points.position.set(...eye);
  }
}
