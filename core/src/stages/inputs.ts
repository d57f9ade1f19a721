/**
 * What every stage of a build is made from: the very values that its function receives, and nothing else. The key of a
 * stage is the hash of its value here, so that nothing that it reads can be forgotten; what it does not read is not here,
 * so that nothing else makes it stale.
 */

import { findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import type { GameMap, Solid } from '../document/schema.ts';
import { inMood } from '../mood/light.ts';
import { litLights } from '../map/lights.ts';
import type { GroundInputs } from './ground/stage.ts';
import { classBox, climbsOf } from '../map/objectBox.ts';
import { collidersOf, surfacesOf } from '../map/member/members.ts';
import { boxCentre } from '../math/box3.ts';
import { linearOfHex } from '../math/srgb.ts';
import { overviewInputs, type OverviewInputs } from '../overview/inputs.ts';
import { own } from '../own.ts';
import type { Light } from '../part/lightSource.ts';
import type { Climb } from '../part/part.ts';
import { factOf } from '../profile/parts.ts';
import type { MaterialType, Profile } from '../profile/schema.ts';
import type { BuildParameters } from './contract/parameters.ts';
import type { BuildStage } from './contract/stage.ts';
import type { GeometryMaterial, GeometryType } from './geometry/stage.ts';
import type { LightMaterial, LightType } from './lighting/stage.ts';
import { NAVIGATION_PLAYER, type NavigationPlayer } from './navigation/navmesh.ts';
import { packingInputs, type PackingInputs } from './pack/inputs.ts';
import type { ProgramsInputs } from './programs/stage.ts';
import type { SealingInputs } from './sealing/stage.ts';
import { formOf, pick } from './surface/form.ts';
import { collides, materialContext, type MaterialContext } from './surface/materials.ts';

export interface StageInputs {
  geometry: {
    /** Faces with all that projects a texture; labels and layers mean nothing here. */
    solids: Record<string, Solid>;
    materials: Record<string, GeometryMaterial>;
    types: Record<string, GeometryType>;
    parameters: Pick<BuildParameters, 'merge'>;
  };
  ground: GroundInputs;
  /** Forms only: what they are covered with decides which are here. */
  sealing: { solids: Record<string, Solid>; dividers: Record<string, Solid>; sealed: boolean };
  visibility: { parameters: Pick<BuildParameters, 'visibility' | 'viewDistance'> };
  lighting: {
    materials: Record<string, LightMaterial>;
    types: Record<string, LightType>;
    /** By the ids of their objects. */
    lights: Record<string, Light>;
    sky: { colour: [number, number, number]; radiance: number; picture: string | null };
    /** What the luxel is multiplied by in this map. */
    luxel: number;
    metresPerUnit: number;
    /** Forms of the solids in which no probe may stand. */
    dark: Record<string, Solid>;
    parameters: Pick<BuildParameters, 'luxel' | 'hemisphereRays' | 'bounces' | 'supersample' | 'sunRays' | 'denoise' | 'probeSpacing'>;
  };
  daylight: {
    lights: Record<string, Light>;
    sky: { colour: [number, number, number]; radiance: number; picture: string | null };
    albedo: [number, number, number];
    metresPerUnit: number;
    parameters: Pick<BuildParameters, 'luxel' | 'hemisphereRays' | 'sunRays'>;
  };
  navigation: { solids: Record<string, Solid>; climbs: Climb[]; player: NavigationPlayer; parameters: Pick<BuildParameters, 'navCell'> };
  overview: OverviewInputs;
  packing: PackingInputs;
  programs: ProgramsInputs;
}

/** Stages that have inputs of their own; the check looks at everything and is made anew every time. */
export type KeyedStage = Exclude<BuildStage, 'check'>;

/** @param world one whose prefabs are laid out */
export function stageInputs(world: CrateWorld, mapName: string, parameters: BuildParameters): StageInputs {
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const context = materialContext(world, map);
  const used = usedTypes(context);
  const sealing = sealingInputs(world, map, context);
  const stops = collides(world);
  const typeOf = (material: string): MaterialType | undefined => context.types[own(context.materials, material)?.type ?? ''];
  const colliders = collidersOf(map);
  const forms = (test: (solid: Solid) => boolean) =>
    Object.fromEntries(colliders.flatMap(({ id, solid }) => (test(solid) ? [[id, formOf(solid)]] : [])));
  const hasGround = Object.keys(map.terrains).length > 0;
  const lit = inMood(profile, map, parameters.mood - 1);
  const lights = Object.fromEntries(litLights(profile, lit).map(({ id, light }) => [id, light]));
  const sky = { colour: linearOfHex(lit.settings.skyColour), radiance: lit.settings.skyIntensity, picture: skyPicture(world, lit)?.sha256 ?? null };
  return {
    geometry: {
      solids: Object.fromEntries(surfacesOf(map).map(({ id, solid: { faces } }) => [id, { faces }])),
      materials: each(context.materials, (material) => pick(material, 'type', 'unitsPerRepeat')),
      types: each(used, (type) => pick(type, 'drawn', 'opaque')),
      parameters: pick(parameters, 'merge'),
    },
    sealing: { solids: each(sealing.solids, formOf), dividers: each(sealing.dividers, formOf), sealed: profile.sealed },
    visibility: { parameters: pick(parameters, 'visibility', 'viewDistance') },
    lighting: {
      materials: each(context.materials, (material) => pick(material, 'name', 'type', 'albedo', 'emission', 'luxel')),
      types: each(used, (type) => pick(type, 'lit', 'opaque', 'sky')),
      lights,
      sky,
      luxel: map.settings.luxel ?? 1,
      metresPerUnit: profile.unit.metres,
      dark: forms((solid) => solid.faces.some((face) => typeOf(face.material)?.opaque ?? true)),
      parameters: pick(parameters, 'luxel', 'hemisphereRays', 'bounces', 'supersample', 'sunRays', 'denoise', 'probeSpacing'),
    },
    ground: {
      terrains: map.terrains,
      tiles: map.tiles,
      feels: Object.fromEntries(groundMaterials(map).map((material) => [material, findMaterial(world, material)?.material.surface ?? ''])),
      mostThings: profile.budgets?.things ?? null,
      parameters: pick(parameters, 'groundError', 'groundLevels'),
    },
    // Without ground nothing is lit by it, and nothing makes it stale.
    daylight: !hasGround
      ? NO_DAYLIGHT
      : {
          lights,
          sky,
          albedo: meanOf(groundMaterials(map).flatMap((material) => context.materials[material]?.albedo ?? [])),
          metresPerUnit: profile.unit.metres,
          parameters: pick(parameters, 'luxel', 'hemisphereRays', 'sunRays'),
        },
    navigation: {
      solids: forms((solid) => solid.faces.some((face) => stops(face.material))),
      climbs: climbsOf(profile, map),
      player: pick(profile.player, ...NAVIGATION_PLAYER),
      parameters: pick(parameters, 'navCell'),
    },
    // A game without such a picture has nothing that could make one stale.
    overview: profile.mapPicture ? overviewInputs(world, mapName) : NO_OVERVIEW,
    packing: packingInputs(world, mapName, context, pick(parameters, 'embed')),
    programs: { programs: (profile.programs ?? []).filter(({ at }) => at === 'build') },
  };
}

/** The solids that seal, those that only split cells, and the points that must not see the outside: every object that takes part in play. */
export function sealingInputs(world: CrateWorld, map: GameMap, context: MaterialContext = materialContext(world, map)): SealingInputs {
  const typeOf = (material: string): MaterialType | undefined => context.types[own(context.materials, material)?.type ?? ''];
  const only = (test: (solid: Solid) => boolean | undefined) =>
    Object.fromEntries(collidersOf(map).flatMap(({ id, solid }) => (test(solid) ? [[id, solid]] : [])));
  return {
    solids: only((solid) => !solid.detail && solid.faces.every((face) => typeOf(face.material)?.seals ?? true)),
    dividers: only((solid) => solid.faces.some((face) => typeOf(face.material)?.divides)),
    sources: floodSources(world.profile, map),
  };
}

const NO_OVERVIEW: StageInputs['overview'] = {
  name: '',
  terrains: {},
  tiles: {},
  colours: {},
  solids: {},
  water: {},
  roads: {},
  routes: {},
  stops: {},
  places: {},
  unit: { plural: '', metres: 1 },
  sides: [],
  icons: [],
};

const NO_DAYLIGHT: StageInputs['daylight'] = {
  lights: {},
  sky: { colour: [0, 0, 0], radiance: 0, picture: null },
  albedo: [0, 0, 0],
  metresPerUnit: 1,
  parameters: { luxel: 0, hemisphereRays: 0, sunRays: 0 },
};

/** Materials of all grounds, each once. */
const groundMaterials = (map: GameMap): string[] => [
  ...new Set(Object.values(map.terrains).flatMap(({ surfaces }) => surfaces.map(({ material }) => material))),
];

/** The mean of colours that lie one after the other. */
const meanOf = (colours: readonly number[]): [number, number, number] =>
  [0, 1, 2].map((k) => {
    const own = colours.filter((_, i) => i % 3 === k);
    return own.length > 0 ? own.reduce((a, b) => a + b, 0) / own.length : 0.5;
  }) as [number, number, number];

const floodSources = (profile: Profile, map: GameMap): SealingInputs['sources'] =>
  Object.entries(map.objects).flatMap(([id, object]) =>
    factOf(profile, object.class, 'everywhere') ? [] : [{ id, name: object.name, point: boxCentre(classBox(profile, object)) }],
  );

/** The file whose picture lights the map; null where its sky is one colour, or the picture is missing. */
export function skyPicture(world: CrateWorld, map: GameMap): { path: string; sha256: string } | null {
  const texture = map.settings.skyMaterial && findMaterial(world, map.settings.skyMaterial)?.material.texture;
  return texture ? findFile(world, texture) : null;
}

/** The types of the materials that are used. */
const usedTypes = ({ materials, types }: MaterialContext): Record<string, MaterialType> =>
  Object.fromEntries(Object.values(materials).flatMap(({ type }) => (types[type] ? [[type, types[type]]] : [])));

const each = <T, U>(record: Readonly<Record<string, T>>, change: (value: T) => U): Record<string, U> =>
  Object.fromEntries(Object.entries(record).map(([key, value]) => [key, change(value)]));
