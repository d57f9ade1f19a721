/** The ways in which a built map can be looked at. */

import {
  AdditiveBlending,
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  type Material,
} from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { sectorAt, type VisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import { areasOf } from '@violet-crate/core/stages/navigation/navmesh';
import type { NavigationOutput } from '@violet-crate/core/stages/navigation/stage';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { BuiltMap } from '../three/builtMap.ts';

export type Look = 'built' | 'light' | 'sectors' | 'seen' | 'walkable' | 'overdraw' | 'triangles' | 'texels';

export const LOOKS: readonly { id: Look; label: string; explains: string }[] = [
  { id: 'built', label: 'As built', explains: 'Textures and light as the game shows them.' },
  { id: 'light', label: 'Light only', explains: 'The lightmap on white: shadows, bounces, and how fine it is.' },
  { id: 'sectors', label: 'Sectors', explains: 'Parts that are drawn together have one colour; what faces several sectors mixes theirs.' },
  { id: 'seen', label: 'Seen from here', explains: 'Only what may be seen from where the eye is.' },
  { id: 'walkable', label: 'Walkable', explains: 'Where players can walk, a colour for every connected area; lines are jumps.' },
  { id: 'overdraw', label: 'Overdraw', explains: 'The brighter, the more layers are drawn one over another.' },
  { id: 'triangles', label: 'Triangles', explains: 'The edges of all triangles.' },
  { id: 'texels', label: 'Texel density', explains: 'Texels per metre: blue below 64, green to 160, yellow to 384, red above.' },
];

/** A colour for a number, unlike those of its neighbours: steps of the golden angle around the wheel. */
export const colourOf = (n: number): Color => new Color().setHSL((n * 0.381966) % 1, 0.55, 0.55);

const originals = new WeakMap<Mesh, Material>();

/** Gives every mesh of a built map the material of a look, or its own back. */
export function dressFor(look: Look, built: BuiltMap, visibility: VisibilityFile): void {
  for (const [group, node] of built.groups)
    node.traverse((child) => {
      const mesh = child as Mesh;
      if (!mesh.isMesh) return;
      const own = originals.get(mesh) ?? (mesh.material as Material);
      originals.set(mesh, own);
      if (mesh.material !== own) (mesh.material as Material).dispose();
      mesh.material = materialFor(look, mesh, own, visibility.groups[group] ?? []);
    });
}

function materialFor(look: Look, mesh: Mesh, own: Material, sectors: readonly number[]): Material {
  switch (look) {
    case 'light': {
      const lit = own as MeshLambertMaterial;
      if (!lit.lightMap) return new MeshBasicMaterial({ color: '#555' });
      return new MeshLambertMaterial({ color: '#fff', lightMap: lit.lightMap, lightMapIntensity: lit.lightMapIntensity });
    }
    case 'sectors': {
      const mixed = sectors.map(colourOf).reduce((sum, c) => sum.add(c), new Color(0, 0, 0));
      return shaded(own, { color: mixed.multiplyScalar(1 / Math.max(1, sectors.length)) });
    }
    case 'overdraw':
      return new MeshBasicMaterial({ color: '#2a1c12', blending: AdditiveBlending, depthTest: false, depthWrite: false, transparent: true });
    case 'triangles':
      return new MeshBasicMaterial({ color: '#b9a3f5', wireframe: true });
    case 'walkable':
      return shaded(own, { color: new Color('#4a3d55') });
    case 'texels':
      return texelMaterial(mesh, own);
    default:
      return own;
  }
}

/** A plain colour with as much of the light as tells forms apart. */
function shaded(own: Material, look: { color?: Color; vertexColors?: boolean }): Material {
  const { lightMap, lightMapIntensity } = own as MeshLambertMaterial;
  if (!lightMap) return new MeshBasicMaterial(look);
  return new MeshLambertMaterial({ ...look, lightMap, lightMapIntensity: lightMapIntensity * 2 });
}

/** Bounds of the classes of texel density, in texels per metre, and their colours. */
const DENSITIES: readonly [below: number, colour: string][] = [
  [64, '#4f6bd8'],
  [160, '#4caf7a'],
  [384, '#d8b64f'],
  [Infinity, '#d8584f'],
];

export const densityColour = (texels: number): string => DENSITIES.find(([below]) => texels < below)![1];

function texelMaterial(mesh: Mesh, own: Material): Material {
  const { map } = own as MeshLambertMaterial;
  const image = map?.image as { width?: number } | undefined;
  if (!image?.width) return new MeshBasicMaterial({ color: '#555' });
  const geometry = mesh.geometry;
  if (!geometry.getAttribute('color')) {
    const colours = new Float32Array(geometry.getAttribute('position').count * 3);
    const index = geometry.getIndex()!;
    for (let i = 0; i + 2 < index.count; i += 3) {
      const corners = [index.getX(i), index.getX(i + 1), index.getX(i + 2)];
      const colour = new Color(densityColour(repeatsPerMetre(geometry, corners) * image.width));
      for (const corner of corners) colours.set([colour.r, colour.g, colour.b], corner * 3);
    }
    geometry.setAttribute('color', new BufferAttribute(colours, 3));
  }
  return shaded(own, { vertexColors: true });
}

/** Root of the texture's area over the triangle's, in repeats per metre. */
export function repeatsPerMetre(geometry: BufferGeometry, [a, b, c]: readonly number[]): number {
  const position = geometry.getAttribute('position');
  const uv = geometry.getAttribute('uv');
  const edge = (i: number, j: number) => [
    position.getX(j) - position.getX(i),
    position.getY(j) - position.getY(i),
    position.getZ(j) - position.getZ(i),
  ];
  const [e, f] = [edge(a, b), edge(a, c)];
  const area = Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]);
  const texture = Math.abs((uv.getX(b) - uv.getX(a)) * (uv.getY(c) - uv.getY(a)) - (uv.getX(c) - uv.getX(a)) * (uv.getY(b) - uv.getY(a)));
  return area > 0 ? Math.sqrt(texture / area) : 0;
}

/** Units over the floor. */
const WAIST = 28;

/** Walkable polygons, a little over the floor, a colour for every connected area; jumps as lines. */
export function navigationLines({ vertices, polygons, links }: NavigationOutput, visibility: VisibilityFile, metres: number): Group {
  const group = new Group();
  const areas = areasOf(polygons);
  const positions: number[] = [];
  const colours: number[] = [];
  polygons.forEach(({ corners }, i) => {
    // Roofs and the outsides of shells are floors to a walker, but nobody is there to walk on them. Asked is at the
    // height of a waist, since the middle of a polygon may lie in the step that it climbs.
    const middle = [0, 1, 2].map((k) => corners.reduce((sum, c) => sum + vertices[c][k], 0) / corners.length) as Vec3;
    if (visibility.sectors > 0 && sectorAt(visibility, [middle[0], middle[1], middle[2] + WAIST]) < 0) return;
    const colour = colourOf(areas[i] + 1);
    for (let k = 2; k < corners.length; k++)
      for (const corner of [corners[0], corners[k - 1], corners[k]]) {
        const [x, y, z] = vertices[corner];
        positions.push(...toGltf([x, y, z + 2], metres));
        colours.push(colour.r, colour.g, colour.b);
      }
  });
  const surface = new BufferGeometry();
  surface.setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3));
  surface.setAttribute('color', new BufferAttribute(Float32Array.from(colours), 3));
  group.add(new Mesh(surface, new MeshBasicMaterial({ vertexColors: true, side: DoubleSide, transparent: true, opacity: 0.85 })));
  const ends = links.flatMap(({ from, to }) => [...toGltf([from[0], from[1], from[2] + 6], metres), ...toGltf([to[0], to[1], to[2] + 6], metres)]);
  const lines = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(ends), 3));
  group.add(new LineSegments(lines, new LineBasicMaterial({ color: '#ffb25b', depthTest: false })));
  return group;
}
