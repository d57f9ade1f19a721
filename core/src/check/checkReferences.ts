/** Findings about what objects refer to: other objects, paths, functions, pairs, and models that cannot do what is asked. */

import { assetRecord, type CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import { isMovable } from '../map/movable.ts';
import { modelOf } from '../map/objectBox.ts';
import { factOf, movesFreely, partsOf } from '../profile/parts.ts';
import { classOf } from '../profile/schema.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import { luaNameProblem } from '../script/names.ts';
import { own } from '../own.ts';

export function checkReferences(world: CrateWorld, map: GameMap, mapName: string, functions: ReadonlySet<string>): Finding[] {
  const told = new Set(Object.values(map.signals).flatMap(({ to }) => ('object' in to ? [`${to.object}/${to.action}`] : [])));
  return Object.entries(map.objects).flatMap(([id, object]) => [
    ...checkIdle(world, mapName, id, object, told),
    ...checkTargets(world, map, mapName, id, object, functions),
    ...checkFaults(world, mapName, id, object),
    ...checkPair(world, map, mapName, id, object),
    ...checkMovable(world, mapName, id, object),
    ...checkIcon(world, mapName, id, object),
  ]);
}

/** What waits to be told, and is told by nothing. Scripts may tell it by its name; what they do is not looked into. */
function checkIdle({ profile, crate }: CrateWorld, mapName: string, id: string, object: MapObject, told: ReadonlySet<string>): Finding[] {
  const waits = factOf(profile, object.class, 'waitsFor');
  if (!waits || (waits.unless && object.properties[waits.unless] === true)) return [];
  if (waits.actions.some((action) => told.has(`${id}/${action}`))) return [];
  if (Object.values(crate.scripts).some((source) => source.includes(object.name))) return [];
  const labels = classOf(profile, object.class)!
    .actions.filter((action) => waits.actions.includes(action.id))
    .map((action) => action.label);
  return [
    {
      code: 'object-idle',
      severity: 'note',
      stage: 'map',
      message: `${object.name} does nothing: no signal and no script tells it to.`,
      hint: `Send a signal to its ${labels.map((label) => `“${label}”`).join(' or ')}.`,
      place: { map: mapName, object: id, point: object.position },
    },
  ];
}

/** What the parts of an object find wrong with its properties. */
const checkFaults = ({ profile }: CrateWorld, mapName: string, id: string, object: MapObject): Finding[] =>
  partsOf(profile, object.class).flatMap((part) =>
    (part.faults?.(object.properties) ?? []).map(({ code, lacks, hint, set }) => ({
      code,
      severity: 'warning' as const,
      stage: 'map' as const,
      message: `${object.name} ${lacks}.`,
      hint,
      place: { map: mapName, object: id, point: object.position },
      fix: {
        kind: 'edit' as const,
        label: 'Mend it',
        edit: {
          name: `mend ${object.name}`,
          changes: [{ of: 'objects' as const, id, to: { ...object, properties: { ...object.properties, ...set } } }],
        },
      },
    })),
  );

const KINDS: Record<string, string> = { object: 'object', path: 'path', script: 'function' };

function checkTargets(world: CrateWorld, map: GameMap, mapName: string, id: string, object: MapObject, functions: ReadonlySet<string>): Finding[] {
  const findings: Finding[] = [];
  for (const definition of classOf(world.profile, object.class)?.properties ?? []) {
    const kind = KINDS[definition.type];
    const value = object.properties[definition.id] ?? definition.default;
    if (!kind || value === '' || typeof value !== 'string') continue;
    const target = own(map.objects, value);
    const there = kind === 'object' ? target : kind === 'path' ? own(map.paths, value) : functions.has(value);
    const wrongClass = kind === 'object' && target && definition.of && !definition.of.includes(target.class);
    if (there && !wrongClass) continue;
    const quoted = kind === 'function' && luaNameProblem(value) !== null;
    // What stands in quotes or before brackets may be the name that was meant.
    const meant = quoted ? (/[A-Za-z_]\w*/.exec(value)?.[0] ?? '') : '';
    const instead = functions.has(meant) ? meant : '';
    findings.push({
      code: 'reference-broken',
      severity: 'blocker',
      stage: 'map',
      message: wrongClass
        ? `${object.name}: ${definition.label} names ${target.name}, which is a ${classOf(world.profile, target.class)?.label ?? target.class}.`
        : quoted
          ? `${object.name}: ${definition.label} holds ${value.slice(0, 80)}, which is no name of a function.`
          : `${object.name}: ${definition.label} names a ${kind} "${value}" that is gone.`,
      hint: quoted ? 'Only the name belongs there, without quotes and brackets.' : `Pick another ${kind}.`,
      place: { map: mapName, object: id, point: object.position },
      fix: {
        kind: 'edit',
        label: instead ? `Use ${instead}` : 'Clear it',
        edit: {
          name: `${instead ? 'correct' : 'clear'} ${definition.label}`,
          changes: [{ of: 'objects', id, to: { ...object, properties: { ...object.properties, [definition.id]: instead } } }],
        },
      },
    });
  }
  for (const [property, { code, lacks, hint }] of Object.entries(factOf(world.profile, object.class, 'needs') ?? {}))
    if (classOf(world.profile, object.class)?.properties.some(({ id: has }) => has === property) && !object.properties[property])
      findings.push({
        code,
        severity: 'warning',
        stage: 'map',
        message: `${object.name} ${lacks}.`,
        hint,
        place: { map: mapName, object: id, point: object.position },
      });
  return findings;
}

/** Entry and exit have to name each other. */
function checkPair(world: CrateWorld, map: GameMap, mapName: string, id: string, object: MapObject): Finding[] {
  const property = classOf(world.profile, object.class)?.pairs;
  const other = property ? object.properties[property] : undefined;
  if (!property || typeof other !== 'string' || own(map.objects, other) === undefined) return [];
  const target = map.objects[other];
  if (other !== id && target.properties[property] === id) return [];
  return [
    {
      code: 'pair-broken',
      severity: 'warning',
      stage: 'map',
      message: other === id ? `${object.name} is paired with itself.` : `${object.name} leads to ${target.name}, which does not lead back.`,
      hint: 'A pair works both ways only if each names the other.',
      place: { map: mapName, object: id, point: object.position },
      fix:
        other === id
          ? undefined
          : {
              kind: 'edit',
              label: 'Lead back',
              edit: {
                name: `pair ${object.name} and ${target.name}`,
                changes: [{ of: 'objects', id: other, to: { ...target, properties: { ...target.properties, [property]: id } } }],
              },
            },
    },
  ];
}

/** A prop can move only where its model has a collision shape and a mass. */
function checkMovable(world: CrateWorld, mapName: string, id: string, object: MapObject): Finding[] {
  const model = modelOf(world.profile, object);
  const record = model === '' ? undefined : assetRecord(world, model);
  if (!record || !movesFreely(world.profile, object) || isMovable(world, object)) return [];
  const shape = record.collision?.kind ?? 'none';
  return [
    {
      code: 'prop-cannot-move',
      severity: 'warning',
      stage: 'map',
      message: `${object.name} is movable, but its model ${model} has ${shape === 'none' ? 'no collision shape' : shape === 'exact' ? 'an exact collision shape, which only fixed props may have' : 'no mass'}.`,
      hint: 'Convert the model with a box, hull or parts for collision and a mass, or make the prop fixed.',
      place: { map: mapName, object: id, point: object.position },
      fix: {
        kind: 'edit',
        label: 'Make it fixed',
        edit: {
          name: `fix ${object.name}`,
          changes: [{ of: 'objects', id, to: { ...object, properties: { ...object.properties, movable: false } } }],
        },
      },
    },
  ];
}

/** A picture on the player's map has to be square, in one of the sizes that the game asks for. */
function checkIcon(world: CrateWorld, mapName: string, id: string, object: MapObject): Finding[] {
  const sizes = world.profile.mapIcons;
  const icon = object.properties.icon;
  const record = typeof icon === 'string' && icon !== '' ? assetRecord(world, icon) : undefined;
  if (!sizes || !record?.width || !record.height) return [];
  if (record.width === record.height && sizes.includes(record.width)) return [];
  return [
    {
      code: 'map-icon-size',
      severity: 'warning',
      stage: 'map',
      message: `${object.name}: the map icon ${icon as string} is ${record.width} × ${record.height}; the game takes ${sizes.map((s) => `${s} × ${s}`).join(', ')}.`,
      hint: 'Convert the picture to one of these sizes.',
      place: { map: mapName, object: id, point: object.position },
    },
  ];
}
