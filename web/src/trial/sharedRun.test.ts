/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { describe, expect, it } from '@jest/globals';
import type { ShownPlayer, TrialNews, TrialState } from '@violet-crate/core/trial/apart';
import { STILL } from '@violet-crate/core/trial/move';
import { nameOfPlayer, seenBy, sharedAddress, sharedWorker, wishOf } from './sharedRun.ts';

const player = (index: number, change: Partial<ShownPlayer> = {}): ShownPlayer => ({
  index,
  name: index === 0 ? '' : 'Wren',
  feet: [index * 10, 0, 0],
  eye: [index * 10, 0, 48],
  look: [1, 0, 0],
  velocity: [index, 0, 0],
  flying: index > 0,
  crouching: false,
  health: 40,
  ground: { name: 'floor', surface: '' },
  offer: null,
  ...change,
});
const state = { players: [player(0), player(1)], feet: [0, 0, 0], health: { now: 100, full: 100 }, time: 3 } as unknown as TrialState;

describe('a run on the server', () => {
  it('is seen from this player; the others are left to be drawn', () => {
    const seen = seenBy(1, state) as Extract<TrialNews, { type: 'state' }>;
    expect(seen.state).toMatchObject({ feet: [10, 0, 0], eye: [10, 0, 48], flying: true, health: { now: 40, full: 100 }, time: 3 });
    expect(seen.state.players.map(({ index }) => index)).toEqual([0]);
    expect(seenBy(7, state)).toEqual({ type: 'state', state });
    expect([player(0), player(1)].map(nameOfPlayer)).toEqual(['Host', 'Wren']);
  });

  it('is asked for the last of the steps, with a jump that lay in any of them', () => {
    const jump = { ...STILL, jump: true };
    expect(wishOf({ type: 'advance', intents: [jump, STILL], look: [0, 1, 0] })).toEqual({
      type: 'want',
      intent: { ...STILL, jump: true, look: [0, 1, 0] },
    });
    expect(wishOf({ type: 'operate', look: [0, 1, 0], player: 3 })).toEqual({ type: 'operate', look: [0, 1, 0] });
    expect(wishOf({ type: 'evaluate', text: 'x' })).toBeNull();
  });

  it('ends with the sentence of the server, or says that it was lost', () => {
    const ends: string[] = [];
    const news: TrialNews[] = [];
    const socket = { readyState: 1, OPEN: 1, sent: [] as string[], send: (text: string) => void socket.sent.push(text), close: () => {} };
    const run = sharedWorker('a b', (address) => {
      expect(address).toBe(sharedAddress('a b'));
      expect(address).toContain('run=a%20b');
      return socket as never;
    })(
      (one) => news.push(one),
      (reason) => ends.push(reason),
    );
    const live = socket as unknown as WebSocket;
    const hear = (given: object) => live.onmessage!({ data: JSON.stringify(given) } as MessageEvent);
    hear({ type: 'welcome', player: 1, build: 'b', map: 'hall' });
    hear({ type: 'state', state });
    expect(news[0]).toMatchObject({ state: { feet: [10, 0, 0] } });
    run.post({ type: 'glide' });
    expect(socket.sent).toEqual(['{"type":"glide"}']);
    hear({ type: 'over', finding: { message: 'It is over.' } });
    live.onclose!({ reason: '' } as CloseEvent);
    expect(ends).toEqual(['It is over.', 'the connection to the run was lost']);
  });
});
