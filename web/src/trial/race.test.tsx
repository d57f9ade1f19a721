/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ShownRide } from '@violet-crate/core/trial/apart';
import type { RaceState } from '@violet-crate/core/trial/race';
import { EVERY, ghostAt, keepGhost, loadGhosts } from './ghosts.ts';
import type { Standing } from '@violet-crate/core/trial/rivals';
import { RaceHud } from './RaceHud.tsx';

afterEach(cleanup);

const ride = (change: Partial<ShownRide> = {}): ShownRide =>
  ({ id: 'o1', speed: 10, heading: 0, wind: { from: 0, speed: 7.4 }, down: false, crashes: 0, ...change }) as ShownRide;
const race = (change: Partial<RaceState> = {}): RaceState =>
  ({
    time: 75.25,
    passed: 2,
    stops: 5,
    lap: 1,
    laps: 1,
    next: ['o3', 'o9'],
    splits: [{ id: 'o2', at: 61.5 }],
    finished: false,
    ...change,
  }) as RaceState;
const names: Record<string, string> = { o2: 'gate_2', o3: 'gate_3', o9: 'side' };

describe('what is shown over a race', () => {
  const show = (
    change: { ride?: Partial<ShownRide>; race?: Partial<RaceState> | null; best?: number | null; driven?: boolean; standings?: Standing[] } = {},
  ) => {
    const asked: boolean[] = [];
    render(
      <RaceHud
        ride={ride(change.ride)}
        race={change.race === null ? null : race(change.race)}
        standings={change.standings ?? []}
        nameOf={(id) => names[id] ?? id}
        best={change.best ?? null}
        driven={change.driven ?? false}
        onDrive={(on) => asked.push(on)}
      />,
    );
    return asked;
  };

  it('speed in km/h, wind, time, what comes next with its branch, the last split and the best run', () => {
    show({ best: 170.04 });
    const text = screen.getByTestId('race-hud').textContent;
    for (const part of ['36 km/h', '7 m/s', '1:15.3', 'next gate_3 or side', '2 of 5', 'gate_2 1:01.5', 'best 2:50.0']) expect(text).toContain(part);
    expect(text).not.toContain('lap');
  });

  it('laps where there are several, and the end', () => {
    show({ race: { laps: 3, lap: 2, finished: true } });
    expect(screen.getByTestId('race-hud').textContent).toContain('finished · 2 of 5 · lap 2 of 3');
    expect(screen.queryByRole('button')).toBeNull();
  });

  it('hands over to the driver and back', async () => {
    const asked = show();
    await userEvent.setup().click(screen.getByRole('button', { name: 'Let it ride' }));
    cleanup();
    const back = show({ driven: true });
    await userEvent.setup().click(screen.getByRole('button', { name: 'Ride myself' }));
    expect([asked, back]).toEqual([[true], [false]]);
  });

  it('who is where, where others race', () => {
    const one = { lap: 1, passed: 2 };
    show({
      standings: [
        { ...one, name: 'Runa Skog', own: false, time: 61 },
        { ...one, name: 'You', own: true, time: null },
      ],
    });
    expect(screen.getAllByRole('listitem').map(({ textContent }) => textContent.trim())).toEqual(['Runa Skog 1:01.0', 'You']);
  });

  it('says that one was thrown over, and shows no race where there is none', () => {
    show({ ride: { down: true }, race: null });
    expect(screen.getByText('Thrown over')).toBeTruthy();
    expect(screen.queryByText(/next/)).toBeNull();
  });
});

describe('ghosts', () => {
  beforeEach(() => localStorage.clear());
  const run = (seconds: number) => ({ seconds, track: [0, 0, 0, 3, 2, 4, 6, -3] });

  it('are the three best runs, told by their rank', () => {
    expect([200, 180, 190].map((s) => keepGhost('c1', 'ridge', run(s)))).toEqual([1, 1, 2]);
    expect(keepGhost('c1', 'ridge', run(300))).toBeNull();
    expect(keepGhost('c1', 'ridge', run(170))).toBe(1);
    expect(loadGhosts('c1', 'ridge').map(({ seconds }) => seconds)).toEqual([170, 180, 190]);
    expect(loadGhosts('c1', 'other')).toEqual([]);
  });

  it('go from place to place, and turn the shorter way', () => {
    const half = ghostAt(run(9), EVERY / 2)!;
    expect(half.at).toEqual([1, 2, 3]);
    // From 3 to −3 radians is a short way over π.
    expect(Math.cos(half.heading)).toBeCloseTo(-1, 3);
    expect(ghostAt(run(9), EVERY)).toBeNull();
  });

  it('that are damaged in the browser are left out', () => {
    localStorage.setItem('violet-crate-ghosts/c1/ridge', '{');
    expect(loadGhosts('c1', 'ridge')).toEqual([]);
    localStorage.setItem('violet-crate-ghosts/c1/ridge', JSON.stringify([{ seconds: 9, track: [0, 'x'] }, run(8)]));
    expect(loadGhosts('c1', 'ridge')).toEqual([run(8)]);
  });
});
