import { describe, expect, test } from '@jest/globals';
import { UnreadableInput } from '../../unreadable.ts';
import { convertSubtitles } from './convert.ts';
import { plainText, readVtt, secondsOf, timeText, wordsAt, writeVtt } from './readVtt.ts';

const bytes = (text: string) => new TextEncoder().encode(text);

// Outside reference: examples 1, 2 and 5 of the W3C's "WebVTT: The Web Video Text Tracks Format", shortened.
const SIMPLE = `WEBVTT

00:11.000 --> 00:13.000
<v Roger Bingham>We are in New York City

00:13.000 --> 00:16.000
<v Roger Bingham>We’re actually at the Lucern Hotel,
just down the street
`;
const COMMENTED = `WEBVTT - Translation of that film I like

NOTE
This translation was done by Kyle so that
some friends can watch it with their parents.

1
00:02:15.000 --> 00:02:20.000
- Ta en kopp varmt te.
- Det är inte varmt.

NOTE This last line may not translate well.

2
00:02:25.000 --> 00:02:30.000 align:start position:10%
- Ta en kopp
`;
const STYLED = `WEBVTT

STYLE
::cue { color: papayawhip }

REGION
id:fred

00:00:00.000 --> 00:00:10.000
Hello &amp; world.
`;

describe('WebVTT', () => {
  test('reads the standard’s own examples', () => {
    const { cues } = readVtt(bytes(SIMPLE), 'a.vtt');
    expect(cues.map(({ start, end, line }) => [start, end, line])).toEqual([
      [11, 13, 3],
      [13, 16, 6],
    ]);
    expect(plainText(cues[0].text)).toBe('We are in New York City');
    const commented = readVtt(bytes(COMMENTED), 'b.vtt').cues;
    expect(commented.map(({ id, start, settings }) => [id, start, settings])).toEqual([
      ['1', 135, ''],
      ['2', 145, 'align:start position:10%'],
    ]);
    expect(commented[0].text.split('\n')).toHaveLength(2);
    const styled = readVtt(bytes(STYLED), 'c.vtt');
    expect(styled.leftOut.map(({ what }) => what)).toEqual(['STYLE', 'REGION']);
    expect(plainText(styled.cues[0].text)).toBe('Hello & world.');
  });

  test('takes all three ends of lines and a byte-order mark', () => {
    for (const end of ['\n', '\r\n', '\r']) expect(readVtt(bytes(SIMPLE.replaceAll('\n', end)), 'a.vtt').cues).toHaveLength(2);
    expect(readVtt(bytes(`\ufeff${SIMPLE}`), 'a.vtt').cues).toHaveLength(2);
  });

  test('reads times as the standard has them, and nothing else', () => {
    expect([secondsOf('00:01.500'), secondsOf('01:00:00.000'), secondsOf('100:00:00.001')]).toEqual([1.5, 3600, 360000.001]);
    for (const text of ['1:00.000', '00:60.000', '00:01', '00:01.5', '00:01,500', '', '-00:01.000']) expect(secondsOf(text)).toBeNull();
    for (const seconds of [0, 1.5, 61.001, 3599.999, 7322.25]) expect(secondsOf(timeText(seconds))).toBe(seconds);
  });

  test.each([
    ['no signature', '1\n00:00.000 --> 00:01.000\nHello\n', /:1: the file does not begin with WEBVTT/],
    ['a signature with more behind it', 'WEBVTTS\n\n', /:1:/],
    ['commas in times', 'WEBVTT\n\n00:00,000 --> 00:01,000\nHello\n', /:3: .*is no line of times/],
    ['no times', 'WEBVTT\n\nHello\nthere\n', /:3: "Hello" is no cue/],
    ['no empty line', 'WEBVTT\n00:00.000 --> 00:01.000\nHello\n', /:2: an empty line is missing/],
  ])('refuses %s with its line', (_what, text, message) => {
    expect(() => readVtt(bytes(text), 'x.vtt')).toThrow(UnreadableInput);
    expect(() => readVtt(bytes(text), 'x.vtt')).toThrow(message);
  });
  test('refuses what is no UTF-8', () => expect(() => readVtt(Uint8Array.of(0x57, 0xff, 0xfe), 'x.vtt')).toThrow(/UTF-8/));

  test('knows what is to be read at a time; an end is no longer part of its cue', () => {
    const { cues } = readVtt(bytes(SIMPLE), 'a.vtt');
    expect([wordsAt({ cues }, 10.9), wordsAt({ cues }, 11), wordsAt({ cues }, 13)].map((text) => text.slice(0, 6))).toEqual(['', 'We are', 'We’re ']);
  });
});

describe('the conversion', () => {
  const codes = (text: string) => convertSubtitles('a.vtt', bytes(text)).findings.map(({ code, place }) => [code, place?.line]);
  const cue = (times: string, text: string) => `\n${times}\n${text}\n`;

  test('of good subtitles finds nothing, and what it writes reads back the same', () => {
    const made = convertSubtitles('a.vtt', bytes(SIMPLE));
    expect(made.findings).toEqual([]);
    expect([made.cues, made.seconds]).toEqual([2, 16]);
    const again = readVtt(made.bytes, 'a.vtt');
    expect(writeVtt(again)).toBe(new TextDecoder().decode(made.bytes));
  });

  test('names what is wrong, with its line', () => {
    expect(codes('WEBVTT\n')).toEqual([['subtitle-empty', undefined]]);
    expect(codes(`WEBVTT\n${cue('00:02.000 --> 00:01.000', 'Late')}`)).toEqual([['subtitle-time', 3]]);
    expect(codes(`WEBVTT\n${cue('00:01.000 --> 00:02.000', '<b></b>')}`)).toEqual([['subtitle-blank', 3]]);
    expect(codes(`WEBVTT\n${cue('00:01.000 --> 00:02.000', 'Far too many words\nfor one short second')}`)).toEqual([['subtitle-fast', 3]]);
    expect(codes(`WEBVTT\n${cue('00:01.000 --> 00:09.000', 'x'.repeat(43))}`)).toEqual([['subtitle-long', 3]]);
    expect(codes(`WEBVTT\n${cue('00:05.000 --> 00:06.000', 'Second')}${cue('00:01.000 --> 00:02.000', 'First')}`)).toEqual([['subtitle-order', 6]]);
    expect(codes(STYLED).map(([code]) => code)).toEqual(['subtitle-style', 'subtitle-style']);
  });

  test('puts cues in order and leaves out those that end before they begin', () => {
    const text = `WEBVTT\n${cue('00:05.000 --> 00:06.000', 'B')}${cue('00:01.000 --> 00:02.000', 'A')}${cue('00:04.000 --> 00:03.000', 'C')}`;
    expect(readVtt(convertSubtitles('a.vtt', bytes(text)).bytes, 'a.vtt').cues.map(({ text: words }) => words)).toEqual(['A', 'B']);
  });
});
