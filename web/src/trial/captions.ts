/** Subtitles of the sounds that play in a test run, by the run's own time. */

import { readVtt, wordsAt, type Subtitles } from '@violet-crate/core/asset/subtitle/readVtt';

type Load = (path: string) => Promise<Uint8Array>;

export class Captions {
  private readonly files = new Map<string, Promise<Subtitles | null>>();
  private playing: { subtitles: Subtitles; since: number; until: number }[] = [];

  /** @param load fetches a file of the crate or the game */
  constructor(private readonly load: Load) {}

  /** A sound with these subtitles began at `time`; a file that cannot be read shows nothing. */
  async begin(path: string, time: number): Promise<void> {
    let file = this.files.get(path);
    if (!file) {
      file = this.load(path).then(
        (bytes) => readVtt(bytes, path),
        () => null,
      );
      file = file.catch(() => null);
      this.files.set(path, file);
    }
    const subtitles = await file;
    if (!subtitles) return;
    const length = subtitles.cues.reduce((last, cue) => Math.max(last, cue.end), 0);
    this.playing.push({ subtitles, since: time, until: time + length });
  }

  /** What is to be read now, the newest sound last. */
  words(time: number): string {
    this.playing = this.playing.filter(({ until }) => until > time);
    return this.playing
      .map(({ subtitles, since }) => wordsAt(subtitles, time - since))
      .filter(Boolean)
      .join('\n');
  }
}
