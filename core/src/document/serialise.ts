import { COLLECTIONS, type GameMap } from './schema.ts';

/** Collections that every file has; the others are left out while they are empty. */
const ALWAYS = new Set<string>(['bands', 'solids', 'objects', 'signals']);

/**
 * The map as text, one member per line in id order: small changes make small diffs, and equal maps make
 * equal text. Any character is safe in any property, since it is JSON throughout.
 */
export function serialiseMap(map: GameMap): string {
  const record = (entries: Record<string, unknown>) => {
    const ids = Object.keys(entries).sort((a, b) => naturalOrder(a, b));
    if (ids.length === 0) return '{}';
    return `{\n${ids.map((id) => `    ${JSON.stringify(id)}: ${JSON.stringify(entries[id])}`).join(',\n')}\n  }`;
  };
  const own = COLLECTIONS.filter((of) => ALWAYS.has(of) || Object.keys(map[of]).length > 0);
  return `{
  "format": ${map.format},
  "profile": ${JSON.stringify(map.profile)},
  "settings": ${JSON.stringify(map.settings)},
${own.map((of) => `  "${of}": ${record(map[of])}`).join(',\n')}
}
`;
}

/** Prefix, then number: s2 before s10. */
function naturalOrder(a: string, b: string): number {
  const [, prefixA, numberA] = /^(.*?)(\d*)$/.exec(a)!;
  const [, prefixB, numberB] = /^(.*?)(\d*)$/.exec(b)!;
  return prefixA < prefixB ? -1 : prefixA > prefixB ? 1 : Number(numberA) - Number(numberB);
}
