/** What the model viewer lays over a model: pointed-out triangles, a test pattern, texel density. */

import {
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  Color,
  DoubleSide,
  Mesh,
  MeshBasicMaterial,
  NearestFilter,
  RepeatWrapping,
  SRGBColorSpace,
  Vector3,
  type MeshStandardMaterial,
  type Object3D,
} from 'three';

const meshesOf = (root: Object3D): Mesh[] => {
  const meshes: Mesh[] = [];
  root.updateMatrixWorld(true);
  root.traverse((child) => (child as Mesh).isMesh && meshes.push(child as Mesh));
  return meshes;
};

/** A bright copy of the given triangles, seen through everything else. Parts count in the order of the file. */
export function highlightTriangles(root: Object3D, triangles: readonly number[], colour: string): Mesh {
  const wanted = new Set(triangles);
  const corners: number[] = [];
  let before = 0;
  for (const mesh of meshesOf(root)) {
    const { geometry } = mesh;
    const position = geometry.getAttribute('position');
    const index = geometry.getIndex();
    const count = (index ? index.count : position.count) / 3;
    const point = new Vector3();
    for (let t = 0; t < count; t++) {
      if (!wanted.has(before + t)) continue;
      for (let k = 0; k < 3; k++) {
        point.fromBufferAttribute(position, index ? index.getX(t * 3 + k) : t * 3 + k).applyMatrix4(mesh.matrixWorld);
        corners.push(point.x, point.y, point.z);
      }
    }
    before += count;
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(corners), 3));
  const mesh = new Mesh(
    geometry,
    new MeshBasicMaterial({ color: new Color(colour), side: DoubleSide, depthTest: false, transparent: true, opacity: 0.75 }),
  );
  mesh.renderOrder = 10;
  return mesh;
}

let pattern: CanvasTexture | null = null;

/** Numbered squares with an arrow up: shows stretching, mirroring and seams of texture coordinates. */
export function testPattern(): CanvasTexture {
  if (pattern) return pattern;
  const canvas = document.createElement('canvas');
  const edge = 512;
  const squares = 8;
  canvas.width = canvas.height = edge;
  const context = canvas.getContext('2d')!;
  const step = edge / squares;
  context.font = '600 22px monospace';
  context.textAlign = 'center';
  context.textBaseline = 'middle';
  for (let y = 0; y < squares; y++)
    for (let x = 0; x < squares; x++) {
      context.fillStyle = (x + y) % 2 ? `hsl(${x * 45} 38% 72%)` : `hsl(${x * 45} 30% 40%)`;
      context.fillRect(x * step, y * step, step, step);
      context.fillStyle = (x + y) % 2 ? '#241530' : '#f4ecfb';
      context.fillText(`${x}${y}`, (x + 0.5) * step, (y + 0.62) * step);
      context.beginPath();
      context.moveTo((x + 0.5) * step, (y + 0.1) * step);
      context.lineTo((x + 0.65) * step, (y + 0.32) * step);
      context.lineTo((x + 0.35) * step, (y + 0.32) * step);
      context.fill();
    }
  pattern = new CanvasTexture(canvas);
  pattern.colorSpace = SRGBColorSpace;
  pattern.wrapS = pattern.wrapT = RepeatWrapping;
  pattern.flipY = false;
  pattern.anisotropy = 4;
  pattern.magFilter = NearestFilter;
  return pattern;
}

/** Texels along a side that a model without a picture is reckoned with. */
const ASSUMED = 256;

/**
 * Colours a mesh by how many texels lie along 100 game units of its surface, from violet (coarse) to light
 * (dense). Answers the smallest and largest density found.
 */
export function paintDensity(mesh: Mesh, metresPerUnit: number): [number, number] | null {
  const { geometry } = mesh;
  const position = geometry.getAttribute('position');
  const uv = geometry.getAttribute('uv');
  const own = mesh.userData.own as MeshStandardMaterial;
  const image = own.map?.image as { width?: number } | undefined;
  const texels = image?.width ?? ASSUMED;
  const index = geometry.getIndex();
  const count = (index ? index.count : position.count) / 3;
  const colours = new Float32Array(position.count * 3).fill(0.25);
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  let range: [number, number] | null = null;
  for (let t = 0; t < count; t++) {
    const corners = [0, 1, 2].map((k) => (index ? index.getX(t * 3 + k) : t * 3 + k));
    [a, b, c].forEach((point, k) => point.fromBufferAttribute(position, corners[k]));
    const area = b.sub(a).cross(c.sub(a)).length() / (metresPerUnit * metresPerUnit);
    if (!uv || area === 0) continue;
    const [u, v] = [corners.map((i) => uv.getX(i)), corners.map((i) => uv.getY(i))];
    const covered = Math.abs((u[1] - u[0]) * (v[2] - v[0]) - (u[2] - u[0]) * (v[1] - v[0]));
    const density = Math.sqrt(covered / area) * texels * 100;
    range = densityRange(range, [density, density]);
    const shade = new Color().setHSL(0.74, 0.5, Math.min(0.92, Math.max(0.08, 0.08 + 0.14 * Math.log2(1 + density / 25))));
    for (const i of corners) shade.toArray(colours, i * 3);
  }
  geometry.setAttribute('color', new BufferAttribute(colours, 3));
  return range;
}

export const densityRange = (a: [number, number] | null, b: [number, number] | null): [number, number] | null =>
  a && b ? [Math.min(a[0], b[0]), Math.max(a[1], b[1])] : (a ?? b);
