/** All effects of a map, each where its object is: in the perspective as the map is edited, in the test run as it goes. */

import { Group } from 'three';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { GameMap } from '@violet-crate/core/document/schema';
import { effectOf } from '@violet-crate/core/effect/effects';
import type { Effect } from '@violet-crate/core/effect/document';
import type { EffectSound } from '@violet-crate/core/effect/play';
import { depthBelow } from '@violet-crate/core/map/depthBelow';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { AssetSource } from '../api/assetUrl.ts';
import { pictureTexture, trianglesOf } from './assets3d.ts';
import { EffectNode } from './effectNode.ts';

/** Width of the columns in which what falls finds its ground, in metres. */
const CELL = 0.2;
/** Above an effect's own place from which its ground is looked for, in metres. */
const ABOVE = 0.05;

/** What an object says of its effect. */
export interface EffectOrder {
  effect: string;
  position: Vec3;
  turn: number;
  running: boolean;
  /** How often it was started, and told to burst, until now. */
  started: number;
  bursts: number;
}

interface Shown {
  effect: Effect;
  node: EffectNode;
  order: EffectOrder;
  below: (x: number, y: number) => number | null;
  from: Vec3;
}

/** Chance of one object, from its id. */
export function saltOf(id: string): number {
  let salt = 0;
  for (const letter of id) salt = (Math.imul(salt, 31) + letter.charCodeAt(0)) | 0;
  return salt;
}

export class EffectsScene {
  readonly group = new Group();
  private readonly shown = new Map<string, Shown>();
  private readonly meshes = new Map<string, Float32Array | null>();

  /** @param redraw where a picture or a model has arrived */
  constructor(
    private readonly source: AssetSource,
    private readonly redraw: () => void = () => {},
  ) {}

  get any(): boolean {
    return this.shown.size > 0;
  }

  /** Particles that live now. */
  get particles(): number {
    let sum = 0;
    for (const { node } of this.shown.values()) sum += node.play.particles;
    return sum;
  }

  /**
   * Takes all orders of a moment: what is there no more goes, what is another effect begins anew.
   * @param whole the map with what copies stand for, for the ground below
   * @param light of a place, linear
   */
  follow(world: CrateWorld, whole: GameMap, orders: ReadonlyMap<string, EffectOrder>, light: (at: Vec3) => readonly [number, number, number]): void {
    for (const [id, { node }] of this.shown) {
      if (orders.has(id)) continue;
      node.dispose();
      this.shown.delete(id);
    }
    for (const [id, order] of orders) {
      const effect = effectOf(world.crate.data, order.effect);
      let one = this.shown.get(id);
      if (one && one.effect !== effect) {
        one.node.dispose();
        this.shown.delete(id);
        one = undefined;
      }
      if (!effect) continue;
      if (!one) this.shown.set(id, (one = this.make(world, whole, id, order, effect)));
      const { node, order: before } = one;
      if (one.from.some((v, k) => v !== order.position[k])) this.stand(world, whole, one, order.position);
      if (order.started !== before.started) node.play.start();
      else if (order.running !== before.running) {
        if (order.running) node.play.start();
        else node.play.stop();
      }
      for (let n = Math.min(8, order.bursts - before.bursts); n > 0; n--) node.play.burst();
      one.order = order;
      node.lightBy(light(order.position));
    }
  }

  private make(world: CrateWorld, whole: GameMap, id: string, order: EffectOrder, effect: Effect): Shown {
    for (const { from } of effect.emitters) if (from.shape === 'model' && !this.meshes.has(from.model)) void this.loadMesh(from.model, world);
    const node = new EffectNode({
      effect,
      metres: world.profile.unit.metres,
      salt: saltOf(id),
      running: order.running,
      meshOf: (model) => this.meshes.get(model) ?? null,
      picture: (path) => pictureTexture(this.source, path, this.redraw),
    });
    this.group.add(node.group);
    const one: Shown = { effect, node, order, below: () => null, from: [...order.position] };
    this.stand(world, whole, one, order.position);
    return one;
  }

  private async loadMesh(model: string, world: CrateWorld): Promise<void> {
    this.meshes.set(model, null);
    this.meshes.set(model, await trianglesOf(this.source, model, world.profile.unit.metres));
    // What was made without it is made anew with the next look.
    for (const [id, { effect, node }] of this.shown) {
      if (!effect.emitters.some(({ from }) => from.shape === 'model' && from.model === model)) continue;
      node.dispose();
      this.shown.delete(id);
    }
    this.redraw();
  }

  private stand(world: CrateWorld, whole: GameMap, one: Shown, at: Vec3): void {
    const { metres } = world.profile.unit;
    one.from = [...at];
    one.below = depthBelow(whole, [at[0], at[1], at[2] + ABOVE / metres], CELL / metres);
  }

  /** @param eye of whoever looks, in the map: what is far away has fewer births */
  advance(seconds: number, gravity: number, wind: Vec3, eye: Vec3, heard?: (sound: EffectSound) => void): void {
    for (const { node, order, effect, below } of this.shown.values()) {
      const away = Math.hypot(...order.position.map((v, k) => v - eye[k]));
      const share = effect.levels.reduce((now, level) => (away > level.beyond ? level.share : now), 1);
      node.advance(seconds, { position: order.position, turn: order.turn, share }, { gravity, wind, below }, heard);
    }
  }

  dispose(): void {
    for (const { node } of this.shown.values()) node.dispose();
    this.shown.clear();
  }
}
