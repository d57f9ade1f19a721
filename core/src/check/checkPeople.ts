/** Findings of people: their row and talk, where they stand, what they see through, and how movement sequences come out. */

import type { CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import { PLAYER, type GameMap, type MapObject } from '../document/schema.ts';
import { holdsBox, surfaceBelow, type Collider } from '../map/member/collider.ts';
import { collidersOf } from '../map/member/members.ts';
import { classBox } from '../map/objectBox.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import type { Vec3 } from '../math/vec3.ts';
import { stagedBy } from '../movement/stage.ts';
import { own } from '../own.ts';
import { hasPart } from '../profile/parts.ts';
import { classOf } from '../profile/schema.ts';
import { safeSteps, seenThrough, sightOf, stepsOf } from '../sight/sightOf.ts';
import { Tables } from '../table/tables.ts';
import { talkPath } from '../talk/document.ts';

export function checkPeople(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const { profile } = world;
  const people = Object.entries(map.objects).filter(([, object]) => hasPart(profile, object.class, 'actor'));
  if (people.length === 0 && Object.keys(map.sequences).length === 0) return [];
  const grid = new BoxGrid<Collider>(profile.player.height * 4);
  for (const collider of collidersOf(map)) grid.add(collider.box, collider);
  return [
    ...checkNames(world, map, mapName),
    ...people.flatMap(([id, object]) => checkStand(world, mapName, id, object, grid, people)),
    ...people.flatMap(([id, object]) => checkSight(world, map, mapName, id, object)),
    ...checkSequences(world, map, mapName, grid),
  ];
}

/** Rows, conversations and sequences that properties of any object name. */
function checkNames(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const { profile, crate } = world;
  const tables = new Tables(profile.tables ?? [], crate.data);
  const findings: Finding[] = [];
  for (const [id, object] of Object.entries(map.objects))
    for (const property of classOf(profile, object.class)?.properties ?? []) {
      const value = object.properties[property.id];
      if (typeof value !== 'string' || value === '') continue;
      const lacks =
        property.type === 'record'
          ? tables.row(property.table ?? '', value) === undefined &&
            `${tables.get(property.table ?? '')?.table.label ?? 'the game'} has no row "${value}"`
          : property.type === 'talk'
            ? own(crate.data, talkPath(value)) === undefined && `there is no conversation "${value}"`
            : property.type === 'sequence' && !own(map.sequences, value) && `the map has no movement sequence "${value}"`;
      if (lacks)
        findings.push({
          code: 'person-name',
          severity: 'blocker',
          stage: 'map',
          message: `${object.name}: ${property.label}: ${lacks}.`,
          hint: 'Choose one that is there.',
          place: { map: mapName, object: id, point: object.position },
        });
    }
  return findings;
}

function checkStand(
  world: CrateWorld,
  mapName: string,
  id: string,
  object: MapObject,
  grid: BoxGrid<Collider>,
  people: readonly [string, MapObject][],
): Finding[] {
  const { profile } = world;
  const { stepHeight } = profile.player;
  const place = { map: mapName, object: id, point: object.position };
  const box = classBox(profile, object);
  const clear: Box3 = { min: [box.min[0], box.min[1], box.min[2] + 0.01], max: box.max };
  const around = grid.near(box, stepHeight * 4);
  const tell = (code: string, message: string, hint: string): Finding => ({ code, severity: 'warning', stage: 'map', message, hint, place });
  const wall = around.find((one) => holdsBox(one, clear, profile.player.height / 200));
  if (wall) return [tell('person-in-solid', `${object.name} stands in solid ${wall.id}.`, 'Move them out of it.')];
  const floor = surfaceBelow(around, [object.position[0], object.position[1], object.position[2] + 0.01]);
  if (Object.keys(world.crate.maps[mapName]?.terrains ?? {}).length === 0 && (floor === null || object.position[2] - floor > stepHeight))
    return [tell('person-off-floor', `${object.name} stands over no floor.`, 'Move them onto one.')];
  const other = people.find(([otherId, one]) => otherId > id && boxesTouch(box, classBox(profile, one), profile.player.radius * 0.1));
  return other ? [tell('person-in-way', `${object.name} stands in the way of ${other[1].name}.`, 'Move one of them.')] : [];
}

function checkSight(world: CrateWorld, map: GameMap, mapName: string, id: string, object: MapObject): Finding[] {
  const { profile } = world;
  const steps = stepsOf(object);
  if (!profile.sight || profile.sight.walls || steps <= 0) return [];
  if (steps > profile.sight.most)
    return [
      {
        code: 'sight-far',
        severity: 'warning',
        stage: 'map',
        message: `${object.name} is to see ${steps} steps; people of ${profile.title} see ${profile.sight.most}.`,
        place: { map: mapName, object: id, point: object.position },
        fix: withSight(id, object, profile.sight.most),
      },
    ];
  const sight = sightOf(world, map, object);
  const through = sight ? seenThrough(world, map, object, sight) : [];
  if (through.length === 0) return [];
  const safe = safeSteps(world, through, steps);
  return [
    {
      code: 'sight-through',
      severity: 'warning',
      stage: 'map',
      message: `${object.name} sees through a wall: the game asks for ${steps} ${steps === 1 ? 'step' : 'steps'} and for no walls.`,
      hint: `Players behind it are seen from ${Math.round(through[0].away)} ${profile.unit.plural} on. ${safe === 0 ? 'No radius is safe here: move or turn them.' : `The most that is safe here is ${safe}.`}`,
      place: { map: mapName, object: id, point: [through[0].at[0], through[0].at[1], object.position[2]] },
      fix: withSight(id, object, safe),
    },
  ];
}

const withSight = (id: string, object: MapObject, steps: number): Finding['fix'] => ({
  kind: 'edit',
  label: steps === 0 ? 'Let them see nobody' : `See ${steps} ${steps === 1 ? 'step' : 'steps'}`,
  edit: { name: `sight of ${object.name}`, changes: [{ of: 'objects', id, to: { ...object, properties: { ...object.properties, sight: steps } } }] },
});

function checkSequences(world: CrateWorld, map: GameMap, mapName: string, grid: BoxGrid<Collider>): Finding[] {
  const { profile } = world;
  const findings: Finding[] = [];
  for (const [id, sequence] of Object.entries(map.sequences)) {
    const tell = (code: string, severity: Finding['severity'], words: string, hint: string, point?: Vec3): void =>
      void findings.push({
        code,
        severity,
        stage: 'map',
        message: `${sequence.name}: ${words}.`,
        hint,
        place: { map: mapName, sequence: id, ...(point ? { point } : {}) },
      });
    if (sequence.steps.length === 0) tell('sequence-empty', 'note', 'nobody does anything', 'Add a step, or take it away.');
    for (const [n, step] of sequence.steps.entries())
      for (const who of step.do === 'follow' ? [step.who, step.whom] : [step.who])
        if (who !== PLAYER && !(map.objects[who] && hasPart(profile, map.objects[who].class, 'actor')))
          tell(
            'sequence-nobody',
            'blocker',
            `step ${n + 1} is about ${map.objects[who]?.name ?? `"${who}"`}, who is nobody`,
            'Choose a person of the map, or the player.',
          );
    for (const [side, start] of (sequence.starts.length > 0 ? sequence.starts : [null]).entries()) {
      const staged = stagedBy(world, map, sequence, start, grid);
      const from = sequence.starts.length > 1 ? `, with the player on side ${side + 1},` : '';
      const { timeline, meets } = staged;
      if (timeline.endless)
        tell(
          'sequence-endless',
          'blocker',
          `it${from} never ends: step ${timeline.endless.step + 1} ${timeline.endless.why === 'stalled' ? 'waits for what cannot happen' : 'takes more than ten minutes'}`,
          'The game would wait for ever. Do not wait for a step that follows, or lead it another way.',
        );
      for (const { who, at, time, what, code } of meets.slice(0, 5))
        tell(
          code,
          'warning',
          `${who}${from} ${what} after ${time.toFixed(1)} s`,
          code === 'sequence-floor' ? 'Lead them over a floor.' : 'Lead them round it, or wait until it is free.',
          at,
        );
    }
  }
  return findings;
}
