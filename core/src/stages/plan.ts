/** What every stage of a build is made from, in parts with names that people know. */

import { MATERIAL_PICTURES } from '../library/usage.ts';
import { assetRecord, findFile, findMaterial, type CrateWorld } from '../crate/world.ts';
import { boxCentre } from '../math/box3.ts';
import { linearOfHex } from '../math/srgb.ts';
import type { Vec3 } from '../math/vec3.ts';
import { litLights, mapLights, mapSuns } from '../map/lights.ts';
import { classBox, modelOf } from '../map/objectBox.ts';
import { expandWorld } from '../map/prefab.ts';
import type { GameMap, MapObject, Solid } from '../document/schema.ts';
import { factOf } from '../profile/parts.ts';
import type { BuildInputs } from './freshness.ts';
import type { LightingStageInputs } from './lighting/stage.ts';
import { PARAMETERS, type BuildParameters } from './contract/parameters.ts';
import type { SealingInputs } from './sealing/stage.ts';
import { partHash, STAGE_NEEDS, STAGE_REVISION, stageKey, type BuildStage, type StageParts } from './contract/stage.ts';
import { collides, materialContext, type MaterialContext } from './surface/materials.ts';
import { own } from '../own.ts';

/** The solids that seal, those that only split cells, and the points that must not see the outside: every object that takes part in play. */
export function sealingInputs(world: CrateWorld, map: GameMap, context: MaterialContext = materialContext(world, map)): SealingInputs {
  const seals = (solid: Solid) =>
    !solid.detail && solid.faces.every((face) => context.types[own(context.materials, face.material)?.type ?? '']?.seals ?? true);
  const divides = (solid: Solid) => solid.faces.some((face) => context.types[own(context.materials, face.material)?.type ?? '']?.divides);
  const only = (test: (solid: Solid) => boolean | undefined) => Object.fromEntries(Object.entries(map.solids).filter(([, solid]) => test(solid)));
  return {
    solids: only(seals),
    dividers: only(divides),
    sources: Object.entries(map.objects)
      .filter(([, object]) => !factOf(world.profile, object.class, 'everywhere'))
      .map(([id, object]) => ({ id, name: object.name, point: boxCentre(classBox(world.profile, object)) as Vec3 })),
  };
}

/** Lights, suns and sky of a map, as the lighting stage takes them. */
export function lightInputs(world: CrateWorld, map: GameMap): Pick<LightingStageInputs, 'lights' | 'suns' | 'sky' | 'metresPerUnit'> {
  return {
    lights: mapLights(world.profile, map),
    suns: mapSuns(world.profile, map),
    sky: { colour: linearOfHex(map.settings.skyColour), radiance: map.settings.skyIntensity },
    metresPerUnit: world.profile.unit.metres,
  };
}

/** The file whose picture lights the map; null where its sky is one colour, or the picture is missing. */
export function skyPicture(world: CrateWorld, map: GameMap): { path: string; sha256: string } | null {
  const texture = map.settings.skyMaterial && findMaterial(world, map.settings.skyMaterial)?.material.texture;
  return texture ? findFile(world, texture) : null;
}

export interface BuildPlan extends BuildInputs {
  parts: Record<BuildStage, StageParts>;
  /** Key of every stage's result, as far as it follows from inputs alone. */
  keys: Record<BuildStage, string>;
}

/** @param given a world whose prefabs may still be folded */
export function planBuild(given: CrateWorld, mapName: string, parameters: BuildParameters): BuildPlan {
  const world = expandWorld(given);
  const { profile } = world;
  const map = world.crate.maps[mapName];
  const context = materialContext(world, map);
  const parts: Record<BuildStage, StageParts> = {
    check: {},
    geometry: {},
    sealing: {},
    visibility: {},
    lighting: {},
    navigation: {},
    packing: {},
  };
  const put = (stage: BuildStage, name: string, value: unknown) => (parts[stage][name] = partHash(value));

  const ownHash = (path: string | undefined) => world.crate.files.find((file) => file.path === path)?.sha256 ?? null;
  const sealing = sealingInputs(world, map, context);
  const stops = collides(world);
  for (const [id, solid] of Object.entries(map.solids)) {
    const form = solid.faces.map(({ normal, distance }) => [normal, distance]);
    put('geometry', `solid ${id}`, solid.faces);
    if (sealing.solids[id] ?? sealing.dividers[id]) put('sealing', `solid ${id}`, form);
    if (solid.faces.some((face) => stops(face.material))) put('navigation', `solid ${id}`, form);
  }
  for (const [name, material] of Object.entries(context.materials)) {
    const type = context.types[material.type];
    put('geometry', `material ${name}`, [type?.drawn, type?.opaque, type?.id, material.unitsPerRepeat]);
    put('lighting', `material ${name}`, [material.albedo, material.emission, material.luxel ?? 1, type]);
    put('packing', `material ${name}`, [
      material.albedo,
      ...MATERIAL_PICTURES.map((picture) => ownHash(findMaterial(world, name)?.material[picture])),
    ]);
  }
  for (const { id, light } of litLights(profile, map)) {
    const { name } = map.objects[id];
    put('lighting', `${name}|kind`, light.kind);
    for (const [key, value] of Object.entries(light.light)) put('lighting', `${name}|${key}`, value);
  }
  for (const object of Object.values(map.objects)) {
    objectParts(object, (name, value) => put('packing', name, value));
    if (object.shape) put('packing', `${object.name}|form`, object.shape);
    const model = modelOf(profile, object);
    if (model) put('packing', `model ${model}`, [assetRecord(world, model)?.bounds ?? null, ownHash(model)]);
  }
  put('lighting', 'sky', [map.settings.skyColour, map.settings.skyIntensity, skyPicture(world, map)?.sha256 ?? null]);
  put('lighting', 'luxel of the map', map.settings.luxel ?? 1);
  put('navigation', 'player of the game', profile.player);
  put('packing', 'settings of the map', map.settings);
  for (const [id, signal] of Object.entries(map.signals)) put('packing', `signal ${id}`, signal);
  for (const path of Object.values(map.paths)) put('packing', `path ${path.name}`, path);
  for (const [path, text] of Object.entries(world.crate.scripts)) put('packing', `script ${path.replace(/^scripts\//, '')}`, text);
  for (const { id, stage, label } of PARAMETERS) put(stage, `parameter “${label}”`, parameters[id]);
  put('sealing', 'game’s rule on sealing', profile.sealed);

  const keys = {} as Record<BuildStage, string>;
  for (const stage of Object.keys(parts) as BuildStage[])
    keys[stage] = stageKey(
      stage,
      parts[stage],
      STAGE_NEEDS[stage].map((need) => keys[need]),
    );
  return { revisions: { ...STAGE_REVISION }, parts, keys };
}

function objectParts(object: MapObject, put: (name: string, value: unknown) => void) {
  put(`${object.name}|class`, object.class);
  put(`${object.name}|position`, object.position);
  put(`${object.name}|turn`, object.turn);
  for (const [key, value] of Object.entries(object.properties)) put(`${object.name}|${key}`, value);
}
