/** Skies of the demo game, drawn from formulas and written as Radiance HDR. */

const WIDTH = 256;
const HEIGHT = 128;

/** An evening: violet above, a warm band low in the west (turn 180°), dim water below the horizon. */
export function duskSky(): Uint8Array {
  return radianceHdr(WIDTH, HEIGHT, (x, y) => {
    const latitude = (0.5 - y / HEIGHT) * Math.PI;
    const turn = Math.PI - (x / WIDTH) * 2 * Math.PI;
    if (latitude < 0) return [0.05, 0.055, 0.08];
    const up = Math.sin(latitude);
    const west = 0.5 - 0.5 * Math.cos(turn);
    const glow = 5 * west ** 3 * Math.exp(-up * 7);
    return [0.5 + 0.1 * up + glow, 0.48 + 0.22 * up + glow * 0.55, 0.66 + 0.5 * up + glow * 0.25];
  });
}

/** A clear winter day: deep blue above, pale and warm towards the horizon, brightest about the sun in the south-west (turn 215°). */
export function ridgeSky(): Uint8Array {
  return radianceHdr(WIDTH * 2, HEIGHT * 2, (x, y) => {
    const latitude = (0.5 - y / (HEIGHT * 2)) * Math.PI;
    const turn = Math.PI - (x / (WIDTH * 2)) * 2 * Math.PI;
    const up = Math.sin(latitude);
    // Below the horizon lies haze, as bright as above it: land ends in it.
    if (latitude < 0) return [0.74, 0.83, 0.95];
    const haze = Math.exp(-up * 5);
    const sun = Math.max(0, Math.cos(turn - (215 / 180) * Math.PI) * Math.cos(latitude) * Math.cos(0.42) + up * Math.sin(0.42));
    const glow = 0.5 * sun ** 6 + 0.9 * sun ** 60;
    // Thin high clouds, drawn out along the wind.
    const band = Math.sin(turn * 3 + up * 9) * Math.sin(turn * 7 - up * 4 + 1.3) + Math.sin(turn * 13 + up * 21) * 0.35;
    const cloud = Math.max(0, band - 0.15) * 0.35 * Math.exp(-((up - 0.3) ** 2) * 14);
    return [0.2 + 0.55 * haze + glow + cloud, 0.38 + 0.47 * haze + glow * 0.9 + cloud, 0.78 + 0.2 * haze + glow * 0.7 + cloud];
  });
}

/** Pixels as RGBE, not run-length coded (Ward 1991, "Real Pixels"). */
function radianceHdr(width: number, height: number, light: (x: number, y: number) => [number, number, number]): Uint8Array {
  const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`);
  const bytes = new Uint8Array(head.length + width * height * 4);
  bytes.set(head);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const rgb = light(x + 0.5, y + 0.5);
      const exponent = Math.ceil(Math.log2(Math.max(...rgb, 1e-9)));
      const at = head.length + (y * width + x) * 4;
      rgb.forEach((v, k) => (bytes[at + k] = Math.min(255, Math.floor((v / 2 ** exponent) * 256))));
      bytes[at + 3] = exponent + 128;
    }
  return bytes;
}
