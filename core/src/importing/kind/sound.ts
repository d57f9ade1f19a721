import { convertSound } from '../../asset/sound/convert.ts';
import { SOUND_OPTIONS, type SoundOptions } from '../../asset/sound/options.ts';
import { previewPath } from '../../crate/contents.ts';
import { extensionOf, type ImportKind } from './made.ts';

export const sound: ImportKind = {
  options: SOUND_OPTIONS,
  async convert(profile, input) {
    const { file, bytes, name } = input;
    const converted = await convertSound(profile, file, bytes, input.options as Partial<SoundOptions>);
    const path = `sounds/${name}.${converted.extension}`;
    const rounded = (value: number | null) => (value === null ? null : Math.round(value * 10) / 10);
    return {
      path,
      files: new Map([
        [path, converted.bytes],
        [previewPath(path), converted.preview],
      ]),
      record: {
        source: `sources/sounds/${name}${extensionOf(file)}`,
        options: { ...converted.options },
        seconds: Math.round(converted.seconds * 1000) / 1000,
        sampleRate: converted.sampleRate,
        channels: converted.channels,
        loudness: rounded(converted.loudness),
        truePeak: rounded(converted.truePeak),
      },
      findings: converted.findings,
    };
  },
};
