/** Drawn over what it lies on, by the smallest steps of depth that are sure to be seen; see core/src/decal/lay.ts. */
export const DECAL_MATERIAL = {
  transparent: true,
  depthWrite: false,
  vertexColors: true,
  polygonOffset: true,
  polygonOffsetFactor: -1,
  polygonOffsetUnits: -4,
} as const;
