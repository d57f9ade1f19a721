import { useEffect, useRef, useState } from 'react';
import { SOUND_OPTIONS, type SoundOptions } from '@violet-crate/core/asset/sound/options';
import { spectrogram } from '@violet-crate/core/asset/sound/spectrogram';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { useAppSelector } from '../state/store.ts';
import { themeColour } from '../theme/theme.ts';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { ConversionPanel } from './ConversionPanel.tsx';
import { OptionFields } from './OptionFields.tsx';

const WINDOW = 1024;
const COLUMNS = 380;
/** Decibels from dark to light. */
const FLOOR = -90;

function drawWave(canvas: HTMLCanvasElement, sound: AudioBuffer, loop: [number, number] | null): void {
  const context = canvas.getContext('2d')!;
  const { width, height } = canvas;
  context.clearRect(0, 0, width, height);
  if (loop) {
    context.fillStyle = themeColour('--vc-selected');
    context.fillRect((loop[0] / sound.duration) * width, 0, ((loop[1] - loop[0]) / sound.duration) * width, height);
  }
  context.fillStyle = themeColour('--vc-violet');
  const samples = sound.getChannelData(0);
  for (let x = 0; x < width; x++) {
    let [low, high] = [0, 0];
    for (let i = Math.floor((x / width) * samples.length); i < ((x + 1) / width) * samples.length; i++) {
      low = Math.min(low, samples[i]);
      high = Math.max(high, samples[i]);
    }
    context.fillRect(x, (0.5 - high / 2) * height, 1, Math.max(1, ((high - low) / 2) * height));
  }
}

function drawSpectrogram(canvas: HTMLCanvasElement, sound: AudioBuffer): void {
  const { columns, bins, levels } = spectrogram(sound.getChannelData(0), WINDOW, COLUMNS);
  canvas.width = columns;
  canvas.height = bins;
  const context = canvas.getContext('2d')!;
  const picture = context.createImageData(columns, bins);
  for (let column = 0; column < columns; column++)
    for (let bin = 0; bin < bins; bin++) {
      const share = Math.min(1, Math.max(0, 1 - levels[column * bins + bin] / FLOOR));
      const at = ((bins - 1 - bin) * columns + column) * 4;
      // From the dark ground over violet to warm light.
      picture.data[at] = 255 * Math.min(1, share * 1.15);
      picture.data[at + 1] = 230 * share * share;
      picture.data[at + 2] = 60 + 170 * Math.sin(share * Math.PI);
      picture.data[at + 3] = 255;
    }
  context.putImageData(picture, 0, 0);
}

/** A sound to listen to and to look at, and how it is converted. */
export function SoundPanel({ entry, source }: { entry: LibraryEntry; source: AssetSource }) {
  const profile = useAppSelector((s) => s.crate.profile)!;
  const wave = useRef<HTMLCanvasElement>(null);
  const spectrum = useRef<HTMLCanvasElement>(null);
  const [problem, setProblem] = useState('');
  const [decoded, setDecoded] = useState<AudioBuffer | null>(null);
  const url = fileUrl(source, entry.id);
  const record = entry.record;
  const options = record?.options as Partial<SoundOptions> | undefined;
  const loop = options?.loop && options.loopEnd! > options.loopStart! ? ([options.loopStart!, options.loopEnd!] as [number, number]) : null;
  const loopKey = loop?.join() ?? '';

  useEffect(() => {
    const abort = new AbortController();
    const context = new OfflineAudioContext(1, 1, 44100);
    fetch(url, { signal: abort.signal })
      .then((response) => response.arrayBuffer())
      .then((data) => context.decodeAudioData(data))
      .then(setDecoded)
      .catch(() => abort.signal.aborted || setProblem('The browser cannot decode this sound.'));
    return () => abort.abort();
  }, [url]);
  useEffect(() => {
    if (!decoded) return;
    drawWave(wave.current!, decoded, loopKey ? (loopKey.split(',').map(Number) as [number, number]) : null);
    drawSpectrogram(spectrum.current!, decoded);
  }, [decoded, loopKey]);

  return (
    <>
      <audio controls loop={options?.loop} src={url} className="w-100 mb-2" aria-label={`Play ${entry.name}`} />
      {problem && <div className="severity blocker">{problem}</div>}
      <canvas ref={wave} className="wave" width={COLUMNS} height={90} role="img" aria-label="Waveform" data-drawn={decoded !== null} />
      <canvas ref={spectrum} className="wave spectrum" role="img" aria-label={`Spectrogram up to ${(record?.sampleRate ?? 44100) / 2000} kHz`} />
      <p className="faint mt-2">
        {record?.seconds ?? '?'} s · {record?.sampleRate ?? '?'} samples per second · {record?.channels === 2 ? 'stereo' : 'mono'} ·{' '}
        {typeof record?.loudness !== 'number' ? 'too short or quiet to have a loudness' : `${record.loudness} LUFS`}
        {typeof record?.truePeak === 'number' && ` · peaks at ${record.truePeak} dBTP`} · the game asks for {profile.sounds.loudness} LUFS and at most{' '}
        {profile.sounds.truePeak} dBTP
      </p>
      {entry.origin === 'crate' && record && (
        <ConversionPanel key={JSON.stringify(record.options)} entry={entry}>
          {(draft, set) => <OptionFields table={SOUND_OPTIONS} draft={draft} onChange={set} />}
        </ConversionPanel>
      )}
    </>
  );
}
