import type { Finding } from '../../finding.ts';
import { plainText, readVtt, timeText, writeVtt, type Subtitles } from './readVtt.ts';

/** Characters a second that most people can read. Common practice: 17 to 20. */
const READABLE = 20;
/** Characters of a line. Common practice: 42. */
const LINE = 42;

export interface ConvertedSubtitles {
  bytes: Uint8Array;
  cues: number;
  /** When the last one ends. */
  seconds: number;
  findings: Finding[];
}

/** Checks subtitles and brings them into one form; cues out of order are put into it. */
export function convertSubtitles(file: string, bytes: Uint8Array): ConvertedSubtitles {
  const subtitles = readVtt(bytes, file);
  const findings = checkSubtitles(subtitles, file);
  const cues = subtitles.cues.filter((cue) => cue.end > cue.start).sort((a, b) => a.start - b.start || a.end - b.end);
  return {
    bytes: new TextEncoder().encode(writeVtt({ cues })),
    cues: cues.length,
    seconds: cues.reduce((last, cue) => Math.max(last, cue.end), 0),
    findings,
  };
}

function checkSubtitles({ cues, leftOut }: Subtitles, file: string): Finding[] {
  const findings: Finding[] = [];
  const add = (code: string, severity: Finding['severity'], line: number, message: string, hint: string) =>
    findings.push({ code, severity, stage: 'assets', message: `${file}:${line}: ${message}`, hint, place: { file, line } });
  if (cues.length === 0)
    findings.push({
      code: 'subtitle-empty',
      severity: 'warning',
      stage: 'assets',
      message: `${file} has no cues.`,
      hint: 'Nothing would ever be shown.',
      place: { file },
    });
  let before = 0;
  for (const { line, start, end, text } of cues) {
    const words = plainText(text);
    if (end <= start)
      add('subtitle-time', 'warning', line, `the cue ends at ${timeText(end)}, before it has begun; it is left out.`, 'Put its times right.');
    else if (words.trim() === '') add('subtitle-blank', 'note', line, 'the cue has no words.', 'It shows nothing.');
    else if (words.length / (end - start) > READABLE)
      add(
        'subtitle-fast',
        'note',
        line,
        `${words.length} characters in ${Math.round((end - start) * 10) / 10} s are too many to read.`,
        `Most people read about ${READABLE} a second: show it longer, or say it shorter.`,
      );
    if (words.split('\n').some((row) => row.length > LINE))
      add('subtitle-long', 'note', line, `a line has more than ${LINE} characters.`, 'Break it, so that it fits beside the picture.');
    if (start < before)
      add('subtitle-order', 'note', line, 'the cue begins before the one above it; they were put in order.', 'The format asks for it.');
    before = Math.max(before, start);
  }
  for (const { line, what } of leftOut) add('subtitle-style', 'note', line, `${what} is left out.`, 'The game shows subtitles in its own style.');
  return findings;
}
