import type { BuildStage } from '@violet-crate/core/stages/contract/stage';

/** What every stage does, in a few words. */
export const STAGE_WORK: Record<BuildStage, string> = {
  check: 'all findings of map, scripts and links',
  geometry: 'hidden faces go, pieces of one plane are joined',
  ground: 'meshes of the ground by error bound, what covers it and what grows on it',
  sealing: 'is the inside closed off from the void?',
  visibility: 'what can be seen from where',
  lighting: 'lightmap with shadows, sky and bounces; light for what moves',
  daylight: 'sun and sky on the ground, with the shadows of solids and hills',
  navigation: 'where players can walk and jump',
  overview: 'the drawn map that players see, in the sizes that the game wants',
  packing: 'the files that the game loads',
};

/** Numbers of a stage by the names that people read. */
export const COUNT_WORDS: Record<string, string> = {
  blockers: 'blockers',
  findings: 'findings',
  facesIn: 'faces in',
  pieces: 'pieces',
  facesOut: 'polygons out',
  triangles: 'triangles',
  cells: 'cells',
  portals: 'portals',
  reached: 'reached cells',
  openings: 'openings to the outside',
  sectors: 'sectors',
  gates: 'portal sides',
  pairsSeen: 'pairs of cells that see each other',
  unfinished: 'portal sides with the fast answer',
  lights: 'lights',
  charts: 'charts',
  blocks: 'blocks of luxels',
  blocksLit: 'blocks lit anew',
  pictures: 'files',
  places: 'places',
  luxels: 'luxels',
  rays: 'rays',
  probes: 'probes',
  polygons: 'walkable polygons',
  links: 'jumps',
  samples: 'samples of ground',
  things: 'scattered things',
  files: 'files',
  bytes: 'bytes',
};
