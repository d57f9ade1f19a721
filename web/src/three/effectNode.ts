/** An effect in a scene: its particles as the core has them, drawn in one call an emitter. Scene space is glTF's. */

import {
  AdditiveBlending,
  BufferGeometry,
  Color,
  DataTexture,
  DoubleSide,
  DynamicDrawUsage,
  Group,
  InstancedBufferAttribute,
  InstancedBufferGeometry,
  BufferAttribute,
  LinearFilter,
  Mesh,
  NormalBlending,
  PlaneGeometry,
  PointLight,
  ShaderMaterial,
  type Texture,
  UniformsLib,
  UniformsUtils,
} from 'three';
import type { Effect, Emitter } from '@violet-crate/core/effect/document';
import { columnsFor, EmitterLook, type ParticleColumns } from '@violet-crate/core/effect/look';
import { EFFECT_STEP, EffectPlay, type Air, type EffectSound, type Stand } from '@violet-crate/core/effect/play';
import type { Pool } from '@violet-crate/core/effect/pool';
import type { MeshOf } from '@violet-crate/core/effect/source';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { freeTree } from './stage3d.ts';

/** Steps that are caught up with at once; after a longer pause the effect just goes on. */
const MOST_STEPS = 6;

/** Map space to scene space within the shader, and one square that faces the eye, drawn out along its way. */
const SPRITE_VERTEX = `
attribute vec3 place;
attribute vec3 speed;
attribute vec3 shape;
attribute vec4 tint;
uniform float metres;
uniform float stretch;
uniform vec2 sheet;
varying vec2 on;
varying vec4 colour;
#include <fog_pars_vertex>
vec3 scene(vec3 p) { return vec3(p.x, p.z, -p.y) * metres; }
void main() {
  vec4 mvPosition = modelViewMatrix * vec4(scene(place), 1.0);
  vec2 corner = position.xy * shape.x * metres;
  vec3 way = (modelViewMatrix * vec4(scene(speed), 0.0)).xyz * stretch;
  float drawn = length(way.xy);
  if (drawn > 1e-5) {
    vec2 along = way.xy / drawn;
    corner = along * corner.y * (1.0 + drawn / (shape.x * metres + 1e-6)) + vec2(along.y, -along.x) * corner.x;
  } else {
    float a = radians(shape.y);
    corner = vec2(cos(a) * corner.x - sin(a) * corner.y, sin(a) * corner.x + cos(a) * corner.y);
  }
  mvPosition.xy += corner;
  gl_Position = projectionMatrix * mvPosition;
  float cell = floor(shape.z + 0.5);
  on = (vec2(mod(cell, sheet.x), floor(cell / sheet.x)) + vec2(uv.x, 1.0 - uv.y)) / sheet;
  colour = tint;
  #include <fog_vertex>
}`;

/** A strip through the particles in the order of their births, turned to the eye. */
const RIBBON_VERTEX = `
attribute vec3 ahead;
attribute float across;
attribute float width;
attribute float along;
attribute vec4 tint;
uniform float metres;
varying vec2 on;
varying vec4 colour;
#include <fog_pars_vertex>
vec3 scene(vec3 p) { return vec3(p.x, p.z, -p.y) * metres; }
void main() {
  vec4 mvPosition = modelViewMatrix * vec4(scene(position), 1.0);
  vec3 way = (modelViewMatrix * vec4(scene(ahead), 0.0)).xyz;
  vec3 side = cross(normalize(way + vec3(1e-6)), normalize(mvPosition.xyz));
  mvPosition.xyz += side * across * width * metres * 0.5;
  gl_Position = projectionMatrix * mvPosition;
  on = vec2(along, across * 0.5 + 0.5);
  colour = tint;
  #include <fog_vertex>
}`;

const FRAGMENT = `
uniform sampler2D picture;
uniform vec3 light;
varying vec2 on;
varying vec4 colour;
#include <fog_pars_fragment>
void main() {
  vec4 seen = texture2D(picture, on) * colour;
  if (seen.a < 0.002) discard;
  gl_FragColor = vec4(seen.rgb * light, seen.a);
  #include <tonemapping_fragment>
  #include <colorspace_fragment>
  #include <fog_fragment>
}`;

let dot: DataTexture | null = null;

/** A round spot that fades to its rim, for emitters without a picture. */
function softDot(): DataTexture {
  if (dot) return dot;
  const side = 64;
  const data = new Uint8Array(side * side * 4);
  for (let i = 0; i < side * side; i++) {
    const r = Math.hypot(((i % side) + 0.5) / side - 0.5, (Math.floor(i / side) + 0.5) / side - 0.5) * 2;
    const share = Math.max(0, 1 - r);
    data.set([255, 255, 255, Math.round(share * share * (3 - 2 * share) * 255)], i * 4);
  }
  dot = new DataTexture(data, side, side);
  dot.magFilter = dot.minFilter = LinearFilter;
  dot.needsUpdate = true;
  return dot;
}

/** One emitter's mesh. */
interface Drawn {
  mesh: Mesh<BufferGeometry, ShaderMaterial>;
  update(pool: Pool, seed: number): void;
}

function materialOf(of: Emitter, vertexShader: string, metres: number, picture: Texture): ShaderMaterial {
  const draw = of.draw as Exclude<Emitter['draw'], { as: 'nothing' }>;
  const sprite = draw.as === 'sprite' ? draw : null;
  return new ShaderMaterial({
    uniforms: {
      ...UniformsUtils.clone(UniformsLib.fog),
      metres: { value: metres },
      stretch: { value: sprite?.stretch ?? 0 },
      sheet: { value: [sprite?.columns ?? 1, sprite?.rows ?? 1] },
      picture: { value: picture },
      light: { value: new Color(1, 1, 1) },
    },
    vertexShader,
    fragmentShader: FRAGMENT,
    transparent: true,
    depthWrite: false,
    fog: true,
    side: DoubleSide,
    blending: draw.blend === 'add' ? AdditiveBlending : NormalBlending,
  });
}

function spriteOf(of: Emitter, metres: number, picture: Texture): Drawn {
  const columns: ParticleColumns = columnsFor(of.most);
  const look = new EmitterLook(of);
  const square = new PlaneGeometry(1, 1);
  const geometry = new InstancedBufferGeometry();
  geometry.setIndex(square.getIndex());
  for (const name of ['position', 'uv']) geometry.setAttribute(name, square.getAttribute(name));
  const attributes = (
    [
      ['place', columns.place, 3],
      ['speed', columns.speed, 3],
      ['shape', columns.shape, 3],
      ['tint', columns.colour, 4],
    ] as const
  ).map(([name, values, size]) => {
    const attribute = new InstancedBufferAttribute(values, size).setUsage(DynamicDrawUsage);
    geometry.setAttribute(name, attribute);
    return attribute;
  });
  const mesh = new Mesh<BufferGeometry, ShaderMaterial>(geometry, materialOf(of, SPRITE_VERTEX, metres, picture));
  return {
    mesh,
    update(pool, seed) {
      const count = look.fill(pool, seed, columns);
      geometry.instanceCount = count;
      mesh.visible = count > 0;
      for (const attribute of attributes) {
        attribute.clearUpdateRanges();
        attribute.addUpdateRange(0, count * attribute.itemSize);
        attribute.needsUpdate = true;
      }
    },
  };
}

function ribbonOf(of: Emitter, metres: number, picture: Texture): Drawn {
  const columns = columnsFor(of.most);
  const look = new EmitterLook(of);
  const geometry = new BufferGeometry();
  const attribute = (name: string, size: number) => {
    const made = new BufferAttribute(new Float32Array(of.most * 2 * size), size).setUsage(DynamicDrawUsage);
    geometry.setAttribute(name, made);
    return made;
  };
  const position = attribute('position', 3);
  const ahead = attribute('ahead', 3);
  const across = attribute('across', 1);
  const width = attribute('width', 1);
  const along = attribute('along', 1);
  const tint = attribute('tint', 4);
  const index = new Uint32Array(Math.max(0, of.most - 1) * 6);
  for (let i = 0; i + 1 < of.most; i++) index.set([2 * i, 2 * i + 1, 2 * i + 2, 2 * i + 2, 2 * i + 1, 2 * i + 3], i * 6);
  geometry.setIndex(new BufferAttribute(index, 1));
  const mesh = new Mesh<BufferGeometry, ShaderMaterial>(geometry, materialOf(of, RIBBON_VERTEX, metres, picture));
  return {
    mesh,
    update(pool, seed) {
      const count = look.fill(pool, seed, columns);
      mesh.visible = count > 1;
      geometry.setDrawRange(0, Math.max(0, count - 1) * 6);
      for (let i = 0; i < count; i++) {
        const [from, to] = [Math.max(0, i - 1), Math.min(count - 1, i + 1)];
        const way = [0, 1, 2].map((k) => columns.place[to * 3 + k] - columns.place[from * 3 + k]);
        for (let side = 0; side < 2; side++) {
          const v = i * 2 + side;
          position.array.set(columns.place.subarray(i * 3, i * 3 + 3), v * 3);
          ahead.array.set(way, v * 3);
          across.array[v] = side * 2 - 1;
          width.array[v] = columns.shape[i * 3];
          along.array[v] = count > 1 ? i / (count - 1) : 0;
          tint.array.set(columns.colour.subarray(i * 4, i * 4 + 4), v * 4);
        }
      }
      for (const one of [position, ahead, across, width, along, tint]) one.needsUpdate = true;
    },
  };
}

export interface EffectSetting {
  effect: Effect;
  metres: number;
  /** Of the one object, so that two of an effect differ. */
  salt?: number;
  running?: boolean;
  meshOf?: MeshOf;
  /** A picture by its path, or null where it is not at hand. */
  picture?(path: string): Texture | null;
}

export class EffectNode {
  /** What stands in the map, and what goes along with the object; both are put into the scene together. */
  readonly group = new Group();
  readonly play: EffectPlay;
  private readonly along = new Group();
  private readonly drawn: (Drawn | null)[];
  private readonly lights: { of: number; lamps: PointLight[] }[] = [];
  private owed = 0;
  private warm = false;
  private readonly metres: number;

  constructor({ effect, metres, salt = 0, running = true, meshOf, picture }: EffectSetting) {
    this.metres = metres;
    this.play = new EffectPlay(effect, salt, meshOf, running);
    this.group.add(this.along);
    this.drawn = effect.emitters.map((of, e) => {
      if (of.light) {
        const { colour, intensity, reach, most } = of.light;
        const lamps = Array.from({ length: most }, () => {
          const lamp = new PointLight(new Color(colour), 0, reach * metres, 2);
          lamp.userData.intensity = intensity;
          this.homeOf(of).add(lamp);
          return lamp;
        });
        this.lights.push({ of: e, lamps });
      }
      if (of.draw.as === 'nothing') return null;
      const image = (of.draw.picture && picture?.(of.draw.picture)) || softDot();
      const drawn = of.draw.as === 'ribbon' ? ribbonOf(of, metres, image) : spriteOf(of, metres, image);
      drawn.mesh.frustumCulled = false;
      drawn.mesh.renderOrder = 20;
      this.homeOf(of).add(drawn.mesh);
      return drawn;
    });
  }

  private homeOf({ frame }: Emitter): Group {
    return frame === 'map' ? this.group : this.along;
  }

  /** The light of its place, for emitters that take it; linear. */
  lightBy(rgb: readonly [number, number, number]): void {
    this.play.effect.emitters.forEach(({ draw }, e) => {
      if (draw.as !== 'nothing' && draw.lit) (this.drawn[e]!.mesh.material.uniforms.light.value as Color).setRGB(...rgb);
    });
  }

  /** Lets time pass. @param heard takes its sounds */
  advance(seconds: number, stand: Stand, air: Air, heard?: (sound: EffectSound) => void): void {
    if (!this.warm) {
      this.warm = true;
      this.play.warmUp(stand, air);
    }
    this.owed = Math.min(MOST_STEPS, this.owed + seconds / EFFECT_STEP);
    for (; this.owed >= 1; this.owed--) {
      this.play.step(stand, air);
      if (heard) this.play.sounds.forEach(heard);
    }
    this.show(stand);
  }

  /** Draws it as it is now. */
  show({ position, turn }: Stand): void {
    this.along.position.set(...toGltf(position, this.metres));
    this.along.rotation.y = (turn * Math.PI) / 180;
    const { play } = this;
    this.drawn.forEach((drawn, e) => drawn?.update(play.pools[e], play.seedOf(e)));
    for (const { of, lamps } of this.lights) {
      const pool = play.pools[of];
      lamps.forEach((lamp, n) => {
        const lives = n < pool.count;
        lamp.intensity = lives ? (lamp.userData.intensity as number) : 0;
        if (lives) lamp.position.set(...toGltf([pool.x[n], pool.y[n], pool.z[n]], this.metres));
      });
    }
  }

  dispose(): void {
    this.group.removeFromParent();
    freeTree(this.group);
  }
}
