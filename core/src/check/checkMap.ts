/** Findings about one map by itself and against the profile. Links to files are checked in `link/`. */

import { findMaterial, type CrateWorld } from '../crate/world.ts';
import { nameProblem, properName, freeName } from '../crate/naming.ts';
import type { Finding } from '../finding.ts';
import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { factOf } from '../profile/parts.ts';
import { classOf, materialType } from '../profile/schema.ts';
import { checkSolid } from './checkSolid.ts';
import { checkReferences } from './checkReferences.ts';
import { checkSeries } from './checkSeries.ts';
import { checkSolids } from './checkSolids.ts';
import { checkPeople } from './checkPeople.ts';
import { checkGround } from './checkGround.ts';
import { checkDecals } from './checkDecals.ts';
import { checkPlacedEffects } from './checkEffects.ts';
import { checkBeds } from './checkBeds.ts';
import { checkMoods } from './checkMoods.ts';
import { checkRoutes } from './checkRoutes.ts';
import { checkZones } from './checkZones.ts';
import { checkStanding } from './checkStand.ts';
import { newObject } from '../profile/newObject.ts';
import { emptyMap } from '../profile/emptyMap.ts';
import { holdsBox, wears, type Collider } from '../map/member/collider.ts';
import { collidersOf } from '../map/member/members.ts';
import { classBox } from '../map/objectBox.ts';
import { freshId } from '../document/edit.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import { own } from '../own.ts';

/** Gap under a start point that the fix leaves, as a share of the player's height. */
const START_GAP = 1 / 28;

export function checkMap(world: CrateWorld, name: string, functions: ReadonlySet<string>): Finding[] {
  const map = world.crate.maps[name];
  const findings: Finding[] = [];
  /** Solids whose faces enclose nothing. */
  const broken = new Set<string>();
  const blocks = once((material) => isBlocking(world, material));
  for (const [id, solid] of Object.entries(map.solids)) {
    const own = checkSolid(id, solid, name);
    findings.push(...own);
    if (own.length > 0) broken.add(id);
  }
  const blocking = collidersOf(map).filter((one) => !(one.of === 'solids' && broken.has(one.id)) && wears(one, blocks));
  if (Object.keys(map.solids).length === 0 && Object.keys(map.terrains).length === 0) {
    findings.push({
      code: 'map-empty',
      severity: 'blocker',
      stage: 'map',
      message: `Map ${name} has no solids yet.`,
      hint: 'Draw a room in the plan to begin.',
      place: { map: name },
    });
  }
  findings.push(
    ...checkObjects(world, name, map, blocking),
    ...checkRequired(world, name, map),
    ...checkSignals(world, name, map, functions),
    ...checkReferences(world, map, name, functions),
    ...checkSeries(map, name, world.profile),
    ...checkStanding(world, map, name),
    ...checkGround(world, map, name),
    ...checkZones(world, map, name),
    ...checkRoutes(world, map, name),
    ...checkDecals(world, map, name),
    ...checkPlacedEffects(world, map, name),
    ...checkMoods(world, map, name),
    ...checkBeds(world, map, name),
    ...checkPeople(world, map, name),
  );
  findings.push(...checkSky(world, name, map));
  const typeOf = (material: string) => materialType(world.profile, findMaterial(world, material)?.material.type ?? '');
  if (!findings.some((f) => f.code === 'solid-open'))
    findings.push(
      ...checkSolids(
        map,
        name,
        world.profile,
        once((material) => typeOf(material)?.drawn === false),
        once((material) => typeOf(material)?.divides === true),
      ),
    );
  // Ids are of their map: a fix that does not say of which could be written into another one.
  return findings.map((finding) => (finding.place?.map === undefined ? { ...finding, place: { map: name, ...finding.place } } : finding));
}

/** Asks once per material: maps have thousands of faces of a dozen materials. */
function once(ask: (material: string) => boolean): (material: string) => boolean {
  const known = new Map<string, boolean>();
  return (material) => {
    let answer = known.get(material);
    if (answer === undefined) known.set(material, (answer = ask(material)));
    return answer;
  };
}

/** A missing material is a missing link; here are those that are there but show no sky. */
function checkSky(world: CrateWorld, name: string, { settings }: GameMap): Finding[] {
  const found = settings.skyMaterial ? findMaterial(world, settings.skyMaterial) : null;
  if (!found || (materialType(world.profile, found.material.type)?.sky && found.material.texture)) return [];
  return [
    {
      code: 'sky-without-picture',
      severity: 'warning',
      stage: 'map',
      message: `The sky takes its light from ${settings.skyMaterial}, which ${found.material.texture ? 'is no material of a sky' : 'has no picture'}.`,
      hint: 'Choose a sky with a picture in the map’s properties, or none.',
      place: { map: name },
      fix: {
        kind: 'edit',
        label: 'Light by the colour alone',
        edit: { name: 'no picture of the sky', changes: [{ of: 'settings', to: withoutSky(settings) }] },
      },
    },
  ];
}

const withoutSky = ({ skyMaterial: _sky, ...settings }: GameMap['settings']): GameMap['settings'] => settings;

const isBlocking = (world: CrateWorld, material: string): boolean => {
  const found = findMaterial(world, material);
  return !found || (materialType(world.profile, found.material.type)?.seals ?? true);
};

function checkObjects(world: CrateWorld, name: string, map: GameMap, blocking: readonly Collider[]): Finding[] {
  const { profile } = world;
  const findings: Finding[] = [];
  const names = new Map<string, string>();
  let all: Set<string> | null = null;
  // Only where a name has to be found; maps have thousands of objects, and nearly all names are right.
  const taken = () => (all ??= new Set(Object.values(map.objects).map((o) => o.name)));
  for (const [id, object] of Object.entries(map.objects)) {
    const place = { map: name, object: id, point: object.position };
    const objectClass = classOf(profile, object.class);
    const rename = (to: string): Finding['fix'] => ({
      kind: 'edit',
      label: `Rename to ${to}`,
      edit: { name: `rename ${object.name}`, changes: [{ of: 'objects', id, to: { ...object, name: to } }] },
    });
    if (!objectClass) {
      findings.push({
        code: 'object-class',
        severity: 'blocker',
        stage: 'map',
        message: `${object.name} is of class "${object.class}", which ${profile.title} does not have.`,
        hint: 'Delete it or choose another class.',
        place,
      });
      continue;
    }
    const problem = nameProblem(profile, 'object', object.name);
    if (problem)
      findings.push({
        code: 'object-name',
        severity: 'blocker',
        stage: 'map',
        message: `Object name "${object.name}": ${problem}`,
        place,
        fix: rename(freeName(properName(profile, 'object', object.name), taken())),
      });
    else if (names.has(object.name)) {
      findings.push({
        code: 'object-name-twice',
        severity: 'blocker',
        stage: 'map',
        message: `Two objects are called ${object.name}; scripts could not tell them apart.`,
        place,
        fix: rename(freeName(object.name, taken())),
      });
    }
    names.set(object.name, id);
    findings.push(...checkProperties(world, name, id, object));
    if (object.script !== undefined && own(world.crate.scripts, object.script) === undefined) {
      const { script, ...without } = object;
      findings.push({
        code: 'object-script-missing',
        severity: 'warning',
        stage: 'map',
        message: `${object.name} has the script ${script}, which the crate does not.`,
        hint: 'Choose another script for it, or none.',
        place,
        fix: { kind: 'edit', label: 'Take it away', edit: { name: `no script for ${object.name}`, changes: [{ of: 'objects', id, to: without }] } },
      });
    }
    if (factOf(profile, object.class, 'puts')) findings.push(...checkPlace(world, map, name, id, object, blocking));
  }
  return findings;
}

function checkProperties(world: CrateWorld, name: string, id: string, object: MapObject): Finding[] {
  const findings: Finding[] = [];
  const known = classOf(world.profile, object.class)!.properties;
  for (const definition of known) {
    const value = object.properties[definition.id];
    if (value === undefined) continue;
    const problem = propertyProblem(definition, value);
    if (problem) {
      findings.push({
        code: 'object-property',
        severity: 'blocker',
        stage: 'map',
        message: `${object.name}: ${definition.label} ${problem}.`,
        place: { map: name, object: id, point: object.position },
        fix: {
          kind: 'edit',
          label: 'Use the default',
          edit: {
            name: `reset ${definition.label}`,
            changes: [{ of: 'objects', id, to: { ...object, properties: { ...object.properties, [definition.id]: definition.default } } }],
          },
        },
      });
    }
  }
  return findings;
}

/** What is wrong with a property's value, to be read after its label, or null. */
export function propertyProblem(definition: { type: string; min?: number; max?: number; choices?: string[] }, value: unknown): string | null {
  switch (definition.type) {
    case 'number':
      if (typeof value !== 'number' || !Number.isFinite(value)) return 'has to be a number';
      if (definition.min !== undefined && value < definition.min) return `has to be at least ${definition.min}`;
      if (definition.max !== undefined && value > definition.max) return `has to be at most ${definition.max}`;
      return null;
    case 'angle':
      return typeof value === 'number' && value >= 0 && value < 360 ? null : 'has to be an angle from 0 to below 360';
    case 'direction': {
      const size = Array.isArray(value) ? Math.hypot(...(value as number[])) : 0;
      return Math.abs(size - 1) < 1e-3 ? null : 'has to be a direction of length 1';
    }
    case 'list':
      return Array.isArray(value) && value.every((v) => typeof v === 'string') ? null : 'has to be a list of texts';
    case 'boolean':
      return typeof value === 'boolean' ? null : 'has to be yes or no';
    case 'vector':
      return Array.isArray(value) && value.length === 3 && value.every((v) => Number.isFinite(v)) ? null : 'has to be three numbers';
    case 'colour':
      return typeof value === 'string' && /^#[0-9a-fA-F]{6}$/.test(value) ? null : 'has to be a colour like #ffcc88';
    case 'choice':
      return definition.choices?.includes(String(value)) ? null : `has to be one of ${definition.choices?.join(', ')}`;
    default:
      return typeof value === 'string' ? null : 'has to be a text';
  }
}

/** Where a player is put there has to be a player-sized space, and a little air under the feet. */
function checkPlace(world: CrateWorld, map: GameMap, name: string, id: string, object: MapObject, blocking: readonly Collider[]): Finding[] {
  const { player } = world.profile;
  const box = classBox(world.profile, { ...object, properties: {} });
  box.max[2] = box.min[2] + player.height;
  for (let axis = 0; axis < 2; axis++) {
    box.min[axis] = object.position[axis] - player.radius;
    box.max[axis] = object.position[axis] + player.radius;
  }
  const touched = blocking.filter((other) => holdsBox(other, box, 0));
  if (touched.length === 0) return [];
  const lifted = freeHeight(object.position, box, blocking, player.height * START_GAP);
  return [
    {
      code: 'start-touches',
      severity: 'warning',
      stage: 'map',
      message: `${factOf(world.profile, object.class, 'start') ? 'Start point' : classOf(world.profile, object.class)!.label} ${object.name} touches a solid.`,
      hint: 'The player would be put inside it and fall through the floor. Lift it a little.',
      place: { map: name, object: id, point: object.position },
      fix:
        lifted === null
          ? undefined
          : {
              kind: 'edit',
              label: `Lift by ${round(lifted - object.position[2])} ${world.profile.unit.plural}`,
              edit: {
                name: `lift ${object.name}`,
                changes: [{ of: 'objects', id, to: { ...map.objects[id], position: [object.position[0], object.position[1], lifted] } }],
              },
            },
    },
  ];
}

const round = (v: number) => Math.round(v * 100) / 100;

/** The lowest height above the present one at which the box is free, or null within four box heights. */
function freeHeight(position: Vec3, box: Box3, blocking: readonly Collider[], gap: number): number | null {
  const height = box.max[2] - box.min[2];
  const candidates = blocking.flatMap((b) => [b.box.max[2] + gap]).filter((z) => z > position[2] && z < position[2] + height * 4);
  for (const z of candidates.sort((a, b) => a - b)) {
    const raised: Box3 = { min: [box.min[0], box.min[1], z], max: [box.max[0], box.max[1], z + height] };
    if (!blocking.some((other) => holdsBox(other, raised, 0))) return z;
  }
  return null;
}

function checkRequired(world: CrateWorld, name: string, map: GameMap): Finding[] {
  const findings: Finding[] = [];
  for (const rule of world.profile.required) {
    const count = Object.values(map.objects).filter((object) => object.class === rule.class).length;
    const label = classOf(world.profile, rule.class)!.label;
    if (count < rule.min) {
      const id = freshId(map.objects, 'o');
      const objectName = freeName(
        rule.class,
        Object.values(map.objects).map((o) => o.name),
      );
      findings.push({
        code: 'required-missing',
        severity: 'blocker',
        stage: 'map',
        message: `The map has ${count === 0 ? 'no' : `only ${count}`} ${label}: ${rule.reason}.`,
        place: { map: name },
        fix: {
          kind: 'edit',
          label: `Place a ${label}`,
          edit: {
            name: `place ${label}`,
            changes: [{ of: 'objects', id, to: newObject(world.profile, rule.class, objectName, suggestedSpot(world, map)) }],
          },
        },
      });
    }
    if (rule.max !== undefined && count > rule.max)
      findings.push({
        code: 'required-too-many',
        severity: 'blocker',
        stage: 'map',
        message: `The map has ${count} of ${label}; at most ${rule.max} may be.`,
        place: { map: name },
      });
  }
  return findings;
}

/** A spot for something that has to be placed somewhere: over the middle of what is most like a floor. */
function suggestedSpot(world: CrateWorld, map: GameMap): Vec3 {
  const lift = world.profile.player.height * START_GAP;
  let best: Vec3 = [0, 0, emptyMap(world.profile).bands.b1.bottom + lift];
  let bestArea = 0;
  for (const { box } of collidersOf(map)) {
    const area = (box.max[0] - box.min[0]) * (box.max[1] - box.min[1]);
    // Ceilings are as large as floors; the lower of two equals is the floor.
    if (area > bestArea * 1.01 || (area > bestArea * 0.99 && box.max[2] < best[2])) {
      bestArea = Math.max(area, bestArea);
      best = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, box.max[2] + lift];
    }
  }
  return best;
}

function checkSignals(world: CrateWorld, name: string, map: GameMap, functions: ReadonlySet<string>): Finding[] {
  const findings: Finding[] = [];
  for (const [id, signal] of Object.entries(map.signals)) {
    const broken = (message: string, hint: string) =>
      findings.push({
        code: 'signal-broken',
        severity: 'blocker',
        stage: 'map',
        message,
        hint,
        place: { map: name, signal: id, object: own(map.objects, signal.from) ? signal.from : undefined },
        fix: { kind: 'edit', label: 'Remove the signal', edit: { name: 'remove broken signal', changes: [{ of: 'signals', id, to: null }] } },
      });
    const from = own(map.objects, signal.from);
    const fromClass = from && classOf(world.profile, from.class);
    if (!from) {
      broken(`Signal ${id} starts at an object that is gone.`, 'Remove it, or connect it to another object.');
      continue;
    }
    if (fromClass && !fromClass.events.some((event) => event.id === signal.event))
      broken(`${from.name} has no event "${signal.event}".`, `A ${fromClass.label} has: ${fromClass.events.map((e) => e.id).join(', ') || 'none'}.`);
    if ('script' in signal.to) {
      if (!functions.has(signal.to.script))
        broken(
          `The signal from ${from.name} calls ${signal.to.script}, which no script defines.`,
          'It may have been renamed or removed; choose another function.',
        );
      continue;
    }
    const target = own(map.objects, signal.to.object);
    const targetClass = target && classOf(world.profile, target.class);
    const { action } = signal.to;
    if (!target) broken(`The signal from ${from.name} acts on an object that is gone.`, 'Choose another target or remove the signal.');
    else if (targetClass && !targetClass.actions.some((a) => a.id === action))
      broken(
        `${target.name} has no action "${action}".`,
        `A ${targetClass.label} has: ${targetClass.actions.map((a) => a.id).join(', ') || 'none'}.`,
      );
  }
  return findings;
}
