import { useEffect, useRef, useState } from 'react';
import type { Effect } from '@violet-crate/core/effect/document';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { AssetSource } from '../api/assetUrl.ts';
import { message } from '../api/http.ts';
import { Trouble } from '../common/Busy.tsx';
import { Icon } from '../common/Icon.tsx';
import { EffectStage } from './effectStage.ts';

/** The effect beside the player's figure, with its time in hand. */
export function EffectPreview({ effect, profile, source }: { effect: Effect; profile: Profile; source: AssetSource }) {
  const host = useRef<HTMLDivElement>(null);
  const stage = useRef<EffectStage | null>(null);
  const [playing, setPlaying] = useState(true);
  const [moving, setMoving] = useState(false);
  const [wind, setWind] = useState(0);
  const [time, setTime] = useState(0);
  const [particles, setParticles] = useState(0);
  const [problem, setProblem] = useState('');
  const longest = Math.max(...effect.emitters.map(({ life }) => life[1]));
  const whole = Math.min(60, Math.max(2, effect.warmUp + effect.seconds + longest));
  useEffect(() => {
    let last = 0;
    const told = (seconds: number, count: number) => {
      const now = performance.now();
      // The numbers are for reading: a few times a second.
      if (now - last < 100) return;
      last = now;
      setTime(seconds);
      setParticles(count);
    };
    try {
      stage.current = new EffectStage(host.current!, profile, source, told);
    } catch (error) {
      setProblem(message(error));
    }
    return () => {
      stage.current?.dispose();
      stage.current = null;
    };
  }, [profile, source]);
  useEffect(() => stage.current?.set(effect), [effect, profile, source]);
  useEffect(() => {
    if (stage.current) stage.current.playing = playing;
  }, [playing]);
  useEffect(() => {
    if (!stage.current) return;
    Object.assign(stage.current, { moving, wind });
    stage.current.again();
  }, [moving, wind]);
  const goTo = (seconds: number) => {
    setPlaying(false);
    stage.current?.goTo(seconds);
    setTime(seconds);
  };
  return (
    <section className="effect-preview panel" aria-label="Preview">
      {problem && <Trouble>{problem}</Trouble>}
      <div ref={host} className="effect-picture" data-testid="effect-preview" role="img" aria-label={`${effect.title} beside a player`} />
      <div className="effect-time">
        <button className="btn btn-quiet btn-sm" aria-label={playing ? 'Pause' : 'Play'} aria-pressed={playing} onClick={() => setPlaying(!playing)}>
          <Icon name={playing ? 'pause-fill' : 'play-fill'} />
        </button>
        <button
          className="btn btn-quiet btn-sm"
          aria-label="One step on"
          title="A sixtieth of a second on"
          onClick={() => {
            setPlaying(false);
            stage.current?.step();
            setTime(stage.current?.seconds ?? 0);
          }}
        >
          <Icon name="skip-end" />
        </button>
        <button className="btn btn-quiet btn-sm" aria-label="From the beginning" title="From the beginning" onClick={() => stage.current?.again()}>
          <Icon name="skip-backward" />
        </button>
        <input
          type="range"
          className="form-range"
          aria-label="Time"
          min={0}
          max={whole}
          step={1 / 60}
          value={Math.min(whole, time)}
          onChange={({ target }) => goTo(Number(target.value))}
        />
        <output className="mono small" aria-label="Seconds and particles">
          {time.toFixed(2)} s · {particles.toLocaleString('en')}
        </output>
      </div>
      <div className="effect-time">
        <button className="btn btn-quiet btn-sm" onClick={() => stage.current?.burst()}>
          Burst
        </button>
        <button className="btn btn-quiet btn-sm" onClick={() => stage.current?.start()}>
          Start
        </button>
        <button className={`btn btn-quiet btn-sm ${moving ? 'active' : ''}`} aria-pressed={moving} onClick={() => setMoving(!moving)}>
          Moves about
        </button>
        <label className="small d-flex gap-1 align-items-center ms-auto">
          Wind
          <input
            type="range"
            className="form-range"
            style={{ width: '5rem' }}
            min={0}
            max={12}
            step={0.5}
            value={wind}
            onChange={({ target }) => setWind(Number(target.value))}
          />
          <span className="mono">{wind} m/s</span>
        </label>
      </div>
    </section>
  );
}
