import { Icon } from '../common/Icon.tsx';
import { SPEEDS } from './runClock.ts';

interface Props {
  paused: boolean;
  speed: number;
  onPause(): void;
  onStep(): void;
  onSpeed(speed: number): void;
}

/** How time passes in the run. */
export function TimeBar({ paused, speed, onPause, onStep, onSpeed }: Props) {
  return (
    <div className="time-bar" role="group" aria-label="Time">
      <button className="btn btn-quiet btn-sm" aria-pressed={paused} onClick={onPause} title={`${paused ? 'Go on' : 'Pause'} (P)`}>
        <Icon name={paused ? 'play-fill' : 'pause-fill'} /> {paused ? 'Go on' : 'Pause'}
      </button>
      <button className="btn btn-quiet btn-sm" onClick={onStep} title="A sixtieth of a second, then pause (O)">
        <Icon name="skip-end-fill" /> Step
      </button>
      <label className="visually-hidden" htmlFor="trial-speed">
        Speed of time
      </label>
      <select id="trial-speed" className="form-select form-select-sm" value={speed} onChange={(event) => onSpeed(Number(event.target.value))}>
        {SPEEDS.map((one) => (
          <option key={one} value={one}>
            × {one}
          </option>
        ))}
      </select>
    </div>
  );
}
