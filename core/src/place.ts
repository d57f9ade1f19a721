/** Where a finding is to be seen. All fields are optional; the more are set, the closer *Show* jumps. */
export interface Place {
  /** Path of a file within the crate, e.g. `scripts/main.lua`. */
  file?: string;
  /** One-based line and column in a text file. */
  line?: number;
  column?: number;
  /** Zero-based byte offset in a binary file. */
  byte?: number;
  /** Name of the map, and what in it. */
  map?: string;
  solid?: string;
  object?: string;
  signal?: string;
  /** A placed copy of a prefab, or a path. */
  copy?: string;
  path?: string;
  decal?: string;
  overlay?: string;
  /** A movement sequence. */
  sequence?: string;
  /** Part of a model, and triangles of the converted model, numbered through all its parts; at most 2,000 are named. */
  part?: string;
  triangles?: number[];
  /** A point in map space (right-handed, z up, game units). */
  point?: [number, number, number];
  /** A polyline in map space, e.g. the trail of a leak. */
  trail?: [number, number, number][];
}
