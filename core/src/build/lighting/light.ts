/**
 * Direct light from point lights and the sky, with shadow rays, and one diffuse bounce.
 *
 * The lightmap holds E/π (irradiance over π): 1 is what makes a matt white surface look white.
 * A point light of intensity I (candela) gives E = I cos θ / d², d in metres (inverse square law and
 * Lambert's cosine law). Where a light has a reach r, that is multiplied by the window (1 - (d/r)⁴)²,
 * which is 1 near the light and falls smoothly to 0 at r, so that far charts need no ray.
 */

import { cross, dot, normalise, type Vec3 } from '../../math/vec3.ts';
import { windingCentre, windingContains } from '../../solid/winding.ts';
import type { BuildMaterial, Surface } from '../surface.ts';
import { buildBvh, castRay, type Bvh, type Hit } from './bvh.ts';
import { chartCoordinates, luxelCentre, type Atlas } from './charts.ts';

export interface PointLight {
  position: Vec3;
  /** Linear red, green, blue in 0..1. */
  colour: [number, number, number];
  /** Candela. */
  intensity: number;
  /** Units; 0 for no limit. */
  reach: number;
  /** Light only within a cone about `direction` (unit, away from the light), fading from the cosine `inner` to `outer`. */
  cone?: { direction: Vec3; inner: number; outer: number };
}

/** Parallel light, as from the sun: `colour` × `intensity` is E/π of a surface that faces it. */
export interface SunLight {
  /** Unit vector towards the sun. */
  towards: Vec3;
  colour: [number, number, number];
  intensity: number;
  /** Angle that the disc of the sun is wide, in radians; 0 for sharp shadows. */
  size: number;
}

export interface LightingInputs {
  surfaces: readonly Surface[];
  /** Three corners per occluding triangle, nine numbers each, and the surface of each (-1 for none). */
  occluders: Float32Array;
  occluderSurface: Int32Array;
  lights: readonly PointLight[];
  suns: readonly SunLight[];
  sky: { colour: [number, number, number]; radiance: number };
  albedo: (material: string) => BuildMaterial['albedo'];
  metresPerUnit: number;
}

export interface LightingOptions {
  /** Rays per luxel for sky and bounce; 0 leaves both out. */
  hemisphereRays: number;
  /** Shadow rays per luxel and light along one axis of a grid within the luxel: 2 takes 4 samples. */
  supersample: number;
  /** Shadow rays over the disc of a wide sun. */
  sunRays: number;
}

/** Distance by which rays start off the surface, in units, against hitting it. */
const BIAS = 0.05;

/** Linear RGB triples, row by row, atlas.width × atlas.height. */
export function lightAtlas(
  inputs: LightingInputs,
  atlas: Atlas,
  options: LightingOptions,
  onProgress: (fraction: number) => void = () => {},
): Float32Array {
  const bvh = buildBvh(inputs.occluders);
  const size = atlas.width * atlas.height;
  const direct = new Float32Array(size * 3);
  const covered = new Uint8Array(size);
  const chartOfSurface = new Int32Array(inputs.surfaces.length).fill(-1);
  atlas.charts.forEach((chart, index) => chart.surfaces.forEach((surface) => (chartOfSurface[surface] = index)));
  const total = atlas.charts.reduce((sum, chart) => sum + chart.w * chart.h, 0) || 1;
  const passes = options.hemisphereRays > 0 ? 2 : 1;

  forEachLuxel(
    inputs.surfaces,
    atlas,
    (chart, texel, _point, samples) => {
      covered[texel] = 1;
      const sum = [0, 0, 0];
      const grid = samples(options.supersample);
      for (const sample of grid) {
        addPointLights(inputs, bvh, sample, chart.normal, sum);
        addSuns(inputs, bvh, sample, chart.normal, texel, options.sunRays, sum);
      }
      for (let k = 0; k < 3; k++) direct[texel * 3 + k] = sum[k] / grid.length;
    },
    (done) => onProgress(done / total / passes),
  );

  const result = Float32Array.from(direct);
  if (options.hemisphereRays > 0) {
    const directions = cosineDirections(options.hemisphereRays);
    forEachLuxel(
      inputs.surfaces,
      atlas,
      (chart, texel, point) => {
        const sum = gatherHemisphere(inputs, bvh, atlas, chartOfSurface, direct, covered, point, chart, directions, texel);
        for (let k = 0; k < 3; k++) result[texel * 3 + k] += sum[k];
      },
      (done) => onProgress(0.5 + done / total / 2),
    );
  }
  dilate(result, covered, atlas);
  return result;
}

type Chart = Atlas['charts'][number];

/** Visits every luxel that touches its chart's surfaces, with a sample point that lies on one of them. */
function forEachLuxel(
  surfaces: readonly Surface[],
  atlas: Atlas,
  visit: (chart: Chart, texel: number, point: Vec3, samples: (grid: number) => Vec3[]) => void,
  onDone: (luxels: number) => void,
): void {
  let done = 0;
  for (const chart of atlas.charts) {
    const polygons = chart.surfaces.map((index) => surfaces[index].winding);
    const onSurface = (p: Vec3) => polygons.some((winding) => windingContains(winding, chart.normal, p, 0.01));
    for (let j = 0; j < chart.h; j++) {
      for (let i = 0; i < chart.w; i++) {
        const centre = luxelCentre(chart, i, j);
        let point: Vec3 | null = onSurface(centre) ? centre : null;
        if (!point) {
          // A luxel at the rim: use the nearest surface point if the luxel overlaps the surface at all.
          const near = nearestOnPolygons(centre, polygons);
          const [ni, nj] = chartCoordinates(chart, near);
          if (Math.abs(ni - i - 0.5) <= 1.0 && Math.abs(nj - j - 0.5) <= 1.0) point = near;
        }
        if (!point) continue;
        const lifted = lift(point, chart.normal);
        visit(chart, (chart.y + j) * atlas.width + chart.x + i, lifted, (grid) => {
          if (grid <= 1) return [lifted];
          const points: Vec3[] = [];
          for (let b = 0; b < grid; b++) {
            for (let a = 0; a < grid; a++) {
              const p = luxelCentre(chart, i + (a + 0.5) / grid - 0.5, j + (b + 0.5) / grid - 0.5);
              if (onSurface(p)) points.push(lift(p, chart.normal));
            }
          }
          return points.length > 0 ? points : [lifted];
        });
      }
    }
    done += chart.w * chart.h;
    onDone(done);
  }
}

const lift = (p: Vec3, n: Vec3): Vec3 => [p[0] + n[0] * BIAS, p[1] + n[1] * BIAS, p[2] + n[2] * BIAS];

/** The nearest point on the polygons' edges, drawn 0.1 % towards the polygon's centre to stay off corners. */
function nearestOnPolygons(point: Vec3, polygons: readonly Vec3[][]): Vec3 {
  let best: Vec3 = polygons[0][0];
  let bestDistance = Infinity;
  for (const winding of polygons) {
    const centre = windingCentre(winding);
    for (let i = 0; i < winding.length; i++) {
      const a = winding[i];
      const b = winding[(i + 1) % winding.length];
      const ab: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
      const t = Math.min(1, Math.max(0, dot([point[0] - a[0], point[1] - a[1], point[2] - a[2]], ab) / (dot(ab, ab) || 1)));
      const q: Vec3 = [a[0] + ab[0] * t, a[1] + ab[1] * t, a[2] + ab[2] * t];
      const d = (q[0] - point[0]) ** 2 + (q[1] - point[1]) ** 2 + (q[2] - point[2]) ** 2;
      if (d < bestDistance) {
        bestDistance = d;
        best = [q[0] + (centre[0] - q[0]) * 1e-3, q[1] + (centre[1] - q[1]) * 1e-3, q[2] + (centre[2] - q[2]) * 1e-3];
      }
    }
  }
  return best;
}

const scratchHit: Hit = { triangle: -1, distance: 0 };

function addPointLights(inputs: LightingInputs, bvh: Bvh, point: Vec3, normal: Vec3, sum: number[]): void {
  for (const light of inputs.lights) {
    const dx = light.position[0] - point[0];
    const dy = light.position[1] - point[1];
    const dz = light.position[2] - point[2];
    const squared = dx * dx + dy * dy + dz * dz;
    if (light.reach > 0 && squared >= light.reach * light.reach) continue;
    const along = dx * normal[0] + dy * normal[1] + dz * normal[2];
    if (along <= 0 || squared < 1e-9) continue;
    const spread = light.cone ? coneFade(light.cone, dx, dy, dz, Math.sqrt(squared)) : 1;
    if (spread === 0) continue;
    if (castRay(bvh, point[0], point[1], point[2], dx, dy, dz, 0, 1, true, scratchHit)) continue;
    const cosine = along / Math.sqrt(squared);
    const metresSquared = squared * inputs.metresPerUnit * inputs.metresPerUnit;
    const window = light.reach > 0 ? (1 - (squared / (light.reach * light.reach)) ** 2) ** 2 : 1;
    const value = (light.intensity * cosine * window * spread) / metresSquared / Math.PI;
    for (let k = 0; k < 3; k++) sum[k] += value * light.colour[k];
  }
}

/** 1 within the inner cone, 0 outside the outer one, and a smooth step between. (dx, dy, dz) leads to the light. */
function coneFade(cone: NonNullable<PointLight['cone']>, dx: number, dy: number, dz: number, distance: number): number {
  const cosine = -(cone.direction[0] * dx + cone.direction[1] * dy + cone.direction[2] * dz) / distance;
  if (cosine <= cone.outer) return 0;
  if (cosine >= cone.inner) return 1;
  const t = (cosine - cone.outer) / (cone.inner - cone.outer);
  return t * t * (3 - 2 * t);
}

/** Adds what arrives from suns; a sun that is wide casts `rays` over its disc, turned by luxel against banding. */
function addSuns(inputs: LightingInputs, bvh: Bvh, point: Vec3, normal: Vec3, seed: number, rays: number, sum: number[]): void {
  for (const sun of inputs.suns) {
    const cosine = dot(sun.towards, normal);
    if (cosine <= 0) continue;
    const count = sun.size > 0 ? Math.max(1, rays) : 1;
    const [right, up] = frameOf(sun.towards);
    const turn = ((seed * 2654435761) >>> 0) * (2 * Math.PI * 2.3283064365386963e-10);
    let free = 0;
    for (let i = 0; i < count; i++) {
      // A Fibonacci spiral covers the disc evenly: r = √((i + ½)/n), golden angle between neighbours.
      const r = count > 1 ? Math.tan(sun.size / 2) * Math.sqrt((i + 0.5) / count) : 0;
      const angle = turn + i * Math.PI * (3 - Math.sqrt(5));
      const a = r * Math.cos(angle);
      const b = r * Math.sin(angle);
      const dx = sun.towards[0] + right[0] * a + up[0] * b;
      const dy = sun.towards[1] + right[1] * a + up[1] * b;
      const dz = sun.towards[2] + right[2] * a + up[2] * b;
      if (!castRay(bvh, point[0], point[1], point[2], dx, dy, dz, 0, 1e7, true, scratchHit)) free++;
    }
    const value = (sun.intensity * cosine * free) / count;
    for (let k = 0; k < 3; k++) sum[k] += value * sun.colour[k];
  }
}

function frameOf(n: Vec3): [Vec3, Vec3] {
  const right = normalise(cross(Math.abs(n[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0], n));
  return [right, cross(n, right)];
}

/**
 * Cosine-weighted directions on the hemisphere about +z by Malley's method over a Hammersley set (Pharr,
 * Jakob and Humphreys, "Physically Based Rendering", 13.6.3): the mean over them estimates E/π.
 */
export function cosineDirections(count: number): Vec3[] {
  return Array.from({ length: count }, (_, i): Vec3 => {
    let bits = i;
    bits = ((bits << 16) | (bits >>> 16)) >>> 0;
    bits = (((bits & 0x55555555) << 1) | ((bits & 0xaaaaaaaa) >>> 1)) >>> 0;
    bits = (((bits & 0x33333333) << 2) | ((bits & 0xcccccccc) >>> 2)) >>> 0;
    bits = (((bits & 0x0f0f0f0f) << 4) | ((bits & 0xf0f0f0f0) >>> 4)) >>> 0;
    bits = (((bits & 0x00ff00ff) << 8) | ((bits & 0xff00ff00) >>> 8)) >>> 0;
    const radius = Math.sqrt((i + 0.5) / count);
    const angle = 2 * Math.PI * (bits * 2.3283064365386963e-10);
    return [radius * Math.cos(angle), radius * Math.sin(angle), Math.sqrt(Math.max(0, 1 - radius * radius))];
  });
}

function gatherHemisphere(
  inputs: LightingInputs,
  bvh: Bvh,
  atlas: Atlas,
  chartOfSurface: Int32Array,
  direct: Float32Array,
  covered: Uint8Array,
  point: Vec3,
  chart: Chart,
  directions: readonly Vec3[],
  seed: number,
): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  // Rotating the set per luxel turns banding into noise; the angle depends on the luxel alone.
  const angle = ((seed * 2654435761) >>> 0) * (2 * Math.PI * 2.3283064365386963e-10);
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const { u, v, normal } = chart;
  for (const [a, b, z] of directions) {
    const x = a * c - b * s;
    const y = a * s + b * c;
    const dx = u[0] * x + v[0] * y + normal[0] * z;
    const dy = u[1] * x + v[1] * y + normal[1] * z;
    const dz = u[2] * x + v[2] * y + normal[2] * z;
    if (!castRay(bvh, point[0], point[1], point[2], dx, dy, dz, 0, 1e7, false, scratchHit)) {
      for (let k = 0; k < 3; k++) sum[k] += inputs.sky.colour[k] * inputs.sky.radiance;
      continue;
    }
    const surface = inputs.occluderSurface[scratchHit.triangle];
    if (surface < 0 || chartOfSurface[surface] < 0) continue;
    const other = atlas.charts[chartOfSurface[surface]];
    // Seen from behind, a surface gives no light.
    if (dx * other.normal[0] + dy * other.normal[1] + dz * other.normal[2] >= 0) continue;
    const d = scratchHit.distance;
    const [i, j] = chartCoordinates(other, [point[0] + dx * d, point[1] + dy * d, point[2] + dz * d]);
    const texel =
      (other.y + Math.min(other.h - 1, Math.max(0, Math.floor(j)))) * atlas.width + other.x + Math.min(other.w - 1, Math.max(0, Math.floor(i)));
    if (!covered[texel]) continue;
    const albedo = inputs.albedo(inputs.surfaces[surface].material);
    for (let k = 0; k < 3; k++) sum[k] += direct[texel * 3 + k] * albedo[k];
  }
  for (let k = 0; k < 3; k++) sum[k] /= directions.length;
  return sum;
}

/** Fills uncovered luxels within charts from covered neighbours, so that filtering at rims sees no black. */
function dilate(values: Float32Array, covered: Uint8Array, atlas: Atlas): void {
  for (const chart of atlas.charts) {
    for (let round = 0; round < 2; round++) {
      const fresh: number[] = [];
      for (let y = chart.y; y < chart.y + chart.h; y++) {
        for (let x = chart.x; x < chart.x + chart.w; x++) {
          const texel = y * atlas.width + x;
          if (covered[texel]) continue;
          let n = 0;
          const sum = [0, 0, 0];
          for (let dy = -1; dy <= 1; dy++) {
            for (let dx = -1; dx <= 1; dx++) {
              const [nx, ny] = [x + dx, y + dy];
              if (nx < chart.x || ny < chart.y || nx >= chart.x + chart.w || ny >= chart.y + chart.h) continue;
              const neighbour = ny * atlas.width + nx;
              if (!covered[neighbour]) continue;
              n++;
              for (let k = 0; k < 3; k++) sum[k] += values[neighbour * 3 + k];
            }
          }
          if (n === 0) continue;
          fresh.push(texel);
          for (let k = 0; k < 3; k++) values[texel * 3 + k] = sum[k] / n;
        }
      }
      for (const texel of fresh) covered[texel] = 1;
    }
  }
}
