import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { createMp3Encoder } from 'wasm-media-encoders';
import { testProfile } from '../../testing/world.ts';
import { tone } from '../../testing/sounds.ts';
import { convertSound, normalise, trimSilence, withChannels } from './convert.ts';
import { integratedLoudness, truePeak } from './loudness.ts';
import { readSound } from './readSound.ts';
import { readWav } from './readWav.ts';
import { resample } from './resample.ts';
import { fromDecibels, sampleCount, secondsOf, type Sound } from './sound.ts';
import { fourier, spectrogram } from './spectrogram.ts';
import { writeOgg } from './writeOgg.ts';
import { writeWav } from './writeWav.ts';

const profile = testProfile();
const text = (content: string) => new TextEncoder().encode(content);

/** Energy of a sine at one frequency by Goertzel's recurrence, as amplitude. */
function amplitudeAt(samples: Float32Array, hertz: number, rate: number): number {
  const step = 2 * Math.cos((2 * Math.PI * hertz) / rate);
  let [a, b] = [0, 0];
  for (const x of samples) [a, b] = [x + step * a - b, a];
  return (2 * Math.sqrt(a * a + b * b - step * a * b)) / samples.length;
}

// Outside reference: EBU Tech 3341 (v4, 2023), table 1: cases that can be synthesised, each ±0.1 LU.
describe('loudness by ITU-R BS.1770-4 meets the cases of EBU Tech 3341', () => {
  it.each<[string, [number, number][], number]>([
    ['1', [[-23, 20]], -23],
    ['2', [[-33, 20]], -33],
    [
      '3',
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      '4',
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
    [
      '5',
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    ],
  ])('case %s', (_, stretches, expected) => {
    expect(Math.abs(integratedLoudness(tone(stretches))! - expected)).toBeLessThanOrEqual(0.1);
  });

  it('case 6: five channels, the surrounds weighted', () => {
    const channel = (db: number) => tone([[db, 20]], { channels: 1 }).channels[0];
    const sound: Sound = { sampleRate: 48000, channels: [-28, -28, -24, -30, -30].map(channel) };
    expect(Math.abs(integratedLoudness(sound)! + 23)).toBeLessThanOrEqual(0.1);
  });

  it('case 1 at other rates than that of the standard’s table', () => {
    for (const rate of [22050, 44100, 96000]) expect(Math.abs(integratedLoudness(tone([[-23, 5]], { rate }))! + 23)).toBeLessThanOrEqual(0.1);
  });

  // Table 2, cases 15 to 19: true peaks between samples, +0.2/-0.4 dB.
  it.each([
    ['15', 4, 0, 0.5, -6],
    ['16', 4, 45, 0.5, -6],
    ['17', 6, 60, 0.5, -6],
    ['18', 8, 67.5, 0.5, -6],
    ['19', 4, 45, 1.41, 3],
  ])('true peak, case %s', (_, part, degrees, level, expected) => {
    const sound = tone([[20 * Math.log10(level), 0.1]], { hertz: 48000 / part, phase: (degrees * Math.PI) / 180 });
    // Faded at the ends: a tone that begins with a jump peaks higher there, and rightly so.
    const [samples] = sound.channels;
    for (let i = 0; i < 480; i++) for (const at of [i, samples.length - 1 - i]) samples[at] *= i / 480;
    const peak = truePeak(sound)!;
    expect(peak).toBeLessThanOrEqual(expected + 0.2);
    expect(peak).toBeGreaterThanOrEqual(expected - 0.4);
  });

  it('silence and what is shorter than a block have none', () => {
    expect(integratedLoudness(tone([[-200, 2]]))).toBeNull();
    expect(integratedLoudness(tone([[-20, 0.2]]))).toBeNull();
    expect(truePeak({ sampleRate: 8000, channels: [new Float32Array(10)] })).toBeNull();
  });
});

describe('reading', () => {
  it('WAV of every width is what was written', () => {
    const values = [0, 0.5, -0.5, 0.25];
    const file = (kind: number, bits: number, put: (view: DataView, at: number, value: number) => void) => {
      const bytes = new Uint8Array(44 + (values.length * bits) / 8);
      const view = new DataView(bytes.buffer);
      bytes.set(text('RIFF'), 0);
      bytes.set(text('WAVEfmt '), 8);
      view.setUint32(16, 16, true);
      view.setUint16(20, kind, true);
      view.setUint16(22, 1, true);
      view.setUint32(24, 8000, true);
      view.setUint16(34, bits, true);
      bytes.set(text('data'), 36);
      view.setUint32(40, (values.length * bits) / 8, true);
      values.forEach((value, i) => put(view, 44 + (i * bits) / 8, value));
      return bytes;
    };
    const files = [
      file(1, 8, (view, at, value) => view.setUint8(at, 128 + value * 128)),
      file(1, 16, (view, at, value) => view.setInt16(at, value * 32768, true)),
      file(1, 24, (view, at, value) => [0, 8, 16].forEach((shift, k) => view.setUint8(at + k, ((value * 8388608) >> shift) & 255))),
      file(1, 32, (view, at, value) => view.setInt32(at, value * 2147483648, true)),
      file(3, 32, (view, at, value) => view.setFloat32(at, value, true)),
      file(3, 64, (view, at, value) => view.setFloat64(at, value, true)),
    ];
    for (const bytes of files) expect([...readWav(bytes, 'a.wav').channels[0]]).toEqual(values);
  });

  it('what is written comes back, with its loop', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -0.99, max: 0.99, noNaN: true }), { minLength: 3, maxLength: 50 }), fc.boolean(), (values, stereo) => {
        const samples = Float32Array.from(values);
        const sound: Sound = {
          sampleRate: 44100,
          channels: stereo ? [samples, samples.map((v) => -v)] : [samples],
          loop: { start: 1, end: values.length },
        };
        const back = readWav(writeWav(sound), 'a.wav');
        expect(back.loop).toEqual(sound.loop);
        back.channels[0].forEach((v, i) => expect(Math.abs(v - samples[i])).toBeLessThan(2 / 32768));
      }),
    );
    expect(writeWav(tone([[-9, 0.1]]))).toEqual(writeWav(tone([[-9, 0.1]])));
  });

  // Outside references: the Vorbis and LAME encoders and the decoders of their formats.
  it('OGG and MP3 hold the tone that went in', async () => {
    const sound = tone([[-12, 0.8]], { channels: 1, rate: 44100 });
    const ogg = await readSound(await writeOgg(sound), 'a.ogg');
    expect(secondsOf(ogg)).toBeCloseTo(0.8, 2);
    expect(amplitudeAt(ogg.channels[0], 1000, 44100)).toBeCloseTo(fromDecibels(-12), 1);
    const encoder = await createMp3Encoder();
    encoder.configure({ channels: 1, sampleRate: 44100, bitrate: 128 });
    const parts = [encoder.encode(sound.channels).slice(), encoder.finalize().slice()];
    const mp3 = await readSound(new Uint8Array(Buffer.concat(parts)), 'a.mp3');
    expect(amplitudeAt(mp3.channels[0].slice(4000, 30000), 1000, 44100)).toBeCloseTo(fromDecibels(-12), 1);
  });

  it('FLAC: a frame of constant samples, made by hand', async () => {
    const { crc8, crc16 } = { crc8: crc(8, 0x07), crc16: crc(16, 0x8005) };
    // STREAMINFO: blocks of 4096, 44100 Hz, mono, 16 bits, 4096 samples; then one frame with a constant subframe of 1000.
    const info = [0x10, 0, 0x10, 0, 0, 0, 0, 0, 0, 0, 0x0a, 0xc4, 0x40, 0xf0, 0, 0, 0x10, 0, ...new Array<number>(16).fill(0)];
    const header = [0xff, 0xf8, 0xc9, 0x08, 0x00];
    const body = [...header, crc8(header), 0x00, 0x03, 0xe8];
    const check = crc16(body);
    const flac = new Uint8Array([...text('fLaC'), 0x80, 0, 0, 34, ...info, ...body, check >> 8, check & 255]);
    const sound = await readSound(flac, 'a.flac');
    expect([sound.sampleRate, sampleCount(sound)]).toEqual([44100, 4096]);
    expect(sound.channels[0][100]).toBeCloseTo(1000 / 32768, 4);
  });

  it.each([
    ['fake.wav', text('MThd....'), /fake\.wav is no WAV, OGG, FLAC or MP3 file: its first bytes are 4d 54 68 64 \(byte 0\)/],
    ['cut.wav', writeWav(tone([[-9, 0.1]])).slice(0, 60), /cut off: its data declares/],
    ['none.wav', new Uint8Array([...text('RIFF....WAVEfmt '), 16, 0, 0, 0]), /its format is cut off|it has no/],
    ['bad.ogg', new Uint8Array([...text('OggS'), ...new Array<number>(60).fill(7)]), /bad\.ogg is damaged/],
  ])('%s', async (file, bytes, message) => {
    await expect(readSound(bytes, file)).rejects.toThrow(message);
  });
});

describe('changing', () => {
  it('resampling keeps a tone and drops what the new rate cannot hold', () => {
    const low = resample(tone([[-6, 0.5]], { channels: 1, rate: 48000 }), 22050);
    expect(amplitudeAt(low.channels[0].slice(2000, 9000), 1000, 22050)).toBeCloseTo(fromDecibels(-6), 2);
    const gone = resample(tone([[-6, 0.5]], { channels: 1, rate: 48000, hertz: 15000 }), 22050);
    expect(Math.max(...gone.channels[0].slice(2000, 9000).map(Math.abs))).toBeLessThan(fromDecibels(-80));
    expect(sampleCount(resample(tone([[-6, 1]], { rate: 44100 }), 48000))).toBe(48000);
  });

  it('trimming cuts silence at the ends only', () => {
    const sound = tone(
      [
        [-120, 0.2],
        [-10, 0.3],
        [-120, 0.1],
        [-10, 0.2],
        [-120, 0.4],
      ],
      { rate: 8000 },
    );
    expect(secondsOf(trimSilence(sound, fromDecibels(-60)))).toBeCloseTo(0.6, 2);
    const silent = tone([[-200, 0.3]], { rate: 8000 });
    expect(trimSilence(silent, fromDecibels(-60))).toBe(silent);
  });

  it('normalising reaches the loudness, or the ceiling', () => {
    const quiet = tone([[-40, 2]]);
    const loud = normalise(quiet, -20, -1, integratedLoudness(quiet));
    expect(integratedLoudness(loud)).toBeCloseTo(-20, 1);
    const click: Sound = { sampleRate: 48000, channels: [tone([[-40, 2]], { channels: 1 }).channels[0].map((v, i) => (i === 5000 ? 0.9 : v))] };
    expect(truePeak(normalise(click, -10, -1, integratedLoudness(click)))).toBeLessThanOrEqual(-0.99);
    expect(withChannels(quiet, 1).channels).toHaveLength(1);
  });

  it('brings a file to what the profile asks for, and says what it did', async () => {
    const stereo = tone(
      [
        [-120, 0.5],
        [-30, 1.5],
      ],
      { rate: 48000 },
    );
    const made = await convertSound(profile, 'hum.wav', writeWav(stereo));
    expect(made).toMatchObject({ extension: profile.sounds.format, sampleRate: profile.sounds.sampleRate, channels: 1 });
    expect(made.loudness).toBeCloseTo(profile.sounds.loudness, 0);
    expect(made.findings.map((f) => f.code)).toEqual(['sound-channels', 'sound-rate', 'sound-trimmed']);
    const looped = await convertSound(profile, 'hum.wav', writeWav(stereo), {
      loop: true,
      trim: false,
      loopStart: 0.5,
      loopEnd: 1,
      normalise: false,
    });
    expect(looped.extension).toBe('wav');
    expect(readWav(looped.bytes, 'x.wav').loop).toEqual({ start: profile.sounds.sampleRate / 2, end: profile.sounds.sampleRate });
    expect(looped.findings.map((f) => f.code)).toContain('sound-loudness');
    const clipped: Sound = {
      sampleRate: 44100,
      channels: [Float32Array.from({ length: 44100 }, (_, i) => Math.max(-1, Math.min(1, 3 * Math.sin(i / 20))))],
    };
    expect((await convertSound(profile, 'loud.wav', writeWav(clipped))).findings.map((f) => f.code)).toContain('sound-clipped');
    expect((await convertSound(profile, 'none.wav', writeWav(tone([[-200, 1]])))).findings.map((f) => f.code)).toContain('sound-silent');
    // A tone at half full scale peaks at -6 dBTP, above a ceiling of -12; its own loudness is kept.
    const rules = { ...profile.sounds, truePeak: -12, maxSeconds: 0.5 };
    const long = await convertSound({ ...profile, sounds: rules }, 'long.wav', writeWav(tone([[-6, 1]], { channels: 1 })), { normalise: false });
    expect(long.findings.map((f) => f.code)).toEqual(expect.arrayContaining(['sound-peak', 'sound-long']));
  });
});

describe('spectrogram', () => {
  it('a full-scale tone shows at its frequency at 0 dB, and nowhere else', () => {
    const hertz = (48000 / 1024) * 100;
    const { bins, levels } = spectrogram(tone([[0, 0.2]], { channels: 1, hertz }).channels[0], 1024, 3);
    const middle = levels.slice(bins, bins * 2);
    expect(middle[100]).toBeCloseTo(0, 1);
    expect(Math.max(...middle.filter((_, k) => Math.abs(k - 100) > 4))).toBeLessThan(-60);
  });

  it('the transform is that of its definition', () => {
    const samples = Float64Array.from({ length: 16 }, (_, i) => Math.sin(i * 1.3) + i / 9);
    const [re, im] = [samples.slice(), new Float64Array(16)];
    fourier(re, im);
    for (let k = 0; k < 16; k++) {
      const sum = [0, 0];
      samples.forEach((x, n) => {
        sum[0] += x * Math.cos((2 * Math.PI * k * n) / 16);
        sum[1] -= x * Math.sin((2 * Math.PI * k * n) / 16);
      });
      expect(re[k]).toBeCloseTo(sum[0], 9);
      expect(im[k]).toBeCloseTo(sum[1], 9);
    }
  });
});

/** A plain cyclic redundancy check, highest bit first. */
function crc(bits: number, polynomial: number): (bytes: readonly number[]) => number {
  const top = 1 << (bits - 1);
  const mask = 2 ** bits - 1;
  return (bytes) => {
    let value = 0;
    for (const byte of bytes) {
      value ^= byte << (bits - 8);
      for (let i = 0; i < 8; i++) value = (value & top ? (value << 1) ^ polynomial : value << 1) & mask;
    }
    return value;
  };
}
