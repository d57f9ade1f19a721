/** Packages that ship without types, as far as they are used here. */

declare module 'draco3dgltf' {
  const draco: { createDecoderModule(): Promise<object> };
  export default draco;
}

/** The parts of Recast and Detour that are used; their own declarations import without extensions, which Node.js resolution refuses. */
declare module '@recast-navigation/core' {
  interface Point {
    x: number;
    y: number;
    z: number;
  }
  interface DetourPoly {
    vertCount(): number;
    verts(index: number): number;
    neis(index: number): number;
  }
  interface DetourMeshTile {
    header(): { vertCount(): number; polyCount(): number } | null;
    verts(index: number): number;
    polys(index: number): DetourPoly;
  }
  export class NavMesh {
    getTile(index: number): DetourMeshTile;
    destroy(): void;
  }
  export class NavMeshQuery {
    constructor(navMesh: NavMesh);
    computePath(start: Point, end: Point, options?: { halfExtents?: Point }): { success: boolean; path: Point[] };
  }
  export function init(): Promise<void>;
  export function exportNavMesh(navMesh: NavMesh): Uint8Array;
  export function importNavMesh(data: Uint8Array): { navMesh: NavMesh };
  export function getNavMeshPositionsAndIndices(navMesh: NavMesh): [positions: number[], indices: number[]];
}

declare module '@recast-navigation/generators' {
  import type { NavMesh } from '@recast-navigation/core';
  export function generateSoloNavMesh(
    positions: ArrayLike<number>,
    indices: ArrayLike<number>,
    config: Record<string, number>,
  ): { success: true; navMesh: NavMesh } | { success: false; error: string };
}
