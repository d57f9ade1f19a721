/**
 * Turbulent air: the curl of a field of noise, which gathers nothing anywhere since no curl has a divergence
 * (R. Bridson, J. Hourihan, M. Nordenstam, "Curl-noise for procedural fluid flow", SIGGRAPH 2007). The field is a·∇b of
 * two noises, whose curl is ∇a × ∇b: two gradients instead of three, and exact ones instead of differences.
 */

/** Gradients of two noises at once, to be crossed. */
const slope = new Float64Array(6);

const lattice = (x: number, y: number, z: number): number => {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(z, 0x1b873593);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  return h ^ (h >>> 13);
};

/**
 * The speed of the air at a point whose unit is one eddy, into `out`; no component is beyond ±1 by much, the mean square is about 0.3.
 * Values lie at whole points and go over by 6t⁵ − 15t⁴ + 10t³, which is smooth to the second derivative.
 */
export function curl(px: number, py: number, pz: number, out: Float64Array): void {
  const [x0, y0, z0] = [Math.floor(px), Math.floor(py), Math.floor(pz)];
  const x = px - x0;
  const y = py - y0;
  const z = pz - z0;
  const u = x * x * x * (x * (x * 6 - 15) + 10);
  const v = y * y * y * (y * (y * 6 - 15) + 10);
  const w = z * z * z * (z * (z * 6 - 15) + 10);
  const du = 30 * x * x * (x * (x - 2) + 1);
  const dv = 30 * y * y * (y * (y - 2) + 1);
  const dw = 30 * z * z * (z * (z - 2) + 1);
  const h000 = lattice(x0, y0, z0);
  const h100 = lattice(x0 + 1, y0, z0);
  const h010 = lattice(x0, y0 + 1, z0);
  const h110 = lattice(x0 + 1, y0 + 1, z0);
  const h001 = lattice(x0, y0, z0 + 1);
  const h101 = lattice(x0 + 1, y0, z0 + 1);
  const h011 = lattice(x0, y0 + 1, z0 + 1);
  const h111 = lattice(x0 + 1, y0 + 1, z0 + 1);
  for (let noise = 0; noise < 2; noise++) {
    // The two noises are the two halves of one hash.
    const shift = noise * 16;
    const a = ((h000 >>> shift) & 0xffff) / 32768 - 1;
    const b = ((h100 >>> shift) & 0xffff) / 32768 - 1;
    const c = ((h010 >>> shift) & 0xffff) / 32768 - 1;
    const d = ((h110 >>> shift) & 0xffff) / 32768 - 1;
    const e = ((h001 >>> shift) & 0xffff) / 32768 - 1;
    const f = ((h101 >>> shift) & 0xffff) / 32768 - 1;
    const g = ((h011 >>> shift) & 0xffff) / 32768 - 1;
    const h = ((h111 >>> shift) & 0xffff) / 32768 - 1;
    const at = noise * 3;
    slope[at] = du * ((1 - w) * ((1 - v) * (b - a) + v * (d - c)) + w * ((1 - v) * (f - e) + v * (h - g)));
    slope[at + 1] = dv * ((1 - w) * ((1 - u) * (c - a) + u * (d - b)) + w * ((1 - u) * (g - e) + u * (h - f)));
    slope[at + 2] = dw * ((1 - v) * ((1 - u) * (e - a) + u * (f - b)) + v * ((1 - u) * (g - c) + u * (h - d)));
  }
  out[0] = slope[1] * slope[5] - slope[2] * slope[4];
  out[1] = slope[2] * slope[3] - slope[0] * slope[5];
  out[2] = slope[0] * slope[4] - slope[1] * slope[3];
}
