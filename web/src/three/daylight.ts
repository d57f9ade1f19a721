/** Sun, sky, fog and weather of a map in the open, for what has no light built in. */

import {
  Color,
  DirectionalLight,
  FogExp2,
  Group,
  HemisphereLight,
  InstancedBufferAttribute,
  InstancedBufferGeometry,
  Mesh,
  PlaneGeometry,
  type Scene,
  ShaderMaterial,
} from 'three';
import type { MapSettings } from '@violet-crate/core/document/schema';
import { chance } from '@violet-crate/core/math/chance';
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

/** A small upright square that faces the eye, one a flake: points of a graphics library are slivers on some machines. */
const FLAKE_VERTEX = `
attribute vec3 place;
varying vec2 on;
void main() {
  on = uv * 2.0 - 1.0;
  vec4 at = modelViewMatrix * vec4(place, 1.0);
  at.xy += position.xy;
  gl_Position = projectionMatrix * at;
}`;
const FLAKE_FRAGMENT = `
uniform vec3 colour;
varying vec2 on;
void main() {
  float far = dot(on, on);
  if (far > 1.0) discard;
  gl_FragColor = vec4(colour, 0.75 * (1.0 - far * 0.6));
}`;

/** Snow or rain about the eye, drifting with the wind. */
export class Falling {
  private readonly flakes: Mesh<InstancedBufferGeometry> | null = null;
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
    // Any even numbers will do, but not those of one lattice: flakes would stand in rows.
    const random = chance(1);
    for (let k = 0; k < at.length; k++) at[k] = (random() * 2 - 1) * BOX;
    const square = rain ? new PlaneGeometry(0.012, 0.5) : new PlaneGeometry(0.05, 0.05);
    const geometry = new InstancedBufferGeometry();
    geometry.setIndex(square.getIndex());
    for (const name of ['position', 'uv']) geometry.setAttribute(name, square.getAttribute(name));
    geometry.setAttribute('place', new InstancedBufferAttribute(at, 3));
    const colour = new Color(rain ? '#9fb4c8' : '#ffffff');
    const material = new ShaderMaterial({
      uniforms: { colour: { value: colour } },
      vertexShader: FLAKE_VERTEX,
      fragmentShader: FLAKE_FRAGMENT,
      transparent: true,
      depthWrite: false,
    });
    this.flakes = new Mesh(geometry, material);
    this.flakes.frustumCulled = false;
    scene.add(this.flakes);
  }

  /** @param eye scene space; @param seconds since the last call */
  update(eye: Vec3, seconds: number): void {
    if (!this.flakes || !this.weather) return;
    const to = ((this.weather.windFrom + 180) * Math.PI) / 180;
    const drift = this.weather.wind * this.m * 0.6;
    const move = [Math.cos(to) * drift, -this.speed, -Math.sin(to) * drift].map((v) => v * Math.min(0.1, seconds));
    const moved = [0, 1, 2].map((k) => eye[k] - this.flakes!.position.getComponent(k));
    const at = this.flakes.geometry.getAttribute('place') as InstancedBufferAttribute;
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
    this.flakes.position.set(...eye);
  }
}
