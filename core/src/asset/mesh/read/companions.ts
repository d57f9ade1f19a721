/** Files that came along with a model: material libraries, buffers, textures. Found by path, then by name alone. */

export type Companions = ReadonlyMap<string, Uint8Array>;

const IMAGE = /\.(png|jpe?g|webp|tga|bmp|gif|tiff?|ktx2)$/i;
const baseName = (path: string): string => path.replaceAll('\\', '/').split('/').pop()!;
const stem = (name: string): string => name.replace(/\.[^.]+$/, '').toLowerCase();

export interface FoundCompanion {
  path: string;
  bytes: Uint8Array;
  /** Whether name and ending are exactly as asked for. */
  exact: boolean;
}

/**
 * Looks for the exact path, then the same name in another folder, then in other capitals, and, for
 * pictures, the same name with another picture ending.
 */
export function findCompanion(companions: Companions, wanted: string): FoundCompanion | null {
  let plain = wanted.replaceAll('\\', '/').replace(/^\.\//, '');
  try {
    plain = decodeURIComponent(plain);
  } catch {
    // A bare % is part of a name on disk; take it as it stands.
  }
  const direct = companions.get(plain);
  if (direct) return { path: plain, bytes: direct, exact: true };
  const name = baseName(plain);
  const entries = [...companions];
  const pick = (test: (path: string) => boolean, exact: boolean): FoundCompanion | null => {
    const found = entries.find(([path]) => test(path));
    return found ? { path: found[0], bytes: found[1], exact } : null;
  };
  return (
    pick((path) => baseName(path) === name, true) ??
    pick((path) => baseName(path).toLowerCase() === name.toLowerCase(), false) ??
    (IMAGE.test(name) ? pick((path) => IMAGE.test(path) && stem(baseName(path)) === stem(name), false) : null)
  );
}

export const imageType = (path: string): string => {
  const ending = /\.([^.]+)$/.exec(path)?.[1].toLowerCase() ?? '';
  return `image/${ending === 'jpg' ? 'jpeg' : ending === 'tif' ? 'tiff' : ending || 'png'}`;
};
