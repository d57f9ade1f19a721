/** Low-poly models of Brinewick, in metres, standing on z = 0. */

import { ObjBuilder } from './objBuilder.ts';

const BRASS: [number, number, number] = [0.72, 0.56, 0.28];
const IRON: [number, number, number] = [0.28, 0.28, 0.31];
const WOOD: [number, number, number] = [0.46, 0.32, 0.2];
const GLASS: [number, number, number] = [0.95, 0.86, 0.62];
const RED: [number, number, number] = [0.5, 0.2, 0.17];

function lampPost() {
  return new ObjBuilder('lamp_post')
    .material('iron', IRON)
    .turned(
      [
        [0, 0],
        [0.2, 0],
        [0.2, 0.06],
        [0.08, 0.14],
        [0.045, 0.2],
        [0.045, 1.05],
        [0.1, 1.1],
      ],
      10,
    )
    .material('glass', GLASS)
    .turned(
      [
        [0.1, 1.1],
        [0.14, 1.2],
        [0.12, 1.38],
      ],
      8,
    )
    .material('brass', BRASS)
    .turned(
      [
        [0.17, 1.38],
        [0.1, 1.46],
        [0.03, 1.5],
        [0, 1.54],
      ],
      8,
    )
    .turned(
      [
        [0, 1.38],
        [0.17, 1.38],
      ],
      8,
    )
    .files();
}

function crank() {
  return new ObjBuilder('crank')
    .material('iron', IRON)
    .box([-0.2, -0.28, 0], [0.2, 0.28, 0.1])
    .box([-0.1, -0.16, 0.1], [0.1, 0.16, 0.86])
    .material('brass', BRASS)
    .turned(
      [
        [0, 0.1],
        [0.1, 0.1],
        [0.1, 0.24],
        [0, 0.24],
      ],
      10,
      [0, 0, 0.8],
      'x',
    )
    .turned(
      [
        [0.3, 0.16],
        [0.34, 0.16],
        [0.34, 0.2],
        [0.3, 0.2],
        [0.3, 0.16],
      ],
      16,
      [0, 0, 0.8],
      'x',
    )
    .box([0.165, -0.31, 0.78], [0.195, 0.31, 0.82])
    .box([0.165, -0.02, 0.49], [0.195, 0.02, 1.11])
    .material('wood', WOOD)
    .turned(
      [
        [0, 0.2],
        [0.035, 0.2],
        [0.035, 0.36],
        [0, 0.36],
      ],
      8,
      [0, 0, 1.1],
      'x',
    )
    .files();
}

function crateBox() {
  const b = new ObjBuilder('crate').material('wood', WOOD).box([-0.38, -0.38, 0.02], [0.38, 0.38, 0.74]).material('slat', [0.36, 0.25, 0.16]);
  for (const z of [0, 0.66]) b.box([-0.4, -0.4, z], [0.4, 0.4, z + 0.1]);
  for (const [x, y] of [
    [-0.4, -0.4],
    [0.3, -0.4],
    [-0.4, 0.3],
    [0.3, 0.3],
  ])
    b.box([x, y, 0.1], [x + 0.1, y + 0.1, 0.66]);
  return b.files();
}

function barrel() {
  return new ObjBuilder('barrel')
    .material('wood', WOOD)
    .turned(
      [
        [0, 0],
        [0.27, 0],
        [0.33, 0.28],
        [0.34, 0.45],
        [0.33, 0.62],
        [0.27, 0.9],
        [0, 0.9],
      ],
      12,
    )
    .material('iron', IRON)
    .turned(
      [
        [0.315, 0.18],
        [0.335, 0.2],
        [0.345, 0.26],
        [0.33, 0.27],
      ],
      12,
    )
    .turned(
      [
        [0.33, 0.63],
        [0.345, 0.64],
        [0.335, 0.7],
        [0.315, 0.72],
      ],
      12,
    )
    .files();
}

function bench() {
  const b = new ObjBuilder('bench').material('wood', WOOD).box([-0.8, -0.2, 0.42], [0.8, 0.2, 0.48]);
  b.material('iron', IRON);
  for (const x of [-0.7, 0.62]) b.box([x, -0.18, 0], [x + 0.08, 0.18, 0.42]);
  return b.files();
}

function valve() {
  return new ObjBuilder('valve')
    .material('iron', IRON)
    .turned(
      [
        [0, -0.8],
        [0.14, -0.8],
        [0.14, 0.8],
        [0, 0.8],
      ],
      12,
      [0, 0, 0.6],
      'x',
    )
    .turned(
      [
        [0.14, -0.1],
        [0.24, -0.1],
        [0.24, 0.1],
        [0.14, 0.1],
      ],
      12,
      [0, 0, 0.6],
      'x',
    )
    .box([-0.7, -0.08, 0], [-0.56, 0.08, 0.5])
    .box([0.56, -0.08, 0], [0.7, 0.08, 0.5])
    .material('brass', BRASS)
    .turned(
      [
        [0, 0.8],
        [0.05, 0.8],
        [0.05, 1.02],
        [0, 1.02],
      ],
      8,
    )
    .material('red', RED)
    .turned(
      [
        [0.2, 1.0],
        [0.25, 1.0],
        [0.25, 1.05],
        [0.2, 1.05],
        [0.2, 1.0],
      ],
      14,
    )
    .box([-0.22, -0.02, 1.01], [0.22, 0.02, 1.04])
    .files();
}

/** The crate's own model: a beam pump with a flywheel. */
export function pump(): { obj: string; mtl: string } {
  return new ObjBuilder('pump')
    .material('iron', IRON)
    .box([-1.5, -0.7, 0], [1.5, 0.7, 0.25])
    .box([-0.16, -0.3, 0.25], [0.16, 0.3, 2.3])
    .box([-1.5, -0.14, 2.3], [1.5, 0.14, 2.55])
    .material('brass', BRASS)
    .turned(
      [
        [0, 0.25],
        [0.36, 0.25],
        [0.36, 1.5],
        [0.3, 1.6],
        [0.08, 1.62],
        [0.08, 2.3],
        [0, 2.3],
      ],
      16,
      [-1.1, 0, 0],
    )
    .turned(
      [
        [0, 0.25],
        [0.06, 0.25],
        [0.06, 2.3],
        [0, 2.3],
      ],
      10,
      [1.2, 0, 0],
    )
    .material('red', RED)
    .turned(
      [
        [0.78, 0.5],
        [0.9, 0.5],
        [0.9, 0.62],
        [0.78, 0.62],
        [0.78, 0.5],
      ],
      24,
      [1.2, 0, 1.15],
      'y',
    )
    .material('iron', IRON)
    .box([1.17, 0.53, 0.35], [1.23, 0.59, 1.95])
    .box([0.4, 0.53, 1.12], [2, 0.59, 1.18])
    .turned(
      [
        [0, 0.25],
        [0.09, 0.25],
        [0.09, 0.68],
        [0, 0.68],
      ],
      10,
      [1.2, 0, 1.15],
      'y',
    )
    .files();
}

export const STOCK_MODELS: Record<string, { obj: string; mtl: string }> = {
  lamp_post: lampPost(),
  crank: crank(),
  crate: crateBox(),
  barrel: barrel(),
  bench: bench(),
  valve: valve(),
};
