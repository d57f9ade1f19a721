/** What of an FBX file hangs on what, as far as reading has to know it beforehand. Ids are texts: they have 64 bits. */
export interface FbxLinks {
  /** Models that call themselves meshes. */
  meshModels: string[];
  geometries: Set<string>;
  /** From, to. */
  connections: [string, string][];
}

/** Models that call themselves meshes and have no geometry: some programs write groups so, and three's loader stops at them. */
export function modelsWithoutGeometry({ meshModels, geometries, connections }: FbxLinks): Set<string> {
  const filled = new Set(connections.filter(([from]) => geometries.has(from)).map(([, to]) => to));
  return new Set(meshModels.filter((id) => !filled.has(id)));
}
