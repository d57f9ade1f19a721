/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Delivery } from '@violet-crate/core/trial/signals';
import { useLocation } from 'react-router';
import { openWorld, renderIn } from '../testing/render.tsx';
import { firstDifference, timelineOf } from './timeline.ts';
import { TimelinePanel } from './TimelinePanel.tsx';

afterEach(cleanup);

const NAMES: Record<string, string> = { a: 'crank', b: 'gate', c: 'water' };
const nameOf = (id: string) => NAMES[id] ?? id;
const sent = (from: string, event: string, to: string, does: string, at: number, delay = 0): Delivery => ({
  signal: 'g',
  sent: at,
  arrives: at + delay,
  from,
  event,
  to,
  does,
});
const RUN = [sent('a', 'turned', 'b', 'raise', 1), sent('b', 'raised', 'c', 'drain', 2, 1.5), sent('c', 'drained', '', 'turned', 5)];

describe('the timeline of signals', () => {
  it('has a lane for each that had a part, in the order in which they had it', () => {
    const { lanes, arrows, end } = timelineOf(RUN, nameOf);
    expect(lanes.map(({ name }) => name)).toEqual(['crank', 'gate', 'water', 'turned()']);
    expect(arrows.map(({ from, to }) => [from, to])).toEqual([
      [0, 1],
      [1, 2],
      [2, 3],
    ]);
    expect(end).toBe(5);
  });

  it('names the first signal that went another way than in the run before', () => {
    expect(firstDifference(RUN, RUN.slice(0, 2), nameOf)).toBeNull();
    const other = [RUN[0], sent('b', 'raised', 'a', 'stop', 3)];
    expect(firstDifference(RUN, other, nameOf)).toBe(
      'Differs from the run before at 3.0 s: gate.raised → crank.stop, where it was gate.raised → water.drain at 2.0 s.',
    );
  });
});

const Here = () => <output data-testid="here">{useLocation().pathname + useLocation().search}</output>;

describe('its panel', () => {
  it('leads by keyboard to the line of a function', async () => {
    openWorld((world) => void (world.crate.scripts['scripts/main.lua'] = 'function startup()\nend\nfunction turned()\nend\n'));
    renderIn(
      <>
        <TimelinePanel map="hall" deliveries={RUN} before={RUN} nameOf={nameOf} />
        <Here />
      </>,
    );
    expect(screen.getByText('So far the same as in the run before.')).toBeTruthy();
    const user = userEvent.setup();
    screen.getByRole('button', { name: '2.0 s gate.raised → water.drain' }).focus();
    await user.keyboard('{Enter}');
    expect(screen.getByText(/after 1.50 s/)).toBeTruthy();
    await user.click(screen.getByRole('button', { name: '5.0 s water.drained → turned()' }));
    await user.click(screen.getByRole('button', { name: 'turned() in scripts/main.lua' }));
    expect(screen.getByTestId('here').textContent).toMatch(/scripts\?file=scripts%2Fmain\.lua&line=3$/);
  });

  it('says where nothing was sent yet', () => {
    openWorld();
    renderIn(<TimelinePanel map="hall" deliveries={[]} before={[]} nameOf={nameOf} />);
    expect(screen.getByText(/No signal was sent yet/)).toBeTruthy();
  });
});
