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
import { freeTree } from './stage3d.ts';

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

/** Height of what lies open to the sky at a place of the map, scene space; null where nothing does. */
export type FloorAt = (x: number, z: number) => number | null;

/** What falls, and how much of it. */
export interface Fall {
  falling: 'none' | 'snow' | 'rain';
  /** 0 to 1. */
  heavy: number;
  /** Units a second, and degrees that it comes from. */
  wind: number;
  windFrom: number;
}

/** Snow or rain about the eye, drifting with the wind, and not below roofs. */
export class Falling {
  private flakes: Mesh<InstancedBufferGeometry> | null = null;
  private fall: Fall = { falling: 'none', heavy: 0, wind: 0, windFrom: 0 };
  /** Places about the eye; those that are drawn are a copy, in which what is below a roof is out of the way. */
  private readonly at = new Float32Array(FLAKES * 3);

  constructor(
    private readonly scene: Scene,
    private readonly m: number,
    private readonly floorAt: FloorAt | null = null,
  ) {
    // Any even numbers will do, but not those of one lattice: flakes would stand in rows.
    const random = chance(1);
    for (let k = 0; k < this.at.length; k++) this.at[k] = (random() * 2 - 1) * BOX;
  }

  set(fall: Fall): void {
    const other = fall.falling !== this.fall.falling;
    this.fall = fall;
    if (other) {
      this.dispose();
      if (fall.falling !== 'none') this.make(fall.falling === 'rain');
    }
    if (this.flakes) this.flakes.geometry.instanceCount = Math.round(FLAKES * fall.heavy);
  }

  private make(rain: boolean): void {
    const square = rain ? new PlaneGeometry(0.012, 0.5) : new PlaneGeometry(0.05, 0.05);
    const geometry = new InstancedBufferGeometry();
    geometry.setIndex(square.getIndex());
    for (const name of ['position', 'uv']) geometry.setAttribute(name, square.getAttribute(name));
    geometry.setAttribute('place', new InstancedBufferAttribute(this.at.slice(), 3));
    const material = new ShaderMaterial({
      uniforms: { colour: { value: new Color(rain ? '#9fb4c8' : '#ffffff') } },
      vertexShader: FLAKE_VERTEX,
      fragmentShader: FLAKE_FRAGMENT,
      transparent: true,
      depthWrite: false,
    });
    this.flakes = new Mesh(geometry, material);
    this.flakes.frustumCulled = false;
    this.scene.add(this.flakes);
  }

  /** @param eye scene space; @param seconds since the last call */
  update(eye: Vec3, seconds: number): void {
    if (!this.flakes) return;
    const { at: values, flakes, floorAt, fall } = this;
    const to = ((fall.windFrom + 180) * Math.PI) / 180;
    const drift = fall.wind * this.m * 0.6;
    const speed = fall.falling === 'rain' ? 9 : 1.3;
    const move = [Math.cos(to) * drift, -speed, -Math.sin(to) * drift].map((v) => v * Math.min(0.1, seconds));
    const moved = [0, 1, 2].map((k) => eye[k] - flakes.position.getComponent(k));
    for (let i = 0; i < values.length; i++) {
      const k = i % 3;
      // They stay in the world while the eye moves, and come in again on the other side.
      const v = values[i] + move[k] - moved[k];
      values[i] = ((((v + BOX) % (2 * BOX)) + 2 * BOX) % (2 * BOX)) - BOX;
    }
    const drawn = flakes.geometry.getAttribute('place') as InstancedBufferAttribute;
    drawn.array.set(values);
    for (let i = 0; i < values.length; i += 3) {
      const [x, y, z] = [values[i], values[i + 1], values[i + 2]];
      // None flies through the eye: so near it would cover half the picture. None falls through a roof.
      const floor = floorAt?.(eye[0] + x, eye[2] + z) ?? null;
      if (x * x + y * y + z * z < CLEAR * CLEAR || (floor !== null && eye[1] + y < floor)) drawn.array[i + 1] = 1e5;
    }
    drawn.needsUpdate = true;
    flakes.position.set(...eye);
  }

  /** Flakes that are seen now: those that no roof holds off. */
  get seen(): number {
    const drawn = this.flakes?.geometry.getAttribute('place').array ?? [];
    let count = 0;
    for (let i = 1; i < drawn.length; i += 3) if (drawn[i] < 1e4) count++;
    return count;
  }

  dispose(): void {
    this.flakes?.removeFromParent();
    if (this.flakes) freeTree(this.flakes);
    this.flakes = null;
  }
}
