import { convertSubtitles } from '../../asset/subtitle/convert.ts';
import type { ImportKind } from './made.ts';

export const subtitle: ImportKind = {
  options: [],
  convert(_profile, { file, bytes, name }) {
    const made = convertSubtitles(file, bytes);
    const path = `subtitles/${name}.vtt`;
    return Promise.resolve({
      path,
      files: new Map([[path, made.bytes]]),
      record: { source: `sources/subtitles/${name}.vtt`, options: {}, seconds: Math.round(made.seconds * 1000) / 1000, cues: made.cues },
      findings: made.findings,
    });
  },
};
