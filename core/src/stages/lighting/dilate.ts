import type { Atlas } from './charts.ts';

/** Fills uncovered luxels within charts from covered neighbours, so that filtering at rims sees no black. */
export function dilate(values: Float32Array, covered: Uint8Array, atlas: Atlas): void {
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
