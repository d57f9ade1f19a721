/** Brackets within brackets that a JSON document may have; ours have a dozen. Deeper ones exhaust whoever walks through them. */
export const MOST_DEPTH = 100;

const [QUOTE, BACKSLASH] = [0x22, 0x5c];
const OPEN = new Set([0x5b, 0x7b]);
const CLOSE = new Set([0x5d, 0x7d]);

/** Whether a JSON text (or its bytes in UTF-8) is nested deeper than `most`. It is looked through once, not parsed. */
export function isTooDeep(json: string | Uint8Array, most = MOST_DEPTH): boolean {
  const at = typeof json === 'string' ? (i: number) => json.charCodeAt(i) : (i: number) => json[i];
  let depth = 0;
  let quoted = false;
  for (let i = 0; i < json.length; i++) {
    const c = at(i);
    if (quoted) {
      if (c === BACKSLASH) i++;
      else if (c === QUOTE) quoted = false;
    } else if (c === QUOTE) quoted = true;
    else if (OPEN.has(c)) {
      if (++depth > most) return true;
    } else if (CLOSE.has(c)) depth--;
  }
  return false;
}
