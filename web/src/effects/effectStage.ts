/** The stage on which an effect is tried: a floor, the player's figure, and time that can be held, stepped and wound back. */

import { AmbientLight, DirectionalLight, GridHelper } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { Effect } from '@violet-crate/core/effect/document';
import { EFFECT_STEP, type Air, type Kept, type Stand } from '@violet-crate/core/effect/play';
import type { MeshOf } from '@violet-crate/core/effect/source';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { AssetSource } from '../api/assetUrl.ts';
import { playerFigure } from '../three/playerFigure.ts';
import { themeColour } from '../theme/theme.ts';
import { pictureTexture, trianglesOf } from '../three/assets3d.ts';
import { EffectNode } from '../three/effectNode.ts';
import { Stage3d } from '../three/stage3d.ts';

/** Steps between two states that are kept for winding back, and bytes that they may take: beyond, every other one goes. */
const KEEP_EVERY = 60;
const KEEP_BYTES = 64 << 20;
/** Milliseconds of a picture in which an effect is wound on to where it is wanted. */
const SLICE = 14;
/** Seconds in which the stage goes round once where it moves, and how far from the middle, in metres. */
const ROUND = 3;
const AWAY = 0.8;
/** Metres over the floor: as high as a hand. */
const HIGH = 0.9;

export class EffectStage {
  private readonly stage: Stage3d;
  private readonly controls: OrbitControls;
  private node: EffectNode | null = null;
  private effect: Effect | null = null;
  /** States by their steps, the earliest first. */
  private kept: Kept[] = [];
  private keepEvery = KEEP_EVERY;
  /** Step that is wound to; null where time goes on by itself. */
  private wanted: number | null = null;
  private frame = 0;
  private last = 0;
  private owed = 0;
  private meshes = new Map<string, Float32Array | null>();
  private gone = false;
  playing = true;
  moving = false;
  /** Metres a second, along +x. */
  wind = 0;

  /** @param told with the seconds and the number of particles, every picture */
  constructor(
    host: HTMLElement,
    private readonly profile: Profile,
    private readonly source: AssetSource,
    private readonly told: (seconds: number, particles: number) => void,
  ) {
    this.stage = new Stage3d(host, '#1b1422');
    const { camera, scene } = this.stage;
    const m = profile.unit.metres;
    const key = new DirectionalLight('#fff1dd', 1.6);
    key.position.set(2, 4, 3);
    scene.add(new AmbientLight('#ffffff', 0.8), key, new GridHelper(12, 12, themeColour('--vc-violet'), '#3a2f48'));
    const figure = playerFigure(profile);
    figure.position.set(profile.player.radius * 3 * m + 0.5, 0, -0.3);
    scene.add(figure);
    camera.position.set(0.6, 1.6, 3.1);
    this.controls = new OrbitControls(camera, this.stage.renderer.domElement);
    this.controls.target.set(0.45, 0.95, 0);
    this.controls.update();
    const tick = (now: number) => {
      this.frame = requestAnimationFrame(tick);
      if (!this.stage.due(this.last, now)) return;
      const passed = Math.min(0.1, (now - this.last) / 1000);
      this.last = now;
      if (this.wanted !== null) this.windOn();
      else if (this.playing) this.pass(passed);
      this.stage.drawNow();
    };
    this.last = performance.now();
    this.frame = requestAnimationFrame(tick);
  }

  /** Shows an effect as it is at the time that was reached. */
  set(effect: Effect): void {
    const { seconds } = this;
    this.effect = effect;
    this.begin();
    // By the end of a round and a life it looks as it ever will: no need to wind on for as long as it has been looked at.
    this.goTo(Math.min(seconds, effect.warmUp + effect.seconds + Math.max(...effect.emitters.map(({ life }) => life[1]))));
    for (const { from } of effect.emitters) if (from.shape === 'model' && !this.meshes.has(from.model)) void this.loadMesh(from.model);
  }

  private async loadMesh(model: string): Promise<void> {
    this.meshes.set(model, null);
    this.meshes.set(model, await trianglesOf(this.source, model, this.profile.unit.metres));
    if (this.effect && !this.gone) this.set(this.effect);
  }

  private readonly meshOf: MeshOf = (model) => this.meshes.get(model) ?? null;

  private begin(): void {
    this.node?.dispose();
    this.node = new EffectNode({
      effect: this.effect!,
      metres: this.profile.unit.metres,
      meshOf: this.meshOf,
      picture: (path) => pictureTexture(this.source, path, () => {}),
    });
    this.stage.scene.add(this.node.group);
    this.kept = [this.node.play.keep()];
    this.keepEvery = KEEP_EVERY;
    this.wanted = null;
  }

  private standAt(step: number): Stand {
    const { metres } = this.profile.unit;
    const high = HIGH / metres;
    if (!this.moving) return { position: [0, 0, high], turn: 0 };
    const turn = (step * EFFECT_STEP) / ROUND;
    const away = AWAY / metres;
    return { position: [Math.cos(turn * 2 * Math.PI) * away, Math.sin(turn * 2 * Math.PI) * away, high], turn: turn * 360 + 90 };
  }

  private get air(): Air {
    return { gravity: this.profile.player.gravity, wind: [this.wind / this.profile.unit.metres, 0, 0], below: () => 0 };
  }

  /** Seconds since it began. */
  get seconds(): number {
    return (this.node?.play.steps ?? 0) * EFFECT_STEP;
  }

  private once(): void {
    const { play } = this.node!;
    play.step(this.standAt(play.steps), this.air);
    if (play.steps % this.keepEvery !== 0 || play.steps <= this.kept[this.kept.length - 1].steps) return;
    this.kept.push(play.keep());
    const bytes = this.kept.reduce((sum, { emitters }) => sum + emitters.reduce((all, { state }) => all + state.length, 0), 0);
    if (bytes <= KEEP_BYTES) return;
    this.keepEvery *= 2;
    this.kept = this.kept.filter(({ steps }) => steps % this.keepEvery === 0);
  }

  private pass(seconds: number): void {
    if (!this.node) return;
    this.owed = Math.min(6, this.owed + seconds / EFFECT_STEP);
    for (; this.owed >= 1; this.owed--) this.once();
    this.show();
  }

  private show(): void {
    const { play } = this.node!;
    this.node!.show(this.standAt(play.steps));
    this.told(play.steps * EFFECT_STEP, play.particles);
  }

  /** One step on. */
  step(): void {
    if (!this.node) return;
    this.once();
    this.show();
  }

  /** To a time: from the last state that was kept before it, as far as one picture lets it, and on with the next ones. */
  goTo(seconds: number): void {
    if (!this.node) return;
    const steps = Math.round(seconds / EFFECT_STEP);
    const { play } = this.node;
    if (steps < play.steps) play.restore(this.kept.filter((one) => one.steps <= steps).pop()!);
    this.wanted = steps;
    this.windOn();
  }

  private windOn(): void {
    const { play } = this.node!;
    const until = performance.now() + SLICE;
    while (this.wanted !== null && play.steps < this.wanted && performance.now() < until) this.once();
    if (play.steps >= (this.wanted ?? 0)) this.wanted = null;
    this.show();
  }

  /** From the beginning, with the wind and the stage as they are set. */
  again(): void {
    if (!this.effect) return;
    this.begin();
    this.show();
  }

  start(): void {
    this.node?.play.start();
  }

  burst(): void {
    this.node?.play.burst();
  }

  dispose(): void {
    this.gone = true;
    cancelAnimationFrame(this.frame);
    this.controls.dispose();
    this.node?.dispose();
    this.stage.dispose();
  }
}
