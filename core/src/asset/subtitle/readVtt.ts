/**
 * Reads WebVTT (W3C, "WebVTT: The Web Video Text Tracks Format", candidate recommendation of 2019): cues with times,
 * positions and text. Regions and style sheets are left out and told; tags within the text are dropped when it is shown.
 */

import { UnreadableInput } from '../../unreadable.ts';

export interface Cue {
  /** Line of its times, from 1 on. */
  line: number;
  id: string;
  /** Seconds. */
  start: number;
  end: number;
  /** Cue settings as they stand: `line:0 align:left`. */
  settings: string;
  text: string;
}

export interface Subtitles {
  cues: Cue[];
  /** Blocks that are not kept, with their lines. */
  leftOut: { line: number; what: 'STYLE' | 'REGION' }[];
}

/** Hours are optional; minutes and seconds have two digits below 60, thousandths three (section 6.1 of the format). */
const TIME = /^(?:(\d{2,}):)?([0-5]\d):([0-5]\d)\.(\d{3})$/;

export function secondsOf(text: string): number | null {
  const match = TIME.exec(text);
  return match ? Number(match[1] ?? 0) * 3600 + Number(match[2]) * 60 + Number(match[3]) + Number(match[4]) / 1000 : null;
}

export const timeText = (seconds: number): string => {
  const ms = Math.round(seconds * 1000);
  const two = (v: number) => String(Math.floor(v)).padStart(2, '0');
  return `${two(ms / 3_600_000)}:${two((ms / 60_000) % 60)}:${two((ms / 1000) % 60)}.${String(ms % 1000).padStart(3, '0')}`;
};

/** @throws UnreadableInput with the line that is wrong */
export function readVtt(bytes: Uint8Array, file: string): Subtitles {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new UnreadableInput('text-encoding', `${file} is not UTF-8 text, as WebVTT has to be.`, { file }, 'Save the file as UTF-8.');
  }
  const lines = text.split(/\r\n|\n|\r/);
  const wrong = (line: number, what: string, hint?: string) => new UnreadableInput('vtt-invalid', `${file}:${line}: ${what}`, { file, line }, hint);
  if (!/^WEBVTT([ \t].*)?$/.test(lines[0]))
    throw wrong(1, 'the file does not begin with WEBVTT.', 'Subtitles of other formats can be converted to WebVTT by most editors of them.');
  const subtitles: Subtitles = { cues: [], leftOut: [] };
  let at = 1;
  // The header goes up to the first empty line.
  while (at < lines.length && lines[at] !== '') {
    if (lines[at].includes('-->')) throw wrong(at + 1, 'an empty line is missing between the header and the first cue.');
    at++;
  }
  while (at < lines.length) {
    if (lines[at] === '') {
      at++;
      continue;
    }
    const first = at;
    while (at < lines.length && lines[at] !== '') at++;
    const block = lines.slice(first, at);
    if (/^NOTE([ \t]|$)/.test(block[0])) continue;
    const dropped = /^(STYLE|REGION)[ \t]*$/.exec(block[0])?.[1] as 'STYLE' | 'REGION' | undefined;
    if (dropped) {
      subtitles.leftOut.push({ line: first + 1, what: dropped });
      continue;
    }
    const timed = block[0].includes('-->') ? 0 : block[1]?.includes('-->') ? 1 : -1;
    if (timed < 0)
      throw wrong(
        first + 1,
        `"${block[0].slice(0, 40)}" is no cue: a line of times is missing below it.`,
        'Times look like 00:01.000 --> 00:04.000.',
      );
    const line = first + timed + 1;
    const [from, arrow, to, ...settings] = block[timed].trim().split(/[ \t]+/);
    const [start, end] = [secondsOf(from), secondsOf(to ?? '')];
    if (arrow !== '-->' || start === null || end === null)
      throw wrong(
        line,
        `"${block[timed].slice(0, 60)}" is no line of times.`,
        'Times look like 00:01.000 --> 00:04.000, with three digits behind the point.',
      );
    subtitles.cues.push({
      line,
      id: timed === 1 ? block[0] : '',
      start,
      end,
      settings: settings.join(' '),
      text: block.slice(timed + 1).join('\n'),
    });
  }
  return subtitles;
}

const ENTITIES: Record<string, string> = { amp: '&', lt: '<', gt: '>', nbsp: ' ', lrm: '', rlm: '' };

/** The words of a cue, without tags and with its named characters as they are. */
export const plainText = (text: string): string =>
  text.replace(/<[^<>]*>/g, '').replace(/&(amp|lt|gt|nbsp|lrm|rlm);/g, (_all, name: string) => ENTITIES[name]);

/** The words that are to be read at a time: cues in order, one below the other. */
export const wordsAt = ({ cues }: Pick<Subtitles, 'cues'>, seconds: number): string =>
  cues
    .filter((cue) => seconds >= cue.start && seconds < cue.end)
    .map((cue) => plainText(cue.text))
    .join('\n');

/** The file as it lies in a crate: cues in order, no styles, one form of times. */
export const writeVtt = ({ cues }: Pick<Subtitles, 'cues'>): string =>
  `WEBVTT\n${cues
    .map(
      ({ id, start, end, settings, text }) =>
        `\n${id ? `${id}\n` : ''}${timeText(start)} --> ${timeText(end)}${settings ? ` ${settings}` : ''}\n${text}\n`,
    )
    .join('')}`;
