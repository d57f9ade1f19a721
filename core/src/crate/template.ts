/** What a new crate begins with. */

import { emptyMap } from '../profile/emptyMap.ts';
import type { Profile } from '../profile/schema.ts';
import type { GameMap } from '../document/schema.ts';
import { writeDocuments, type CrateContents } from './contents.ts';
import type { FileTree } from './fileTree.ts';
import { openField, racePrefabs, ridgeRace } from './openTemplates.ts';
import { sealedMap } from './sealedTemplates.ts';

export const TEMPLATES = ['sealed-room', 'two-rooms', 'stair-hall', 'open-field', 'snow-bowl', 'ridge-race', 'blank'] as const;
export type Template = (typeof TEMPLATES)[number];

/** Templates that suit a game, the one that most begin with first. */
export const templatesOf = (profile: Profile): Template[] =>
  profile.sealed
    ? ['sealed-room', 'two-rooms', 'stair-hall', 'blank']
    : [...(racePrefabs(profile) ? (['ridge-race'] as const) : []), 'open-field', 'snow-bowl', 'blank'];

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
  if (crate.template === 'snow-bowl') return openField(map, profile, 'bowl');
  if (crate.template === 'ridge-race') {
    const race = racePrefabs(profile);
    // A game without races gets the field.
    return race ? ridgeRace(map, profile, race) : openField(map, profile);
  }
  return sealedMap(map, profile, crate.template);
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
    data: {},
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
