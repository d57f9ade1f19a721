declare module 'gltf-validator' {
  export function validateBytes(bytes: Uint8Array, options?: Record<string, unknown>): Promise<unknown>;
}

/** A reference for triangulation of grids; ships without types. */
declare module '@mapbox/martini' {
  export default class Martini {
    constructor(gridSize?: number);
    createTile(terrain: ArrayLike<number>): { getMesh(maxError: number): { vertices: Uint16Array; triangles: Uint32Array } };
  }
}

declare module 'commonmark-spec' {
  export const tests: { markdown: string; html: string; section: string; number: number }[];
}
