/** Every parameter of a build: what it does, what it costs, and what it is at each quality. One table for screen, command line and core. */

import type { Profile } from '../../profile/schema.ts';
import type { BuildStage, Quality } from './stage.ts';

export interface Parameter {
  id: keyof BuildParameters;
  stage: BuildStage;
  label: string;
  /** What it does and what more of it costs. */
  explains: string;
  /** Numbers have bounds, words have choices. */
  min?: number;
  max?: number;
  step?: number;
  choices?: readonly string[];
  unit?: string;
  value: (quality: Quality, profile: Profile) => number | string;
}

export interface BuildParameters {
  merge: 'yes' | 'no';
  visibility: 'none' | 'fast' | 'full';
  viewDistance: number;
  groundError: number;
  groundLevels: number;
  mood: number;
  luxel: number;
  hemisphereRays: number;
  bounces: number;
  supersample: number;
  sunRays: number;
  denoise: number;
  probeSpacing: number;
  navCell: number;
  embed: 'own' | 'none';
}

const by =
  <T>(draft: T, preview: T, final: T) =>
  (quality: Quality): T =>
    ({ draft, preview, final })[quality];

export const PARAMETERS: readonly Parameter[] = [
  {
    id: 'merge',
    stage: 'geometry',
    label: 'Merge faces',
    explains: 'Pieces of one plane and material become one polygon again: fewer triangles, a little more time.',
    choices: ['yes', 'no'],
    value: () => 'yes',
  },
  {
    id: 'groundError',
    stage: 'ground',
    label: 'Error of the ground',
    explains: 'How far the mesh of the ground may lie off its heights. Half of it makes about twice as many triangles.',
    min: 0.001,
    max: 1000,
    step: 0.01,
    unit: 'units',
    value: (quality, profile) => by(0.6, 0.3, 0.15)(quality) / profile.unit.metres,
  },
  {
    id: 'groundLevels',
    stage: 'ground',
    label: 'Levels of the ground',
    explains: 'Meshes of the ground for farther and farther away, each four times as coarse as the one before.',
    min: 1,
    max: 5,
    step: 1,
    value: by(2, 3, 4),
  },
  {
    id: 'visibility',
    stage: 'visibility',
    label: 'Visibility',
    explains:
      'Which parts can be seen from where. Full clips every view through every opening; fast only asks what lies in front and draws more than needed; none draws everything always, which suits small open maps.',
    choices: ['full', 'fast', 'none'],
    value: (quality, profile) => (profile.sealed ? by('fast', 'full', 'full')(quality) : 'none'),
  },
  {
    id: 'viewDistance',
    stage: 'visibility',
    label: 'Farthest view',
    explains: 'Parts farther away are never drawn. 0 sets no limit; small values make wide maps fast but end the view in the sky.',
    min: 0,
    max: 100000,
    step: 64,
    unit: 'units',
    value: () => 0,
  },
  {
    id: 'mood',
    stage: 'lighting',
    label: 'Mood that is lit',
    explains:
      'Number of the mood, in the order of the map’s list, whose sky, sun and moon the light is made for. Walls and rays are kept from one to the next.',
    min: 1,
    max: 16,
    step: 1,
    value: () => 1,
  },
  {
    id: 'luxel',
    stage: 'lighting',
    label: 'Luxel',
    explains: 'Edge of one point of the lightmap. Half of it takes four times as long and as much memory.',
    min: 0.5,
    max: 256,
    step: 0.5,
    unit: 'units',
    value: (quality, profile) => profile.lighting.luxel[quality],
  },
  {
    id: 'hemisphereRays',
    stage: 'lighting',
    label: 'Rays per luxel',
    explains: 'Rays that look for sky and bounced light. Grain halves with four times as many; time grows in step.',
    min: 0,
    max: 1024,
    step: 1,
    value: by(16, 32, 64),
  },
  {
    id: 'bounces',
    stage: 'lighting',
    label: 'Bounces',
    explains: 'How often light is followed from surface to surface. Later ones add little; each costs a moment only.',
    min: 0,
    max: 64,
    step: 1,
    value: by(2, 4, 8),
  },
  {
    id: 'supersample',
    stage: 'lighting',
    label: 'Samples along a luxel',
    explains: 'Smoother shadow edges: 2 takes four shadow rays for one, 3 takes nine.',
    min: 1,
    max: 8,
    step: 1,
    value: by(1, 1, 2),
  },
  {
    id: 'sunRays',
    stage: 'lighting',
    label: 'Rays to a wide light',
    explains: 'Soft shadows of suns and lamps that have a size, per luxel. Few leave steps in the shadow; time grows in step.',
    min: 1,
    max: 256,
    step: 1,
    value: by(4, 8, 16),
  },
  {
    id: 'denoise',
    stage: 'lighting',
    label: 'Passes against grain',
    explains: 'Each smooths bounced light twice as far as the one before. 0 keeps every detail and the grain.',
    min: 0,
    max: 5,
    step: 1,
    value: by(3, 2, 2),
  },
  {
    id: 'probeSpacing',
    stage: 'lighting',
    label: 'Distance of probes',
    explains: 'Grid at which the light for moving things is known. Half of it takes eight times as many; 0 leaves them out.',
    min: 0,
    max: 1024,
    step: 8,
    unit: 'units',
    value: by(128, 96, 64),
  },
  {
    id: 'navCell',
    stage: 'navigation',
    label: 'Cell of the navmesh',
    explains:
      'How finely the floor is looked at for walkers. Half of it takes four times as long and follows walls more closely. 0 leaves navigation out.',
    min: 0,
    max: 64,
    step: 0.5,
    unit: 'units',
    value: (_quality, profile) => Math.max(1, Math.round(profile.player.radius / 2)),
  },
  {
    id: 'embed',
    stage: 'packing',
    label: 'Pictures and models in the map',
    explains:
      'Own puts the crate’s textures and models into map.glb too, so that it opens anywhere as it is; the package then carries them twice. Stock ones stay with the game and are named.',
    choices: ['own', 'none'],
    value: by('none', 'own', 'own'),
  },
];

/** The parameters of a build: those of a quality, but for what is given otherwise. Values are cut to their bounds. */
export function parametersOf(quality: Quality, profile: Profile, given: Partial<BuildParameters> = {}): BuildParameters {
  return Object.fromEntries(PARAMETERS.map((p) => [p.id, within(p, given[p.id]) ?? p.value(quality, profile)])) as unknown as BuildParameters;
}

function within(parameter: Parameter, value: number | string | undefined): number | string | undefined {
  if (value === undefined) return undefined;
  if (parameter.choices) return parameter.choices.includes(String(value)) ? value : undefined;
  const number = Number(value);
  return Number.isFinite(number) ? Math.min(parameter.max!, Math.max(parameter.min!, number)) : undefined;
}

/** What is wrong with a value that somebody gave, or null. */
export function parameterProblem(parameter: Parameter, value: string): string | null {
  if (parameter.choices) return parameter.choices.includes(value) ? null : `has to be one of ${parameter.choices.join(', ')}`;
  const number = Number(value);
  const fits = value.trim() !== '' && number >= parameter.min! && number <= parameter.max!;
  return fits ? null : `has to be a number from ${parameter.min} to ${parameter.max}`;
}
