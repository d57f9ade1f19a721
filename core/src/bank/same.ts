import type { BankData, BankValue, Row } from './read.ts';

/** Whether two banks hold the same, wherever it lies. Blocks are compared by what they hold; circles of them end where both were compared before. */
export function sameData(a: BankData, b: BankData): boolean {
  const compared = new Set<string>();
  const open: [string, string][] = [];
  const sameRows = (one: readonly Row[], other: readonly Row[]): boolean =>
    one.length === other.length && one.every((row, n) => sameRow(row, other[n]));
  const sameRow = (one: Row, other: Row): boolean => Object.keys(other.values).every((name) => sameValue(one.values[name], other.values[name]));
  const sameValue = (one: BankValue, other: BankValue): boolean => {
    if (Array.isArray(one)) return Array.isArray(other) && sameRows(one, other);
    if (one === null || typeof one !== 'object') return typeof one === 'number' && typeof other === 'number' ? near(one, other) : one === other;
    if (other === null || typeof other !== 'object' || Array.isArray(other)) return false;
    const key = `${one.block} ${other.block}`;
    if (!compared.has(key)) {
      compared.add(key);
      open.push([one.block, other.block]);
    }
    return true;
  };
  for (const name of Object.keys(b.sections)) if (!sameRows(a.sections[name].rows, b.sections[name].rows)) return false;
  for (let pair = open.pop(); pair; pair = open.pop()) {
    const [one, other] = [a.blocks[pair[0]], b.blocks[pair[1]]];
    if ((one.text?.normalize('NFC') ?? null) !== (other.text ?? null) || !sameRows(one.rows ?? [], other.rows ?? [])) return false;
  }
  return true;
}

/** Fixed-point values are rounded to what they can hold, at the coarsest to halves. */
const near = (a: number, b: number): boolean => a === b || (!(Number.isInteger(a) && Number.isInteger(b)) && Math.abs(a - b) <= 0.25);
