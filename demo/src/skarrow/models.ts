/** Low-poly models of Skarrow, in metres, standing on z = 0, x ahead. */

import { ObjBuilder } from '../objBuilder.ts';

type Colour = [number, number, number];
const BARK: Colour = [0.3, 0.22, 0.17];
const NEEDLES: Colour = [0.13, 0.24, 0.19];
const SNOW: Colour = [0.92, 0.95, 0.98];
const STONE: Colour = [0.5, 0.49, 0.5];
const DARK: Colour = [0.36, 0.35, 0.38];
const WOOD: Colour = [0.55, 0.4, 0.26];
const RUST: Colour = [0.6, 0.25, 0.16];
const STEEL: Colour = [0.62, 0.64, 0.68];
const RED: Colour = [0.78, 0.16, 0.17];
const ROPE: Colour = [0.8, 0.66, 0.4];

/** Tiers of branches with snow on each, growing narrower. */
function pine(name: string, height: number, tiers: number, lean: number) {
  const tree = new ObjBuilder(name).material('bark', BARK).turned(
    [
      [0.16, -0.4],
      [0.13, height * 0.3],
      [0.04, height * 0.92],
    ],
    6,
  );
  for (let k = 0; k < tiers; k++) {
    const low = height * (0.16 + (0.74 * k) / tiers);
    const wide = (height * 0.26 * (tiers - k + 0.4)) / tiers;
    const rise = (height * 1.25) / tiers;
    const shift: [number, number, number] = [lean * k * 0.05, (k % 2 === 0 ? 1 : -1) * 0.03, 0];
    tree.material('needles', NEEDLES).turned(
      [
        [0, low + rise * 0.08],
        [wide, low],
        [wide * 0.42, low + rise * 0.5],
      ],
      7,
      shift,
    );
    tree.material('snow', SNOW).turned(
      [
        [wide * 0.72, low + rise * 0.22],
        [wide * 0.3, low + rise * 0.62],
        [0, low + rise],
      ],
      7,
      shift,
    );
  }
  return tree.files();
}

function cairn() {
  const pile = new ObjBuilder('cairn');
  const stones: [number, number, number, number][] = [
    [0.62, 0, 0.34, 0],
    [0.5, 0.3, 0.32, 0.06],
    [0.4, 0.58, 0.3, -0.05],
    [0.3, 0.85, 0.28, 0.04],
    [0.2, 1.1, 0.26, -0.02],
  ];
  stones.forEach(([r, z, h, x], k) =>
    pile.material(k % 2 === 0 ? 'stone' : 'dark', k % 2 === 0 ? STONE : DARK).turned(
      [
        [0, z],
        [r * 0.85, z],
        [r, z + h * 0.4],
        [r * 0.8, z + h * 0.9],
        [0, z + h],
      ],
      7,
      [x, -x, 0],
    ),
  );
  pile.material('snow', SNOW).turned(
    [
      [0.17, 1.33],
      [0.1, 1.42],
      [0, 1.45],
    ],
    7,
  );
  return pile.files();
}

function boulder() {
  return new ObjBuilder('boulder')
    .material('stone', STONE)
    .turned(
      [
        [0.9, -0.5],
        [1.25, 0.2],
        [1.05, 0.75],
        [0.5, 1.15],
      ],
      7,
    )
    .material('snow', SNOW)
    .turned(
      [
        [0.86, 0.9],
        [0.5, 1.2],
        [0, 1.32],
      ],
      7,
    )
    .files();
}

/** A pole with a pennant: marks the course. */
function pole() {
  return new ObjBuilder('pole')
    .material('wood', WOOD)
    .turned(
      [
        [0, -0.4],
        [0.05, -0.4],
        [0.04, 2.5],
        [0, 2.5],
      ],
      6,
    )
    .material('red', RED)
    .box([0.04, -0.012, 1.95], [0.75, 0.012, 2.4])
    .files();
}

/** Six metres of posts and ropes, along x. */
function ropeFence() {
  const fence = new ObjBuilder('rope_fence').material('wood', WOOD);
  for (const x of [-2.9, 0, 2.9])
    fence.turned(
      [
        [0.07, -0.6],
        [0.06, 1.15],
        [0, 1.2],
      ],
      6,
      [x, 0, 0],
    );
  fence.material('rope', ROPE);
  for (const z of [0.55, 1])
    for (const [a, b, sag] of [
      [-2.9, -1.45, 0],
      [-1.45, 0, 0],
      [0, 1.45, 0],
      [1.45, 2.9, 0],
    ] as const) {
      void sag;
      fence.box([a, -0.02, z - 0.06], [b, 0.02, z - 0.02]);
    }
  return fence.files();
}

/** A shed that is ridden through: open at both ends, along x, with a snowed-in roof. */
function shed() {
  const [length, half, wall, ridge] = [11, 4, 3.4, 5.4];
  const built = new ObjBuilder('shed').material('wood', WOOD);
  for (const side of [-1, 1]) {
    const [a, b] = [side * half, side * (half - 0.25)].sort((p, q) => p - q);
    built.box([-length / 2, a, -1.5], [length / 2, b, wall]);
    for (let k = 0; k <= 4; k++) {
      const x = -length / 2 + (length * k) / 4;
      built.material('rust', RUST).box([x - 0.12, side > 0 ? half : -half - 0.12, -1.5], [x + 0.12, side > 0 ? half + 0.12 : -half, wall + 0.1]);
      built.material('wood', WOOD);
    }
  }
  // The roof in steps from the eaves to the ridge, with a cover of snow.
  const steps = 6;
  for (let k = 0; k < steps; k++) {
    const [t0, t1] = [k / steps, (k + 1) / steps];
    for (const side of [-1, 1]) {
      const [y0, y1] = [side * (half + 0.5) * (1 - t0), side * (half + 0.5) * (1 - t1)].sort((p, q) => p - q);
      const z = wall + (ridge - wall) * t0;
      built.material('rust', RUST).box([-length / 2 - 0.5, y0, z], [length / 2 + 0.5, y1, z + 0.22]);
      built.material('snow', SNOW).box([-length / 2 - 0.55, y0, z + 0.22], [length / 2 + 0.55, y1, z + 0.5]);
    }
  }
  built.material('wood', WOOD).box([-length / 2 + 0.05, -0.15, ridge - 0.9], [length / 2 - 0.05, 0.15, ridge - 0.6]);
  return built.files();
}

/** Two runners, a slatted deck, a bar to hold, and a mast for the lines of the kite. */
function sled() {
  const built = new ObjBuilder('sled').material('steel', STEEL);
  for (const side of [-0.45, 0.45]) {
    built.box([-1.15, side - 0.035, 0], [0.85, side + 0.035, 0.08]);
    built.box([0.85, side - 0.035, 0.03], [1.1, side + 0.035, 0.13]);
    built.box([1.1, side - 0.035, 0.12], [1.25, side + 0.035, 0.32]);
    for (const x of [-0.9, 0.1, 0.75]) built.box([x - 0.03, side - 0.025, 0.08], [x + 0.03, side + 0.025, 0.3]);
  }
  built.material('wood', WOOD);
  for (let k = 0; k < 6; k++) built.box([-1.1, -0.46 + k * 0.16, 0.3], [0.95, -0.34 + k * 0.16, 0.36]);
  built.material('red', RED).box([0.95, -0.5, 0.28], [1.12, 0.5, 0.52]);
  built.material('steel', STEEL).turned(
    [
      [0, 0.36],
      [0.035, 0.36],
      [0.03, 1.15],
      [0, 1.15],
    ],
    6,
    [0.7, 0, 0],
  );
  built.material('rope', ROPE).box([0.62, -0.42, 1.02], [0.7, 0.42, 1.1]);
  // Whoever rides it: crouched, hands on the bar.
  built.material('coat', [0.2, 0.28, 0.45]).turned(
    [
      [0, 0.36],
      [0.26, 0.4],
      [0.3, 0.8],
      [0.24, 1.15],
      [0.1, 1.3],
    ],
    8,
    [-0.25, 0, 0],
  );
  built.material('face', [0.86, 0.68, 0.55]).turned(
    [
      [0, 1.26],
      [0.13, 1.34],
      [0.15, 1.46],
      [0.1, 1.56],
    ],
    8,
    [-0.2, 0, 0],
  );
  built.material('red', RED).turned(
    [
      [0.17, 1.47],
      [0.16, 1.56],
      [0.05, 1.72],
      [0, 1.74],
    ],
    8,
    [-0.2, 0, 0],
  );
  built.material('coat', [0.2, 0.28, 0.45]);
  for (const side of [-0.24, 0.24]) built.box([-0.2, side - 0.06, 0.95], [0.62, side + 0.06, 1.07]);
  return built.files();
}

/** A banner between two poles, across y: greets riders. */
function bannerArch() {
  return new ObjBuilder('banner')
    .material('wood', WOOD)
    .turned(
      [
        [0.1, -1],
        [0.08, 4.6],
        [0, 4.7],
      ],
      6,
      [0, -1.1, 0],
    )
    .material('red', RED)
    .box([-0.02, -1, 1.6], [0.02, 0.2, 4.4])
    .material('snow', SNOW)
    .box([-0.03, -1, 2.6], [0.03, 0.2, 3.1])
    .files();
}

export const MODELS: Record<string, { obj: string; mtl: string }> = {
  pine_tall: pine('pine_tall', 8.5, 5, 1),
  pine_small: pine('pine_small', 4.2, 4, -1),
  cairn: cairn(),
  boulder: boulder(),
  pole: pole(),
  rope_fence: ropeFence(),
  shed: shed(),
  sled: sled(),
  banner: bannerArch(),
};
