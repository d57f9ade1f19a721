/** Letters by which a name may differ from what was meant, and the longest that is looked at. */
const FAR = 2;
const LONGEST = 64;

/** The name that is most like another, where one is like it enough; by Levenshtein's distance (1966). */
export function nearest(name: string, names: readonly string[]): string | null {
  if (name.length > LONGEST) return null;
  let best: string | null = null;
  let least = Math.min(FAR, Math.ceil(name.length / 3)) + 1;
  for (const other of names) {
    if (other === name || Math.abs(other.length - name.length) >= least) continue;
    const away = distance(name.toLowerCase(), other.toLowerCase());
    if (away < least) [best, least] = [other, away];
  }
  return best;
}

function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) next.push(Math.min(next[j - 1] + 1, row[j] + 1, row[j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1)));
    row = next;
  }
  return row[b.length];
}
