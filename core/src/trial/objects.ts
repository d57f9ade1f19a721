/** The objects of a running world: their parts and properties, their space, and where they have moved to. */

import type { MapObject, PropertyValue } from '../document/schema.ts';
import { boxWithModel, modelOf } from '../map/objectBox.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { AT_REST, composeTurns, isAtRest, posePoint, turnAbout, type Pose } from '../math/pose.ts';
import { add, sub, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import type { Climb, Item, Life, Part, PartHost } from '../part/part.ts';
import { collides, factOf, movesFreely, partsOf } from '../profile/parts.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import type { Bodies } from './bodies.ts';
import { obstacleFromBox, poseObstacle, type Obstacle } from './collide.ts';

export interface TrialObject extends Item {
  parts: readonly { part: Part; life: Life<object> }[];
  climbs: readonly Climb[];
  /** What stops players, where the map has it. */
  rest: Obstacle | null;
  /** Where parts have moved it to, and whether they took it away, in the step before this one. */
  pose: Pose;
  wasGone: boolean;
  /** Where something else than its parts has moved it: a vehicle that is ridden, somebody who walks. */
  driven: Pose | null;
  /** What stops players where it was last asked for, and the pose that it was then. */
  posed?: { pose: Pose; obstacle: Obstacle };
}

/** Whether an object is no longer there. */
export const isGone = ({ parts }: TrialObject): boolean => parts.some(({ part, life }) => part.gone?.(life));

export class TrialObjects {
  private readonly byId = new Map<string, TrialObject>();
  private readonly byName = new Map<string, TrialObject>();

  constructor(
    private readonly profile: Profile,
    private readonly map: Pick<RuntimeMap, 'models' | 'bodies'>,
    private readonly bodies: Bodies | null,
    private readonly host: PartHost,
  ) {}

  [Symbol.iterator](): Iterator<TrialObject> {
    return this.byId.values();
  }

  get(id: string): TrialObject | undefined {
    return this.byId.get(id);
  }

  named(name: string): TrialObject | undefined {
    return this.byName.get(name);
  }

  /** Takes an object in; with what it was before, its parts and what scripts set go on. False where it should move and cannot. */
  admit(id: string, object: MapObject, was?: TrialObject): boolean {
    const { profile, bodies } = this;
    const defaults = Object.fromEntries((classOf(profile, object.class)?.properties ?? []).map((p) => [p.id, p.default]));
    // Scripts choose the keys, so nothing may be inherited.
    const properties = Object.assign(Object.create(null), defaults, object.properties) as TrialObject['properties'];
    const kept = was?.object.class === object.class ? was : undefined;
    for (const [name, value] of Object.entries(kept?.properties ?? {}))
      if (JSON.stringify(kept!.object.properties[name]) === JSON.stringify(object.properties[name])) properties[name] = value;
    const item: Item = { id, object, properties };
    const parts = partsOf(profile, object.class).map((part, i) => ({
      part,
      life: { item, state: kept?.parts[i].life.state ?? part.begin?.(properties) ?? {}, host: this.host },
    }));
    const box = this.boxOf(item);
    const placed = { class: object.class, properties };
    const known = Object.assign(item, {
      parts,
      climbs: parts.flatMap(({ part }) => part.climb?.(object, box) ?? []),
      rest: collides(profile, placed) ? this.restOf(item) : null,
      pose: AT_REST,
      wasGone: false,
      driven: was?.driven ?? null,
    });
    this.byId.set(id, known);
    this.byName.set(object.name, known);
    const body = movesFreely(profile, placed) ? own(this.map.bodies, modelOf(profile, placed)) : undefined;
    if (body && bodies?.addLoose(id, object, body)) return true;
    bodies?.setDriven(id, known.rest);
    return body === undefined;
  }

  dismiss(item: TrialObject): void {
    this.bodies?.remove(item.id);
    this.bodies?.setDriven(item.id, null);
    this.byId.delete(item.id);
    if (this.byName.get(item.object.name) === item) this.byName.delete(item.object.name);
  }

  /** After parts have taken their step: notes where they have moved things to. */
  settle(): void {
    const { bodies } = this;
    for (const item of this.byId.values()) {
      const gone = isGone(item);
      if (gone !== item.wasGone && !bodies?.has(item.id)) bodies?.setDriven(item.id, gone ? null : item.rest);
      const pose = this.movedTo(item);
      if (pose === item.pose && gone === item.wasGone) continue;
      item.pose = pose;
      item.wasGone = gone;
      bodies?.drive(item.id, pose, item.object.position);
    }
  }

  /** Where its parts want an object now; the same value as before where that has not changed. */
  movedTo({ parts, object, pose, driven }: TrialObject): Pose {
    if (driven) return driven;
    let offset: Vec3 = [0, 0, 0];
    let turn = AT_REST.turn;
    for (const { part, life } of parts) {
      const by = part.offset?.(life);
      if (by) offset = add(offset, by);
      const swing = part.swing?.(life);
      if (!swing || swing.degrees === 0) continue;
      const about = turnAbout(swing.axis, swing.degrees);
      offset = add(offset, sub(posePoint({ offset: [0, 0, 0], turn: about }, swing.about, object.position), object.position));
      turn = composeTurns(about, turn);
    }
    const same = offset.every((v, i) => v === pose.offset[i]) && turn.every((v, i) => v === pose.turn[i]);
    return same ? pose : { offset, turn };
  }

  /** What of them stops players and touches a box, where it is now, but for what physics moves. */
  near(box: Box3): Obstacle[] {
    const found: Obstacle[] = [];
    for (const now of this.standing()) if (boxesTouch(now.box, box)) found.push(now);
    return found;
  }

  *standing(): Iterable<Obstacle> {
    for (const item of this.byId.values()) {
      if (!item.rest || this.bodies?.has(item.id) || isGone(item)) continue;
      if (isAtRest(item.pose)) yield item.rest;
      else {
        // Asked for many times in a step, and the same as long as it has not moved.
        if (item.posed?.pose !== item.pose) item.posed = { pose: item.pose, obstacle: poseObstacle(item.rest, item.pose, item.object.position) };
        yield item.posed.obstacle;
      }
    }
  }

  /** Where an object is, from its place in the map. */
  poseOf(item: TrialObject): Pose {
    return this.bodies?.pose(item.id) ?? item.pose;
  }

  /** The space of an object where it is at rest. */
  boxOf(item: Item): Box3 {
    return boxWithModel(this.profile, { ...item.object, properties: item.properties }, (model) => own(this.map.models, model));
  }

  /** The space of an object where it is now. */
  boxNow(item: TrialObject): Box3 {
    const loose = this.bodies?.boxOf(item.id);
    if (loose) return loose;
    const box = this.boxOf(item);
    return isAtRest(item.pose) ? box : poseObstacle(obstacleFromBox('', box), item.pose, item.object.position).box;
  }

  /** Values of its parts beside its properties. */
  liveOf({ parts }: TrialObject): Record<string, number> {
    return Object.assign({}, ...parts.map(({ part, life }) => part.live?.(life.state)));
  }

  /** A property as scripts and expectations see it: live values of its parts first. */
  value(item: TrialObject, property: string): PropertyValue | null {
    return own(this.liveOf(item), property) ?? own(item.properties, property) ?? null;
  }

  /** What of an object stops players where the map has it: its box, turned as it is. */
  private restOf(item: Item): Obstacle {
    const { object } = item;
    if (object.turn % 90 === 0) return obstacleFromBox(item.id, this.boxOf(item));
    const straight = this.boxOf({ ...item, object: { ...object, turn: 0 } });
    const turned = factOf(this.profile, object.class, 'upright') ? 0 : object.turn;
    return poseObstacle(obstacleFromBox(item.id, straight), { offset: [0, 0, 0], turn: turnAbout([0, 0, 1], turned) }, object.position);
  }
}
