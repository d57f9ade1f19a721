/** Sounds of a test run where they come from, by the Web Audio API. */

import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { PlayedSound } from '@violet-crate/core/trial/world';

/** Metres within which a sound is at its full volume; beyond, it falls off with the distance (inverse law). */
const NEAR = 1.5;

export class TrialAudio {
  private context: AudioContext | null = null;
  private readonly buffers = new Map<string, Promise<AudioBuffer | null>>();

  /**
   * @param fetchBytes content of a sound by its path
   * @param metres per unit
   */
  constructor(
    private readonly fetchBytes: (path: string) => Promise<ArrayBuffer>,
    private readonly metres: number,
    /** How loud all sounds are, 0 to 1. */
    private readonly loudness: () => number = () => 1,
  ) {}

  /** Where the player's ears are. */
  listen(eye: Vec3, look: Vec3): void {
    const { context } = this;
    if (!context) return;
    const [x, y, z] = toGltf(eye, this.metres);
    const [fx, fy, fz] = toGltf(look, 1);
    const { listener } = context;
    for (const [param, value] of [
      [listener.positionX, x],
      [listener.positionY, y],
      [listener.positionZ, z],
      [listener.forwardX, fx],
      [listener.forwardY, fy],
      [listener.forwardZ, fz],
    ] as const)
      param.value = value;
  }

  /** The context that everything sounds in, begun with the first sound. */
  begin(): AudioContext {
    const context = (this.context ??= new AudioContext());
    // Browsers hold sound back before the first gesture; that is theirs to decide.
    if (context.state === 'suspended') void context.resume().catch(() => {});
    return context;
  }

  /** Plays a sound once it is there. What cannot be played is not heard; that stops nothing. */
  async play({ sound, volume, at }: PlayedSound): Promise<void> {
    const context = this.begin();
    const known = this.buffers.get(sound) ?? this.load(context, sound);
    this.buffers.set(sound, known);
    const buffer = await known;
    if (!buffer || this.context !== context) return;
    const source = new AudioBufferSourceNode(context, { buffer });
    const gain = new GainNode(context, { gain: Math.max(0, Math.min(1, volume)) * this.loudness() });
    source.connect(gain);
    if (at) {
      const [positionX, positionY, positionZ] = toGltf(at, this.metres);
      gain
        .connect(new PannerNode(context, { panningModel: 'HRTF', distanceModel: 'inverse', refDistance: NEAR, positionX, positionY, positionZ }))
        .connect(context.destination);
    } else gain.connect(context.destination);
    source.start();
  }

  dispose(): void {
    void this.context?.close().catch(() => {});
    this.context = null;
  }

  private load = (context: AudioContext, path: string): Promise<AudioBuffer | null> =>
    this.fetchBytes(path)
      .then((bytes) => context.decodeAudioData(bytes))
      .catch(() => null);
}
