/** What a new crate begins with. */

import { emptyMap } from '../profile/emptyMap.ts';
import { newObject } from '../profile/newObject.ts';
import { placingOf } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import type { GameMap, MapObject, Solid } from '../document/schema.ts';
import { roomShell } from '../solid/primitives.ts';
import { writeDocuments, type CrateContents } from './contents.ts';
import type { FileTree } from './fileTree.ts';
import { openField, racePrefabs, ridgeRace } from './openTemplates.ts';

export const TEMPLATES = ['sealed-room', 'open-field', 'ridge-race', 'blank'] as const;
export type Template = (typeof TEMPLATES)[number];

/** Templates that suit a game, the one that most begin with first. */
export const templatesOf = (profile: Profile): Template[] =>
  profile.sealed ? ['sealed-room', 'blank'] : [...(racePrefabs(profile) ? (['ridge-race'] as const) : []), 'open-field', 'blank'];

export interface NewCrate {
  name: string;
  title: string;
  template: Template;
}

/** The main script of a new crate: a start-up function that says the crate's title. */
export function newMainScript(profile: Profile, title: string): string {
  return `-- ${title.replace(/[\r\n]/g, ' ')}: runs when the map starts.\n\nfunction ${profile.scripts.startup}()\n  say(${JSON.stringify(title)})\nend\n`;
}

function templateMap(profile: Profile, crate: NewCrate): GameMap {
  const map = emptyMap(profile);
  if (crate.template === 'blank') return map;
  if (crate.template === 'open-field') return openField(map, profile);
  if (crate.template === 'ridge-race') {
    const race = racePrefabs(profile);
    // A game without races gets the field.
    return race ? ridgeRace(map, profile, race) : openField(map, profile);
  }
  const g = profile.grid.default;
  const half = 10 * g;
  const inner = {
    min: [-half, -half, profile.band.bottom] as [number, number, number],
    max: [half, half, profile.band.top] as [number, number, number],
  };
  const solids: Record<string, Solid> = {};
  roomShell(inner, profile.shellThickness, profile.defaultMaterial).forEach((solid, i) => (solids[`s${i + 1}`] = solid));
  const objects: Record<string, MapObject> = {};
  // Starts and lights hang clear of the floor; whatever else the game cannot do without stands along the wall.
  const lift = profile.player.height / 28;
  let i = 0;
  const place = (classId: string, name: string, z: number) => {
    objects[`o${++i}`] = newObject(profile, classId, name, [i === 1 ? 0 : (i - 2) * g * 4, i === 1 ? -half / 2 : 0, z]);
  };
  for (const rule of profile.required)
    for (let n = 0; n < rule.min; n++) place(rule.class, n === 0 ? rule.class : `${rule.class}_${n + 1}`, inner.min[2] + lift);
  const light = profile.classes.find((c) => placingOf(profile, c.id) === 'ceiling');
  if (light) place(light.id, `${light.id}_1`, inner.max[2] - g * 2);
  return { ...map, solids, objects };
}

export function newCrateContents(profile: Profile, crate: NewCrate): CrateContents {
  return {
    manifest: {
      format: 1,
      name: crate.name,
      title: crate.title,
      description: '',
      version: '0.1.0',
      profile: profile.id,
      mainMap: crate.name,
      authors: [],
      credits: [],
      materials: [],
      assets: {},
    },
    maps: { [crate.name]: templateMap(profile, crate) },
    scripts: { [profile.scripts.main]: newMainScript(profile, crate.title) },
    files: [],
  };
}

export const newCrateTree = (profile: Profile, crate: NewCrate): FileTree => writeDocuments(newCrateContents(profile, crate));

/** A crate under another name and title; its main map is renamed along. */
export function renameCrate(contents: CrateContents, name: string, title: string): CrateContents {
  const { [contents.manifest.mainMap]: main, ...others } = contents.maps;
  return {
    ...contents,
    manifest: { ...contents.manifest, name, title, mainMap: name, version: '0.1.0' },
    maps: main ? { [name]: main, ...others } : others,
  };
}
