/**
 * Fog that thins upwards: density ρ(y) = ρ₀ e^(−y/h), of which light loses e^(−∫ρ) on its way (Beer and Lambert). The way's integral is exact:
 * ρ(eye) · length · (1 − e^(−Δy/h)) / (Δy/h). It takes the place of three.js's linear fog, which nothing here uses; its two numbers carry ρ₀ and 1/h.
 */

import { Fog, ShaderChunk } from 'three';

ShaderChunk.fog_pars_vertex = `
#ifdef USE_FOG
  varying float vFogDepth;
  varying float vFogY;
#endif`;
ShaderChunk.fog_vertex = `
#ifdef USE_FOG
  vFogDepth = length(mvPosition.xyz);
  vFogY = (inverse(viewMatrix) * mvPosition).y;
#endif`;
ShaderChunk.fog_pars_fragment = `
#ifdef USE_FOG
  uniform vec3 fogColor;
  varying float vFogDepth;
  varying float vFogY;
  #ifdef FOG_EXP2
    uniform float fogDensity;
  #else
    uniform float fogNear;
    uniform float fogFar;
  #endif
#endif`;
ShaderChunk.fog_fragment = `
#ifdef USE_FOG
  #ifdef FOG_EXP2
    float fogFactor = 1.0 - exp(-fogDensity * fogDensity * vFogDepth * vFogDepth);
  #else
    float fogRise = fogFar * (vFogY - cameraPosition.y);
    float fogMean = abs(fogRise) < 1e-3 ? 1.0 - fogRise * 0.5 : (1.0 - exp(-clamp(fogRise, -40.0, 40.0))) / fogRise;
    float fogThere = fogNear * exp(clamp(-fogFar * cameraPosition.y, -40.0, 20.0));
    float fogFactor = 1.0 - exp(-min(60.0, fogThere * fogMean * vFogDepth));
  #endif
  gl_FragColor.rgb = mix(gl_FragColor.rgb, fogColor, fogFactor);
#endif`;

/** @param distance at which two thirds are hidden at height 0, metres; @param height in which it thins to a third, metres, 0 for nowhere */
export const heightFog = (colour: string, distance: number, height: number): Fog =>
  new Fog(colour, Math.log(3) / distance, height > 0 ? Math.log(3) / height : 0);
