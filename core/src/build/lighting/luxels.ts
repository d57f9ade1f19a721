/** The luxels of charts, each with the points of the surface that it stands for. */

import { dot, type Vec3 } from '../../math/vec3.ts';
import { windingCentre, windingContains } from '../../solid/winding.ts';
import type { Surface } from '../surface.ts';
import { chartCoordinates, luxelCentre, type Atlas, type Chart } from './charts.ts';

/** Distance by which rays start off the surface, in units, against hitting it. */
const BIAS = 0.05;

/** Visits every luxel of a chart that touches its surfaces, with a point in front of one of them and a finer grid of such points. */
export function forEachLuxel(
  surfaces: readonly Surface[],
  atlas: Atlas,
  chart: Chart,
  visit: (texel: number, point: Vec3, samples: (grid: number) => Vec3[]) => void,
): void {
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
      visit((chart.y + j) * atlas.width + chart.x + i, lifted, (grid) => {
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
