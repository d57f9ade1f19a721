/** The picture of a map's sky wherever it matters, and dividers wherever they must not. */

import { describe, expect, it } from '@jest/globals';
import { checkCrate } from '../check/checkCrate.ts';
import { renameMaterial } from '../library/rename.ts';
import { usageOf } from '../library/usage.ts';
import type { CrateWorld } from '../crate/world.ts';
import { planBuild } from '../stages/plan.ts';
import { parametersOf } from '../stages/contract/parameters.ts';
import { linkMap } from '../link/report.ts';
import { block } from '../solid/primitives.ts';
import { testWorld } from '../testing/world.ts';
import { applyEdit } from '../document/edit.ts';

/** A room whose sky is one of the crate's own, with its picture. */
function underSky(change: Partial<CrateWorld['crate']['manifest']['materials'][number]> = {}): CrateWorld {
  const world = testWorld();
  const { crate } = world;
  crate.manifest.materials = [{ name: 'dusk', type: 'sky', colour: '#445566', unitsPerRepeat: 64, texture: 'textures/dusk.ktx2', ...change }];
  crate.files = [{ path: 'textures/dusk.ktx2', bytes: 10, sha256: 'a'.repeat(64) }];
  crate.maps.hall = { ...crate.maps.hall, settings: { ...crate.maps.hall.settings, skyMaterial: 'dusk' } };
  return world;
}
const codes = (world: CrateWorld) => checkCrate(world).findings.map((finding) => finding.code);

describe('a sky by picture', () => {
  it('is a link of the map: its picture is carried, and missing it is a blocker', () => {
    const world = underSky();
    const links = linkMap(world, 'hall').links;
    expect(links.find((link) => link.name === 'textures/dusk.ktx2')?.usedBy).toEqual(['material dusk']);
    expect(codes(world)).not.toContain('sky-without-picture');
    world.crate.manifest.materials = [];
    expect(checkCrate(world).findings.find((f) => f.code === 'link-missing' && f.message.includes('dusk'))?.severity).toBe('blocker');
  });

  it('that is none is told, and the fix goes back to the colour', () => {
    for (const wrong of [{ type: 'lit' }, { texture: undefined }]) {
      const world = underSky(wrong);
      const finding = checkCrate(world).findings.find((f) => f.code === 'sky-without-picture')!;
      expect(finding.severity).toBe('warning');
      if (finding.fix?.kind !== 'edit') throw new Error('no fix');
      world.crate.maps.hall = applyEdit(world.crate.maps.hall, finding.fix.edit);
      expect(codes(world)).not.toContain('sky-without-picture');
      expect(Object.keys(world.crate.maps.hall.settings)).not.toContain('skyMaterial');
    }
  });

  it('follows its material’s name and counts as a use of it', () => {
    const world = underSky();
    expect(usageOf(world).get('material:dusk')).toEqual([{ by: 'map', name: 'hall', what: 'the sky' }]);
    const { edits } = renameMaterial(world, 'dusk', 'evening');
    expect(applyEdit(world.crate.maps.hall, edits.hall).settings.skyMaterial).toBe('evening');
  });

  it('that is painted anew makes light alone out of date', () => {
    const world = underSky();
    const parameters = parametersOf('draft', world.profile);
    const before = planBuild(world, 'hall', parameters).keys;
    world.crate.files = [{ ...world.crate.files[0], sha256: 'b'.repeat(64) }];
    const after = planBuild(world, 'hall', parameters).keys;
    const changed = Object.keys(before).filter((stage) => before[stage as 'check'] !== after[stage as 'check']);
    // What is packed anew is looked over by the game's programs anew.
    expect(changed).toEqual(['lighting', 'packing', 'programs']);
  });
});

describe('a divider', () => {
  it('raises no findings about thin, doubled or overlapping solids, and seals and stops nothing', () => {
    const world = testWorld();
    const plain = codes(world);
    const sheet = block({ min: [-300, 0, -20], max: [300, 1, 200] }, 'divider');
    world.crate.maps.hall = { ...world.crate.maps.hall, solids: { ...world.crate.maps.hall.solids, d1: sheet, d2: sheet } };
    expect(codes(world)).toEqual(plain);
    const { parts } = planBuild(world, 'hall', parametersOf('draft', world.profile));
    expect(Object.keys(parts.sealing)).toContain('solid d1');
    expect(Object.keys(parts.navigation)).not.toContain('solid d1');
  });
});
