import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { linearOfHex } from '@violet-crate/core/math/srgb';

const css = readFileSync(new URL('./theme.css', import.meta.url), 'utf8');

/** The variables of a theme, by name. */
function variables(theme: 'dark' | 'light'): Record<string, string> {
  const block = new RegExp(`\\[data-bs-theme='${theme}'\\] \\{\\s*color-scheme[^}]*\\}`).exec(css)![0];
  return Object.fromEntries([...block.matchAll(/--vc-([a-z0-9-]+): (#[0-9a-f]{6});/g)].map((m) => [m[1], m[2]]));
}

// Outside reference: contrast ratio and relative luminance of WCAG 2.2 (success criterion 1.4.3).
function contrast(a: string, b: string): number {
  const luminance = (hex: string) => linearOfHex(hex).reduce((sum, v, i) => sum + v * [0.2126, 0.7152, 0.0722][i], 0);
  const [high, low] = [luminance(a), luminance(b)].sort((x, y) => y - x);
  return (high + 0.05) / (low + 0.05);
}

describe.each(['dark', 'light'] as const)('the %s theme', (theme) => {
  const colours = variables(theme);
  const grounds = ['ground', 'surface', 'raised', 'sunken', 'selected'];

  it.each(['ink', 'faint', 'violet', 'warm', 'clear', 'block'])('%s is read on every ground: at least 4.5:1', (text) => {
    for (const ground of grounds) expect({ ground, ratio: contrast(colours[text], colours[ground]) >= 4.5 }).toEqual({ ground, ratio: true });
  });

  it('ink is read on parts of a whole', () => {
    for (const part of [1, 2, 3, 4]) expect(contrast(colours.ink, colours[`part-${part}`])).toBeGreaterThanOrEqual(4.5);
  });

  it('buttons are read too', () => {
    expect(contrast(colours['on-violet'], colours.violet)).toBeGreaterThanOrEqual(4.5);
    expect(contrast(colours['on-warm'], colours.warm)).toBeGreaterThanOrEqual(4.5);
  });
});

describe('the formula', () => {
  it('black on white is 21:1, and a colour on itself 1:1', () => {
    expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 6);
    expect(contrast('#8a3fd0', '#8a3fd0')).toBe(1);
  });
});
