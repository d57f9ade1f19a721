/** Small worlds for tests: the real Brinewick profile, a base pack without files, and a crate from a template. */

import { readFileSync } from 'node:fs';
import type { BuildParameters } from '../stages/contract/parameters.ts';
import type { BasePack } from '../crate/basePack.ts';
import { newCrateContents, type Template } from '../crate/template.ts';
import type { CrateWorld } from '../crate/world.ts';
import { loadProfile } from '../profile/load.ts';
import type { Profile } from '../profile/schema.ts';

export function testProfile(id = 'brinewick'): Profile {
  return loadProfile(readFileSync(new URL(`../../profiles/${id}.json`, import.meta.url), 'utf8'), `${id}.json`);
}

/** Parameters of a build whose light takes moments: for tests of everything else. Jest's contexts make long loops ten times slower. */
export const QUICK_LIGHT: Partial<BuildParameters> = { luxel: 64, hemisphereRays: 4, bounces: 1, probeSpacing: 0 };

const material = (name: string, type: string, colour = '#808080') => ({ name, type, colour, unitsPerRepeat: 64 });

export const TEST_PACK: BasePack = {
  format: 1,
  title: 'Test pack',
  version: '1.0.0',
  materials: [
    material('brick', 'lit', '#a05040'),
    material('slate', 'lit'),
    material('brass', 'lit'),
    material('sky', 'sky'),
    material('unseen', 'unseen'),
    material('divider', 'divider'),
    material('water', 'water'),
  ],
  assets: {},
  files: [],
};

export function testWorld(template: Template = 'sealed-room', profile = testProfile()): CrateWorld {
  return { profile, base: TEST_PACK, crate: newCrateContents(profile, { name: 'hall', title: 'Hall', template }) };
}
