/** The beds of a map at an ear that moves: in the test run, and while flying through the map. */

import { Hearing } from '@violet-crate/core/bed/hear';
import type { SoundCells } from '@violet-crate/core/bed/space';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { GameMap, Mood } from '@violet-crate/core/document/schema';
import { isSoundArea, reverbOf, soundWorld } from '@violet-crate/core/map/sound';
import { objectBox } from '@violet-crate/core/map/objectBox';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { numberOf } from '@violet-crate/core/part/part';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { BedAudio } from './bedAudio.ts';

/** Seconds between two looks at how it is heard: gains go there smoothly. */
const EVERY = 0.1;

export class MapSound {
  private readonly hearing: Hearing;
  private readonly audio: BedAudio;
  private readonly reverbs = new Map<string, number>();
  private last = -Infinity;
  /** Ids of the areas that are heard now, with their amplitudes. */
  heard: { id: string; gain: number }[] = [];

  constructor(
    context: AudioContext,
    fetchBytes: (path: string) => Promise<ArrayBuffer>,
    private readonly world: CrateWorld,
    private readonly whole: GameMap,
    cells: SoundCells | null,
  ) {
    this.hearing = new Hearing(soundWorld(world, whole, cells));
    const load = (path: string) =>
      fetchBytes(path)
        .then((bytes) => context.decodeAudioData(bytes))
        .catch(() => null);
    this.audio = new BedAudio(context, load, world.profile.unit.metres);
  }

  /** Whether a map has anything to be heard. */
  static any(world: CrateWorld, whole: Pick<GameMap, 'objects'>): boolean {
    return Object.values(whole.objects).some((object) => isSoundArea(world, object));
  }

  /** @param look where whoever hears looks, map space @param volume of everything, 0 to 1 */
  update(time: number, ear: Vec3, look: Vec3, mood: Mood | null, volume: number): void {
    if (Math.abs(time - this.last) < EVERY) return;
    this.last = time;
    const heard = this.hearing.at(ear);
    this.heard = heard.map(({ id, gain }) => ({ id, gain }));
    const { metres } = this.world.profile.unit;
    const [x, , z] = toGltf(look, 1);
    const flat = Math.hypot(x, z) || 1;
    this.audio.volume = volume;
    this.audio.update({
      heard,
      beds: this.whole.settings.beds ?? [],
      time,
      mood,
      place: this.whole.settings.place,
      reverb: this.reverbAt(ear),
      right: [-z / flat, 0, x / flat],
      ear: toGltf(ear, metres),
    });
  }

  /** Of the innermost area that the ear is in; nothing sounds on outside of all. */
  private reverbAt(ear: Vec3): number {
    let best: { priority: number; id: string } | null = null;
    for (const [id, object] of Object.entries(this.whole.objects)) {
      if (!isSoundArea(this.world, object)) continue;
      const { min, max } = objectBox(this.world, object);
      if (ear.some((v, k) => v < min[k] || v > max[k])) continue;
      const priority = numberOf(object.properties.priority);
      if (!best || priority > best.priority) best = { priority, id };
    }
    if (!best) return 0;
    let seconds = this.reverbs.get(best.id);
    if (seconds === undefined) this.reverbs.set(best.id, (seconds = reverbOf(this.world, this.whole, this.whole.objects[best.id])));
    return seconds;
  }

  dispose(): void {
    this.audio.dispose();
  }
}
