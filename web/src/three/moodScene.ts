/** A map's mood in a scene: sky with clouds, sun and moon, light, fog, and what falls. Scene space is glTF's, in metres. */

import { BackSide, Color, Group, Mesh, type Scene, ShaderMaterial, SphereGeometry, Vector3 } from 'three';
import type { MapSettings, Mood } from '@violet-crate/core/document/schema';
import { lightOfMood, skyLightOf } from '@violet-crate/core/mood/light';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { daylightLamps, Falling, type FloorAt } from './daylight.ts';
import { heightFog } from './heightFog.ts';
import { freeTree } from './stage3d.ts';

/** Radius of the sky, metres: within what any camera here sees. */
const FAR = 150;

const SKY_VERTEX = `
varying vec3 way;
void main() {
  way = position;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  gl_Position.z = gl_Position.w * 0.99999;
}`;
const SKY_FRAGMENT = `
uniform vec3 above;
uniform vec3 beside;
uniform vec3 sunWay;
uniform vec3 sunColour;
uniform vec3 moonWay;
uniform vec3 moonColour;
uniform float clouds;
uniform float bright;
uniform vec2 drift;
varying vec3 way;
float spot(vec2 p) { return fract(sin(dot(p, vec2(127.1, 311.7))) * 43758.5453); }
float noise(vec2 p) {
  vec2 i = floor(p), f = fract(p);
  vec2 u = f * f * (3.0 - 2.0 * f);
  return mix(mix(spot(i), spot(i + vec2(1.0, 0.0)), u.x), mix(spot(i + vec2(0.0, 1.0)), spot(i + 1.0), u.x), u.y);
}
void main() {
  vec3 to = normalize(way);
  float up = max(0.0, to.y);
  vec3 sky = mix(beside, above, 1.0 - pow(1.0 - up, 3.0)) * bright;
  float sun = dot(to, sunWay);
  sky += sunColour * (smoothstep(0.99995, 0.99999, sun) * 6.0 + pow(max(0.0, sun), 400.0) * 0.5 + pow(max(0.0, sun), 12.0) * 0.08) * (1.0 - clouds * 0.95);
  sky += moonColour * smoothstep(0.99993, 0.99998, dot(to, moonWay)) * 4.0 * (1.0 - clouds * 0.9);
  if (to.y > 0.01 && clouds > 0.0) {
    vec2 p = to.xz / (to.y + 0.12) * 1.6 + drift;
    float n = noise(p) * 0.5 + noise(p * 2.1 + 7.0) * 0.3 + noise(p * 4.3 + 3.0) * 0.2;
    float cover = smoothstep(1.0 - clouds * 0.85, 1.12 - clouds * 0.55, n + clouds * 0.22) * smoothstep(0.01, 0.12, to.y);
    vec3 lit = (mix(above, vec3(1.0), 0.55) * bright + sunColour * 0.25) * (0.55 + 0.45 * n);
    sky = mix(sky, lit * (1.0 - 0.35 * clouds), cover * 0.92);
  }
  if (to.y < 0.0) sky = beside * bright * mix(1.0, 0.4, min(1.0, -to.y * 3.0));
  gl_FragColor = vec4(sky, 1.0);
  #include <tonemapping_fragment>
  #include <colorspace_fragment>
}`;

export class MoodScene {
  private readonly sky: Mesh<SphereGeometry, ShaderMaterial>;
  private readonly lamps = new Group();
  private readonly falling: Falling;
  private mood: Mood | null = null;
  private time = 0;

  /** @param withLamps also lights what stands there; where light is built in, only the sky, fog and what falls are its own */
  constructor(
    private readonly scene: Scene,
    private readonly metres: number,
    private readonly withLamps: boolean,
    floorAt: FloorAt | null = null,
  ) {
    const vector = () => ({ value: new Vector3() });
    const colour = () => ({ value: new Color() });
    this.sky = new Mesh(
      new SphereGeometry(FAR, 32, 16),
      new ShaderMaterial({
        uniforms: {
          above: colour(),
          beside: colour(),
          sunWay: vector(),
          sunColour: colour(),
          moonWay: vector(),
          moonColour: colour(),
          clouds: { value: 0 },
          bright: { value: 1 },
          drift: { value: [0, 0] },
        },
        vertexShader: SKY_VERTEX,
        fragmentShader: SKY_FRAGMENT,
        side: BackSide,
        depthWrite: false,
      }),
    );
    this.sky.renderOrder = -10;
    this.sky.frustumCulled = false;
    this.falling = new Falling(scene, metres, floorAt);
    scene.add(this.sky, this.lamps);
  }

  /** What the picture's exposure is multiplied by. */
  get exposure(): number {
    return this.mood?.exposure ?? 1;
  }

  /** Light of sky and sun together, for comparing moods. */
  static brightness(mood: Mood, place: MapSettings['place']): number {
    const light = lightOfMood(mood, place);
    const direct = light.sun ?? light.moon;
    return skyLightOf(mood, light).intensity + (direct ? direct.intensity * Math.max(0, direct.towards[2]) : 0);
  }

  set(mood: Mood, place: MapSettings['place']): void {
    this.mood = mood;
    const light = lightOfMood(mood, place);
    const sky = skyLightOf(mood, light);
    const { uniforms } = this.sky.material;
    (uniforms.above.value as Color).set(mood.skyColour);
    (uniforms.beside.value as Color).set(mood.horizonColour);
    uniforms.bright.value = sky.intensity;
    uniforms.clouds.value = mood.clouds;
    for (const [key, lamp] of [
      ['sun', light.sun],
      ['moon', light.moon],
    ] as const) {
      (uniforms[`${key}Way`].value as Vector3).set(...toGltf(lamp?.towards ?? [0, 0, -1], 1)).normalize();
      (uniforms[`${key}Colour`].value as Color).setRGB(...((lamp ? lamp.colour.map((v) => v * lamp.intensity) : [0, 0, 0]) as Vec3));
    }
    freeTree(this.lamps);
    this.lamps.clear();
    if (this.withLamps) {
      const suns = [light.sun, light.moon].filter((lamp) => lamp !== null);
      this.lamps.add(daylightLamps(suns, { skyColour: sky.colour, skyIntensity: sky.intensity }));
    }
    const dim = 0.08 + 0.92 * light.day;
    const fog = new Color(mood.fogColour).multiplyScalar(dim);
    this.scene.fog = mood.fog > 0 ? heightFog(`#${fog.getHexString()}`, mood.fog * this.metres, mood.fogHeight * this.metres) : null;
    this.falling.set({ falling: mood.falling, heavy: mood.heavy, wind: mood.wind, windFrom: mood.windFrom });
  }

  /** @param eye scene space; @param seconds since the last call */
  update(eye: Vec3, seconds: number): void {
    if (!this.mood) return;
    this.time += seconds;
    this.sky.position.set(...eye);
    const to = ((this.mood.windFrom + 180) * Math.PI) / 180;
    const speed = (this.mood.wind * this.metres + 0.5) * 0.002;
    this.sky.material.uniforms.drift.value = [-Math.cos(to) * speed * this.time, Math.sin(to) * speed * this.time];
    this.falling.update(eye, seconds);
  }

  dispose(): void {
    this.scene.fog = null;
    this.sky.removeFromParent();
    this.lamps.removeFromParent();
    freeTree(this.sky);
    freeTree(this.lamps);
    this.falling.dispose();
  }
}
