/**
 * Sound beds by the Web Audio API: every area that is heard has its loops and shots, behind a gain, a low-pass and a place; all of them go
 * through the room that the ear is in. What is heard, and how, is the core's (`core/src/bed/`); this only makes it sound. Scene space is glTF's.
 */

import type { HeardArea } from '@violet-crate/core/bed/hear';
import { isHeard, ShotClock } from '@violet-crate/core/bed/schedule';
import type { Bed, MapSettings, Mood } from '@violet-crate/core/document/schema';
import { chance } from '@violet-crate/core/math/chance';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';

/** Seconds in which gains follow, so that a step is no click. */
const SOON = 0.08;
/** Share of a room's sound beside what comes straight. */
const WET = 0.28;

interface Voice {
  /** Of the whole area: how far it is heard. */
  gain: GainNode;
  pass: BiquadFilterNode;
  panner: StereoPannerNode;
  loops: Map<string, { gain: GainNode; source: AudioBufferSourceNode | null }>;
  shots: { clock: ShotClock; playing: number }[];
  bed: Bed;
}

export interface BedMoment {
  heard: readonly HeardArea[];
  beds: readonly Bed[];
  /** Seconds of the run. */
  time: number;
  mood: Mood | null;
  place: MapSettings['place'];
  /** Seconds that the ear's room sounds on. */
  reverb: number;
  /** Unit vector to the right of whoever hears, scene space, and where the ear is. */
  right: readonly [number, number, number];
  ear: readonly [number, number, number];
}

/** A room as noise that dies away by 60 dB within a time: as even as a hall's sound is after its first reflections. */
export function impulseOf(context: BaseAudioContext, seconds: number): AudioBuffer {
  const length = Math.max(1, Math.round(Math.min(8, seconds) * context.sampleRate));
  const buffer = context.createBuffer(2, length, context.sampleRate);
  for (let channel = 0; channel < 2; channel++) {
    const data = buffer.getChannelData(channel);
    const random = chance(channel + 3);
    let power = 0;
    for (let i = 0; i < length; i++) {
      data[i] = (random() * 2 - 1) * 10 ** ((-3 * i) / length);
      power += data[i] * data[i];
    }
    const scale = 1 / Math.sqrt(Math.max(1e-9, power));
    for (let i = 0; i < length; i++) data[i] *= scale;
  }
  return buffer;
}

export class BedAudio {
  private readonly voices = new Map<string, Voice>();
  private readonly buffers = new Map<string, AudioBuffer | null>();
  private readonly asked = new Set<string>();
  private readonly out: GainNode;
  private readonly wet: GainNode;
  private room: ConvolverNode | null = null;
  private seconds = -1;

  constructor(
    private readonly context: BaseAudioContext,
    private readonly load: (path: string) => Promise<AudioBuffer | null>,
    private readonly metres: number,
  ) {
    this.out = new GainNode(context, { gain: 1 });
    this.out.connect(context.destination);
    this.wet = new GainNode(context, { gain: WET });
  }

  /** How loud all of it is. */
  set volume(value: number) {
    this.out.gain.setTargetAtTime(value, this.context.currentTime, SOON);
  }

  private bufferOf(path: string): AudioBuffer | null {
    if (!this.asked.has(path)) {
      this.asked.add(path);
      void this.load(path).then((buffer) => this.buffers.set(path, buffer));
    }
    return this.buffers.get(path) ?? null;
  }

  update(moment: BedMoment): void {
    const { heard, beds, reverb } = moment;
    const now = this.context.currentTime;
    if (Math.abs(reverb - this.seconds) > 0.05) this.setRoom(reverb);
    const present = new Set<string>();
    for (const area of heard) {
      const bed = beds.find(({ name }) => name === area.bed);
      if (!bed) continue;
      present.add(area.id);
      let voice = this.voices.get(area.id);
      if (voice && voice.bed !== bed) {
        this.end(area.id, voice);
        voice = undefined;
      }
      if (!voice) this.voices.set(area.id, (voice = this.begin(area, bed, moment.time)));
      voice.gain.gain.setTargetAtTime(area.gain, now, Math.max(SOON, bed.fade / 3));
      voice.pass.frequency.setTargetAtTime(Math.min(this.context.sampleRate / 2, area.cutoff), now, SOON);
      voice.panner.pan.setTargetAtTime(this.side(area, moment), now, SOON);
      this.play(voice, moment);
    }
    for (const [id, voice] of this.voices)
      if (!present.has(id)) {
        voice.gain.gain.setTargetAtTime(0, now, Math.max(SOON, voice.bed.fade / 3));
        // What has long been silent goes.
        if (voice.gain.gain.value < 1e-4) this.end(id, voice);
      }
  }

  /** −1 for the left, 1 for the right; the middle from within. */
  private side({ from, way }: HeardArea, { right, ear }: BedMoment): number {
    if (way === 'within') return 0;
    const at = toGltf([...from], this.metres);
    const to = at.map((v, k) => v - ear[k]);
    const length = Math.hypot(...to);
    return length < 1e-6 ? 0 : Math.max(-1, Math.min(1, (to[0] * right[0] + to[1] * right[1] + to[2] * right[2]) / length)) * 0.8;
  }

  private begin(area: HeardArea, bed: Bed, time: number): Voice {
    const { context } = this;
    const pass = new BiquadFilterNode(context, { type: 'lowpass', frequency: Math.min(context.sampleRate / 2, area.cutoff), Q: 0.5 });
    const gain = new GainNode(context, { gain: 0 });
    const panner = new StereoPannerNode(context);
    gain.connect(pass).connect(panner).connect(this.out);
    panner.connect(this.wet);
    let seed = 0;
    for (const letter of area.id) seed = (Math.imul(seed, 31) + letter.charCodeAt(0)) | 0;
    const shots = bed.shots.map(({ every }, i) => ({ clock: new ShotClock(every, seed + i, time), playing: 0 }));
    return { gain, pass, panner, loops: new Map(), shots, bed };
  }

  private play(voice: Voice, { mood, place, time }: BedMoment): void {
    const { context } = this;
    voice.bed.loops.forEach((layer, i) => {
      const key = `${i} ${layer.sound}`;
      let loop = voice.loops.get(key);
      if (!loop) {
        loop = { gain: new GainNode(context, { gain: 0 }), source: null };
        loop.gain.connect(voice.gain);
        voice.loops.set(key, loop);
      }
      const buffer = this.bufferOf(layer.sound);
      if (!loop.source && buffer) {
        loop.source = new AudioBufferSourceNode(context, { buffer, loop: true });
        loop.source.connect(loop.gain);
        loop.source.start();
      }
      loop.gain.gain.setTargetAtTime(isHeard(layer, mood, place) ? layer.volume : 0, context.currentTime, Math.max(SOON, voice.bed.fade / 3));
    });
    voice.bed.shots.forEach((layer, i) => {
      const shot = voice.shots[i];
      const due = shot.clock.due(time);
      const buffer = this.bufferOf(layer.sound);
      if (due.length === 0 || !buffer || shot.playing >= layer.most || !isHeard(layer, mood, place)) return;
      const source = new AudioBufferSourceNode(context, { buffer });
      const gain = new GainNode(context, { gain: layer.volume });
      source.connect(gain).connect(voice.gain);
      shot.playing++;
      source.onended = () => {
        shot.playing--;
        gain.disconnect();
      };
      source.start();
    });
  }

  private setRoom(seconds: number): void {
    this.seconds = seconds;
    this.room?.disconnect();
    this.wet.disconnect();
    this.room = null;
    if (seconds < 0.1) return;
    this.room = new ConvolverNode(this.context, { buffer: impulseOf(this.context, seconds), disableNormalization: true });
    this.wet.connect(this.room).connect(this.out);
  }

  private end(id: string, { gain, panner, loops }: Voice): void {
    for (const { source } of loops.values()) source?.stop();
    gain.disconnect();
    panner.disconnect();
    this.voices.delete(id);
  }

  dispose(): void {
    for (const [id, voice] of this.voices) this.end(id, voice);
    this.room?.disconnect();
    this.out.disconnect();
  }
}
