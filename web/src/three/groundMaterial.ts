/**
 * How ground is drawn: up to eight surfaces mixed by weights, each with its texture at two sizes so that it neither repeats visibly
 * from afar nor blurs at one's feet, under light that was built or under the scene's lamps.
 */

import type { Vector2 } from 'three';
import { Color, MeshLambertMaterial, type Texture } from 'three';

export interface GroundSurface {
  texture: Texture | null;
  /** Mean colour, and what a texture stands for where it is far away. */
  colour: Color;
  /** Repeats of the texture per metre. */
  repeats: number;
}

const MOST = 8;

/**
 * @param weights pictures of four surfaces each, over the part of the ground that is drawn
 * @param span metres that the pictures cover, from their middle of the first texel to that of the last
 * @param light picture of E/π over the same part, in place of the scene's lamps; or null
 */
export function groundMaterial(
  surfaces: readonly GroundSurface[],
  weights: readonly (Texture | null)[],
  size: { texels: Vector2 },
  light: { texture: Texture; texels: Vector2 } | null,
): MeshLambertMaterial {
  const material = new MeshLambertMaterial({ color: '#ffffff' });
  const used = surfaces.slice(0, MOST);
  // Each surface has a sampler of its own; graphics cards give sixteen.
  const textures = used.map(({ texture }) => texture);
  const first = textures.find((texture) => texture !== null) ?? null;
  material.defines = { USE_UV: '' };
  material.onBeforeCompile = (shader) => {
    used.forEach(({ colour, repeats, texture }, k) => {
      shader.uniforms[`surface${k}`] = { value: texture ?? first };
      shader.uniforms[`tint${k}`] = { value: texture ? new Color('#ffffff') : colour };
      shader.uniforms[`mean${k}`] = { value: colour };
      shader.uniforms[`repeats${k}`] = { value: texture ? repeats : 0 };
    });
    weights.forEach((texture, k) => (shader.uniforms[`weights${k}`] = { value: texture }));
    shader.uniforms.texels = { value: size.texels };
    shader.uniforms.built = { value: light?.texture ?? null };
    shader.uniforms.builtTexels = { value: light?.texels ?? size.texels };
    const declared = [
      ...used.map(
        (_, k) => `uniform vec3 tint${k}; uniform vec3 mean${k}; uniform float repeats${k};${first ? ` uniform sampler2D surface${k};` : ''}`,
      ),
      ...weights.map((texture, k) => (texture ? `uniform sampler2D weights${k};` : '')),
      'uniform vec2 texels; uniform vec2 builtTexels;',
      light ? 'uniform sampler2D built;' : '',
      'varying vec2 vGround; varying vec3 vWorld;',
    ].join('\n');
    const mixed = used
      .map((_, k) => {
        const weight = weights[k >> 2] ? `w${k >> 2}.${'rgba'[k & 3]}` : k === 0 ? '1.0' : '0.0';
        const look = first
          ? `(repeats${k} > 0.0 ? mix(texture2D(surface${k}, vWorld.xz * repeats${k}).rgb * mix(vec3(1.0), texture2D(surface${k}, vWorld.xz * repeats${k} * 0.137).rgb / max(mean${k}, vec3(0.05)), 0.5), mean${k}, fade) : tint${k})`
          : `tint${k}`;
        return `{ float w = ${weight}; if (w > 0.003) { sum += ${look} * w; total += w; } }`;
      })
      .join('\n');
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', '#include <common>\nattribute vec2 ground;\nvarying vec2 vGround; varying vec3 vWorld;')
      .replace('#include <begin_vertex>', '#include <begin_vertex>\nvGround = ground;\nvWorld = (modelMatrix * vec4(position, 1.0)).xyz;');
    shader.fragmentShader = shader.fragmentShader.replace('#include <common>', `#include <common>\n${declared}`).replace(
      '#include <map_fragment>',
      `
      vec2 at = (vGround * (texels - 1.0) + 0.5) / texels;
      ${weights.map((texture, k) => (texture ? `vec4 w${k} = texture2D(weights${k}, at);` : '')).join('\n')}
      float fade = smoothstep(120.0, 900.0, length(vWorld - cameraPosition)) * 0.75;
      vec3 sum = vec3(0.0); float total = 0.0;
      ${mixed}
      diffuseColor.rgb *= sum / max(total, 0.001);
      ${light ? 'totalEmissiveRadiance += diffuseColor.rgb * texture2D(built, (vGround * (builtTexels - 1.0) + 0.5) / builtTexels).rgb;' : ''}
    `,
    );
  };
  // Built light is all there is: lamps of the scene are for what has none.
  if (light) {
    const before = material.onBeforeCompile;
    material.onBeforeCompile = (shader, renderer) => {
      before(shader, renderer);
      for (const part of ['begin', 'maps', 'end']) shader.fragmentShader = shader.fragmentShader.replace(`#include <lights_fragment_${part}>`, '');
    };
  }
  // Shaders of other numbers of surfaces and pictures are other programs.
  material.customProgramCacheKey = () => `ground/${used.length}/${first !== null}/${weights.map((w) => (w ? 1 : 0)).join('')}/${light !== null}`;
  return material;
}
