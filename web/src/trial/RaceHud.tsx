import type { ShownRide } from '@violet-crate/core/trial/apart';
import type { RaceState } from '@violet-crate/core/trial/race';
import type { Standing } from '@violet-crate/core/trial/rivals';
import { Icon } from '../common/Icon.tsx';

const clock = (seconds: number): string => `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`;

interface Props {
  ride: ShownRide;
  race: RaceState | null;
  /** All who race, in their order; none where nobody rides against the player. */
  standings: readonly Standing[];
  nameOf(id: string): string;
  /** Seconds of the best run here. */
  best: number | null;
  /** A driver rides. */
  driven: boolean;
  onDrive(on: boolean): void;
}

/** Speed, wind and the way of a race, over the picture. */
export function RaceHud({ ride, race, standings, nameOf, best, driven, onDrive }: Props) {
  // Where the wind goes, seen from the sled: up in the picture is ahead.
  const wind = ((ride.heading - (ride.wind.from + Math.PI)) * 180) / Math.PI;
  const last = race?.splits.at(-1);
  return (
    <div
      className="race-hud"
      data-testid="race-hud"
      data-time={race?.time?.toFixed(2) ?? ''}
      data-passed={race?.passed ?? 0}
      data-finished={race?.finished ?? false}
    >
      <div className="speed">
        <b>{Math.round(ride.speed * 3.6)}</b> km/h
      </div>
      <div className="wind" aria-label={`Wind ${ride.wind.speed.toFixed(0)} metres per second`}>
        <span style={{ transform: `rotate(${wind}deg)` }} aria-hidden="true">
          <Icon name="arrow-up" />
        </span>
        {ride.wind.speed.toFixed(0)} m/s
      </div>
      {race && (
        <div className="way">
          <div className="time">{clock(race.time ?? 0)}</div>
          <div>
            {race.finished ? 'finished' : `next ${race.next.map(nameOf).join(' or ')}`} · {race.passed} of {race.stops}
            {race.laps > 1 && ` · lap ${race.lap} of ${race.laps}`}
          </div>
          {last && (
            <div className="small">
              {nameOf(last.id)} {clock(last.at)}
            </div>
          )}
          {best !== null && <div className="small">best {clock(best)}</div>}
        </div>
      )}
      {standings.length > 0 && (
        <ol className="standings" aria-label="Who is where">
          {standings.map(({ name, own, time }) => (
            <li key={name} className={own ? 'own' : ''}>
              {name} {time !== null && <span className="small">{clock(time)}</span>}
            </li>
          ))}
        </ol>
      )}
      {race && !race.finished && (
        <button className="btn btn-quiet btn-sm" aria-pressed={driven} onClick={() => onDrive(!driven)} title="Watch the driver ride the course">
          <Icon name="person-video" /> {driven ? 'Ride myself' : 'Let it ride'}
        </button>
      )}
      {ride.down && <div className="thrown">Thrown over</div>}
      {!ride.down && ride.jolt > 2 && <div className="jolt">{ride.jolt.toFixed(1)} g</div>}
    </div>
  );
}
