/** What lies over the picture of a test run before it begins and after it has ended. */

import type { ReactNode } from 'react';
import type { Finding } from '@violet-crate/core/finding';
import { Icon } from '../common/Icon.tsx';
import type { Shown } from './trialStage.ts';

const Over = ({ children, onClick }: { children: ReactNode; onClick?(): void }) => (
  <div className="overlay" onClick={onClick}>
    {children}
  </div>
);

export const LoadingScreen = () => (
  <Over>
    <div role="status">
      <Icon name="arrow-repeat" className="turning" /> Loading the built map …
    </div>
  </Over>
);

export const TroubleScreen = ({ problem }: { problem: string }) => (
  <Over>
    <div role="alert">
      <h2>The test run could not start</h2>
      {problem}
    </div>
  </Over>
);

interface FirstProps {
  map: string;
  /** One rides there. */
  race: boolean;
  /** The crate was changed after the build. */
  stale: boolean;
  enter(): void;
  /** Begins with a driver, where there is something to ride. */
  letRide?(): void;
}

/** What keys there are, and where to begin. */
export const FirstScreen = ({ map, race, stale, enter, letRide }: FirstProps) => (
  <Over onClick={enter}>
    <div>
      <h2>
        {race ? 'Ride' : 'Walk'} through {map}
      </h2>
      <p className="mb-2">
        Click to look around with the mouse, or use the keyboard alone. <kbd>W A S D</kbd> or <kbd>arrows</kbd> walk, <kbd>Q</kbd> operates and picks
        up, <kbd>F</kbd> throws, <kbd>Space</kbd> jumps, <kbd>C</kbd> crouches, <kbd>G</kbd> glides, <kbd>P</kbd> pauses, <kbd>O</kbd> takes one step,{' '}
        <kbd>I</kbd> takes a picture for the release, <kbd>Esc</kbd> frees the pointer.
        {race && (
          <>
            {' '}
            On a sled <kbd>W</kbd> lets the kite pull, <kbd>S</kbd> brakes, <kbd>A</kbd> and <kbd>D</kbd> steer, <kbd>V</kbd> changes the view, and{' '}
            <kbd>C</kbd> held brings you back to the last checkpoint.
          </>
        )}
      </p>
      {stale && (
        <p className="severity warning text-wrap">
          <Icon name="clock-history" /> The crate was changed after this build.
        </p>
      )}
      <button className="btn btn-primary">{race ? 'Start riding' : 'Start walking'}</button>
      {letRide && (
        <button
          className="btn btn-quiet ms-2"
          onClick={(event) => {
            event.stopPropagation();
            letRide();
          }}
        >
          <Icon name="person-video" /> Let it ride
        </button>
      )}
    </div>
  </Over>
);

interface HangProps {
  finding: Finding;
  wait(): void;
  end(): void;
}

/** The run has not come back for a while. On a busy machine it will; whoever tests decides. */
export const HangScreen = ({ finding, wait, end }: HangProps) => (
  <Over>
    <div role="alertdialog" aria-label="The test run does not answer">
      <h2>The test run does not answer</h2>
      <p>
        {finding.message.replace('The test run was ended: ', '')} A busy machine can be the cause. {finding.hint}
      </p>
      <button className="btn btn-primary" autoFocus onClick={wait}>
        Wait
      </button>
      <button className="btn btn-quiet ms-2" onClick={end}>
        End the run
      </button>
      <p className="faint mt-2 mb-0">What was recorded is kept.</p>
    </div>
  </Over>
);

type Ended = NonNullable<Shown['ended']>;

const ENDINGS = { won: 'The run is won', fell: 'Fell out of the world', died: 'Lost all health', stopped: 'The run was ended' };

interface LastProps {
  shown: Pick<Shown, 'lines' | 'reason'>;
  ended: Ended;
  again(): void;
}

/** How it ended, and what to do. */
export const LastScreen = ({ shown, ended, again }: LastProps) => (
  <Over>
    <div role="status">
      <h2>{ENDINGS[ended]}</h2>
      <p>
        {ended === 'won' && shown.lines.findLast((l) => l.kind === 'system')?.text}
        {ended === 'fell' && 'The start point is named in the findings below, with what to do.'}
        {ended === 'died' && 'Where and how is named in the findings below, with what to do.'}
        {ended === 'stopped' && shown.reason}
      </p>
      <button className="btn btn-primary" onClick={again}>
        Start again
      </button>
    </div>
  </Over>
);
