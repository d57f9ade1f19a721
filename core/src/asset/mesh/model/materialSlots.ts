/** Which material of the crate or game each slot of a model takes. */

export interface SlotChoice {
  slot: string;
  /** Name of a material, "" where the model's own colour or picture is kept. */
  material: string;
  by: 'hand' | 'name' | 'likeness' | 'none';
}

/** Likeness from which a material is taken without asking (Dice coefficient of letter pairs). */
const ALIKE = 0.7;

/** Characters of a name that are compared: comparing takes their square. */
const LONGEST = 120;

/** Names as people mean them: no case, no separators, no "mat", no numbering of copies. */
const plain = (name: string): string =>
  name
    .slice(0, LONGEST)
    .toLowerCase()
    .replace(/\.\d+$/, '')
    .replace(/(^|[^a-z])(mat|material|mtl|m|texture|tex)([^a-z]|$)/g, '$1$3')
    .replace(/[^a-z0-9]+/g, '');

/** Dice's coefficient over letter pairs (Dice 1945): 1 for equal names, 0 for nothing in common. */
export function likeness(a: string, b: string): number {
  const pairs = (text: string) => Array.from({ length: Math.max(0, text.length - 1) }, (_, i) => text.slice(i, i + 2));
  const [x, y] = [pairs(plain(a)), pairs(plain(b))];
  if (x.length + y.length === 0) return plain(a) === plain(b) ? 1 : 0;
  const left = [...y];
  let common = 0;
  for (const pair of x) {
    const at = left.indexOf(pair);
    if (at < 0) continue;
    left.splice(at, 1);
    common++;
  }
  return (2 * common) / (x.length + y.length);
}

/**
 * By hand first, then by name, then by likeness. A slot that brings its own picture keeps it unless told
 * otherwise by hand.
 */
export function chooseSlots(
  slots: readonly { name: string; hasPicture: boolean }[],
  available: readonly string[],
  byHand: Readonly<Record<string, string>>,
): SlotChoice[] {
  return slots.map(({ name, hasPicture }): SlotChoice => {
    if (Object.hasOwn(byHand, name)) return { slot: name, material: byHand[name], by: 'hand' };
    if (hasPicture || plain(name) === '') return { slot: name, material: '', by: 'none' };
    const same = available.find((material) => material === name) ?? available.find((material) => plain(material) === plain(name));
    if (same) return { slot: name, material: same, by: 'name' };
    const scored = available.map((material) => ({ material, score: likeness(name, material) })).sort((a, b) => b.score - a.score);
    return scored[0] && scored[0].score >= ALIKE
      ? { slot: name, material: scored[0].material, by: 'likeness' }
      : { slot: name, material: '', by: 'none' };
  });
}
