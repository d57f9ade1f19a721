/** What can become of the player: health that runs out, a fall out of the world, and where it comes back to. */

import type { Finding } from '../finding.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Item } from '../part/part.ts';
import type { Walker } from './move.ts';

/** What of the world it needs. */
export interface FateWorld {
  /** Ends no run: it always has its start to come back to. */
  readonly guest: boolean;
  readonly time: number;
  readonly walker: Walker;
  readonly findings: Finding[];
  ended: 'won' | 'fell' | 'died' | null;
  print(kind: 'system', text: string): void;
  /** The player is lost where it is. */
  lost(how: 'falls' | 'deaths'): void;
}

/** Seconds after an edit for which it counts as the cause of a fall. */
const FORGIVING = 10;

export class Fate {
  /** Points left; null where the game counts none. */
  health: number | null;
  /** Where the player comes back to, and whether it stood anywhere since it last did. */
  private refuge: { item: Item; stood: boolean } | null = null;
  private forgiven = 0;

  /**
   * @param full points of health at the start; null where the game counts none
   * @param floor height below which nothing is any more
   */
  constructor(
    private readonly world: FateWorld,
    private readonly map: string,
    private readonly full: number | null,
    private readonly floor: number,
    private readonly start: Item | null,
    private readonly emit: (item: Item, event: string) => void,
  ) {
    this.health = full;
  }

  /** From now on the player comes back to this. */
  claim(item: Item): void {
    if (this.refuge?.item === item) return;
    this.refuge = { item, stood: true };
    this.emit(item, 'claimed');
  }

  hurt(item: Item, points: number): void {
    const { world } = this;
    if (this.health === null || world.ended || world.walker.flying || !(points > 0)) return;
    this.health = Math.max(0, this.health - points);
    if (this.health > 0) return;
    const name = item.object.name;
    world.lost('deaths');
    if (this.comeBack(`Lost all health in ${name}`)) return;
    world.ended = 'died';
    world.print('system', `Lost all health in ${name}.`);
    world.findings.push({
      code: 'player-died',
      severity: 'warning',
      stage: 'trial',
      message: `The player lost all health in ${name} ${world.time.toFixed(1)} s after the start.`,
      hint: 'Make its way shorter or weaker, have a signal disarm it in time, or place something that the player comes back to.',
      place: { map: this.map, object: item.id, point: [...world.walker.feet] },
    });
  }

  /** After the player has moved in a step. */
  moved(): void {
    const { world } = this;
    if (this.refuge && world.walker.onGround) this.refuge.stood = true;
    if (world.walker.flying || world.walker.feet[2] > this.floor) return;
    world.lost('falls');
    if (this.comeBack('Fell out of the world')) return;
    world.ended = 'fell';
    const name = this.start?.object.name ?? 'the origin';
    world.print('system', `Fell out of the world; started at ${name}.`);
    world.findings.push({
      code: 'fell-out',
      severity: 'blocker',
      stage: 'trial',
      message: `The player fell out of the world ${world.time.toFixed(1)} s after starting at ${name}.`,
      hint: 'Check that the start point does not touch a solid, and that there is a floor below the way.',
      place: { map: this.map, object: this.start?.id, point: [...world.walker.feet] },
    });
  }

  /** The map was edited under the player: whoever falls out of the world because of it comes back. */
  forgive(): void {
    this.forgiven = this.world.time + FORGIVING;
  }

  /** Puts the player back to where it last was safe; false where that is nowhere. */
  private comeBack(how: string): boolean {
    const { world } = this;
    const refuge = this.refuge ?? (this.start && (world.guest || world.time < this.forgiven) ? { item: this.start, stood: true } : null);
    if (!refuge) return false;
    const { id, object } = refuge.item;
    if (!refuge.stood) {
      world.findings.push({
        code: 'refuge-falls',
        severity: 'blocker',
        stage: 'trial',
        message: `Whoever comes back to ${object.name} is lost again at once.`,
        hint: 'Put it over a floor and outside of solids.',
        place: { map: this.map, object: id, point: object.position },
      });
      this.refuge = null;
      return false;
    }
    refuge.stood = false;
    const feet: Vec3 = [...object.position];
    Object.assign(world.walker, { feet, velocity: [0, 0, 0], onGround: false, climbing: false });
    this.health = this.full;
    world.print('system', `${how}; back at ${object.name}.`);
    this.emit(refuge.item, 'returned');
    return true;
  }
}
