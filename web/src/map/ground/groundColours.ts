import type { BasePack } from '@violet-crate/core/crate/basePack';
import type { CrateMaterial } from '@violet-crate/core/crate/manifest';
import type { Terrain } from '@violet-crate/core/document/schema';
import type { Rgb } from '@violet-crate/core/terrain/picture';

const rgbOf = (hex: string): Rgb => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) || 0) as unknown as Rgb;

/** Mean colours of a terrain's surfaces, 0..255; what is not there is as conspicuous as a missing material. */
export function surfaceColours({ surfaces }: Terrain, own: readonly CrateMaterial[], base: BasePack | null): Rgb[] {
  return surfaces.map(({ material }) => {
    const found = own.find(({ name }) => name === material) ?? base?.materials.find(({ name }) => name === material);
    return rgbOf(found?.colour ?? '#ff6a5a');
  });
}
