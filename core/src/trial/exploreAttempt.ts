/** Trying one thing in a running world: getting there, doing it, and waiting until nothing changes any more. */

import { boxCentre, boxSize, type Box3 } from '../math/box3.ts';
import { distance, normalise, sub, type Vec3 } from '../math/vec3.ts';
import type { Action } from './exploreActions.ts';
import type { Ground } from './exploreGround.ts';
import type { ExploreWalker } from './exploreWalker.ts';
import { isGone, type TrialObject } from './objects.ts';
import type { TrialWorld } from './world.ts';

export type Outcome = 'done' | 'unreached' | 'blocked' | 'lost' | 'won';

/** Who tries, and where. */
export interface Trier {
  world: TrialWorld;
  walker: ExploreWalker;
}

/** Seconds that the world is given to come to rest after an action, and for which it then has to stay the same. */
const SETTLE = 12;
const QUIET = 1;
/** Points from which a thing is tried to be reached, and ways to one. */
const APPROACHES = 3;
const DETOURS = 3;

/** Steps of time that a conversation may take: a minute. */
const MOST_SAID = 3600;

export class Attempts {
  /** Where the walker stood before something and got no further. */
  readonly stuck = new Map<string, { at: Vec3; towards: string }>();
  /** How often each answer of a conversation was given. */
  private readonly said = new Map<string, number>();
  /** Objects that change by themselves. */
  readonly restless = new Set<string>();

  attempt({ world, walker }: Trier, action: Action, ground: Ground): Outcome {
    const item = world.objects.get(action.id)!;
    const box = world.objects.boxNow(item);
    const reached = ground.from(ground.areaAt(world.walker.feet));
    if (action.thing !== undefined) {
      const thing = world.bodies?.boxOf(action.thing);
      if (!thing) return 'unreached';
      const got = this.approach(walker, ground, reached, thing, () => world.offer(walker.towards(thing))?.does === 'pick up', world);
      if (got !== 'done') return got;
      const now = world.bodies!.boxOf(action.thing)!;
      if (!walker.operate(now) || world.hands?.held !== action.thing) {
        world.hands?.release();
        return 'blocked';
      }
      return this.lay(world, walker, ground, box);
    }
    if (action.kind === 'operate') {
      const done = this.approach(walker, ground, reached, box, () => this.offered(world, walker, item), world);
      if (done !== 'done') return done;
      walker.operate(world.objects.boxNow(item));
      this.converse({ world, walker });
    } else {
      const inside = () => within(box, world.walker.feet, world.profile.player);
      const done = this.approach(
        walker,
        ground,
        reached,
        box,
        action.kind === 'ride' ? () => world.walker.ground?.id === item.id : inside,
        world,
        true,
      );
      if (done !== 'done') return done;
    }
    this.settle({ world, walker });
    return 'done';
  }

  /** Holds a conversation to its end: contests are won, and of answers that one is given which was given least before. */
  private converse({ world, walker }: Trier): void {
    for (let n = 0; world.talking.under && n < MOST_SAID; n++) {
      const { now } = world.talking;
      if (now) {
        const won = now.answers.indexOf('Let it be won');
        const given = (choice: number) => this.said.get(`${now.talk} ${now.step} ${choice}`) ?? 0;
        const choice = won >= 0 ? won : now.answers.map((_, i) => i).reduce((a, b) => (given(b) < given(a) ? b : a), 0);
        this.said.set(`${now.talk} ${now.step} ${choice}`, given(choice) + 1);
        walker.answer(choice);
      }
      if (!walker.step({})) return;
    }
  }

  /** Carries on to a box and sets down there what is in hand. */
  private lay(world: TrialWorld, walker: ExploreWalker, ground: Ground, box: Box3): Outcome {
    const { player } = world.profile;
    const centre = boxCentre(box);
    const reached = ground.from(ground.areaAt(world.walker.feet));
    for (const at of ground.pointsAt(box, reached, true).slice(0, 1)) {
      const way = ground.way(world.walker.feet, at);
      if (!way) continue;
      const near = () => Math.hypot(centre[0] - world.walker.feet[0], centre[1] - world.walker.feet[1]) < player.radius * 2.5;
      if (walker.go(way, near) === 'over') return 'lost';
    }
    const held = world.hands?.held;
    const look = normalise(sub([centre[0], centre[1], box.min[2]], world.eye()));
    for (let i = 0; i < 60; i++) if (!walker.step({ look })) return 'lost';
    if (held && world.hands?.held === held) walker.operate(box);
    this.settle({ world, walker });
    return 'done';
  }

  private approach(
    walker: ExploreWalker,
    ground: Ground,
    reached: ReadonlySet<number>,
    box: Box3,
    there: () => boolean,
    world: TrialWorld,
    within = false,
  ): Outcome {
    if (there()) return 'done';
    const points = ground.pointsAt(box, reached, within).slice(0, APPROACHES);
    let met = false;
    for (const point of points) {
      // What is in the way is gone round: a step aside leads to another way.
      for (let turn = 0; turn < DETOURS; turn++) {
        const way = ground.way(world.walker.feet, point);
        if (!way) break;
        met = true;
        const arrival = walker.go(way, there);
        if (arrival === 'over') return world.ended === 'won' ? 'won' : 'lost';
        if (there()) return 'done';
        if (arrival === 'there') break;
        if (turn < DETOURS - 1) continue;
        const at = [...world.walker.feet] as Vec3;
        this.stuck.set(at.map((v) => Math.round(v / 32)).join('/'), { at, towards: nameAt(world, box) });
      }
    }
    return met ? 'blocked' : 'unreached';
  }

  private offered(world: TrialWorld, walker: ExploreWalker, item: TrialObject): boolean {
    return world.usable(walker.towards(world.objects.boxNow(item))) === item;
  }

  /** Lets the world come to rest. What does not, moves by itself from now on. False where the run is over. */
  settle({ world, walker }: Trier): boolean {
    let before = partsOfState(world, this.restless);
    let quiet = 0;
    for (let waited = 0; waited < SETTLE; waited += 0.25) {
      if (!walker.wait(0.25)) return false;
      const now = partsOfState(world, this.restless);
      const same = [...now].every(([id, text]) => before.get(id) === text);
      quiet = same ? quiet + 0.25 : 0;
      before = now;
      // What waits for its time may be what comes next.
      if (quiet >= (world.waits ? 3 : QUIET)) return true;
    }
    if (!walker.wait(0.5)) return false;
    for (const [id, text] of partsOfState(world, this.restless)) if (before.get(id) !== text) this.restless.add(id);
    return true;
  }
}

/** What of every object can be told from outside; what only rolls about counts by what it sets off. */
export function partsOfState(world: TrialWorld, without: ReadonlySet<string>): Map<string, string> {
  const found = new Map<string, string>();
  for (const item of world.objects) {
    if (without.has(item.id)) continue;
    const live = Object.entries(world.objects.liveOf(item)).map(([name, value]) => `${name} ${Math.round(value * 100)}`);
    const own = Object.entries(item.properties).filter(([name, value]) => JSON.stringify(value) !== JSON.stringify(item.object.properties[name]));
    const turned = [...item.pose.offset, ...item.pose.turn].map((v) => Math.round(v * 100)).join(' ');
    found.set(item.id, `${isGone(item)} ${live.join(',')} ${JSON.stringify(own)} ${turned}`);
  }
  return found;
}

function within(box: Box3, feet: Vec3, player: { radius: number; height: number }): boolean {
  return [0, 1].every((k) => feet[k] > box.min[k] && feet[k] < box.max[k]) && feet[2] < box.max[2] && feet[2] + player.height > box.min[2];
}

function nameAt(world: TrialWorld, box: Box3): string {
  const centre = boxCentre(box);
  for (const item of world.objects) {
    const own = world.objects.boxNow(item);
    if (distance(boxCentre(own), centre) < 1e-6 && distance(boxSize(own), boxSize(box)) < 1e-6) return item.object.name;
  }
  return 'a thing';
}
