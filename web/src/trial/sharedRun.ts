/** A run on the server that several windows play in, held like one of the page's own. */

import type { ShownPlayer, TrialNews, TrialOrder, TrialState } from '@violet-crate/core/trial/apart';
import type { Finding } from '@violet-crate/core/finding';
import { sendJson } from '../api/http.ts';
import type { StartWorker } from './trialRun.ts';

type SharedNews =
  { type: 'welcome'; player: number; build: string; map: string } | { type: 'state'; state: TrialState } | { type: 'over'; finding: Finding | null };

/** A run on the server, and the build that it shows. */
export interface SharedRun {
  run: string;
  build: string;
}

export const startShared = (crateId: string, map: string): Promise<SharedRun> => sendJson('POST', `/api/crates/${crateId}/together`, { map });

/** Where the socket of a run is. */
export const sharedAddress = (run: string): string =>
  `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/api/together?run=${encodeURIComponent(run)}`;

/** The server's run in place of a worker: what the player wants goes there, and states come back, seen from this player. */
export const sharedWorker =
  (run: string, open: (address: string) => WebSocket = (address) => new WebSocket(address)): StartWorker =>
  (hear, died) => {
    const socket = open(sharedAddress(run));
    let player = 0;
    socket.onmessage = ({ data }: MessageEvent<string>) => {
      const news = JSON.parse(data) as SharedNews;
      if (news.type === 'welcome') player = news.player;
      else if (news.type === 'over') died(news.finding?.message ?? 'it was ended by whoever began it');
      else hear(seenBy(player, news.state));
    };
    // The reason is a sentence of the server's where it refused.
    socket.onclose = ({ reason }) => died(reason || 'the connection to the run was lost');
    return {
      records: false,
      post(order) {
        const wish = wishOf(order);
        if (wish && socket.readyState === socket.OPEN) socket.send(JSON.stringify(wish));
      },
      end() {
        socket.onclose = null;
        socket.close();
      },
    };
  };

/** What is asked of the server; null for what only a run of one's own can do. */
export function wishOf(order: TrialOrder): object | null {
  if (order.type === 'advance') {
    const last = order.intents.at(-1);
    return last ? { type: 'want', intent: { ...last, jump: order.intents.some(({ jump }) => jump), look: last.look ?? order.look } } : null;
  }
  if (order.type === 'operate' || order.type === 'fling') return { type: order.type, look: order.look };
  if (order.type === 'answer') return { type: 'answer', choice: order.choice };
  return order.type === 'glide' ? { type: 'glide' } : null;
}

/** A state as one of its players sees it. */
export function seenBy(index: number, state: TrialState): TrialNews {
  const me = state.players.find((player) => player.index === index);
  if (!me) return { type: 'state', state };
  const { feet, eye, velocity, flying, ground, offer, health } = me;
  const full = state.health?.full;
  return {
    type: 'state',
    state: {
      ...state,
      players: state.players.filter((player) => player.index !== index),
      feet,
      eye,
      velocity,
      flying,
      ground,
      offer,
      health: health === null || full === undefined ? null : { now: health, full },
    },
  };
}

/** How others are called: the one whose run it is has no name. */
export const nameOfPlayer = ({ name, index }: Pick<ShownPlayer, 'name' | 'index'>): string => name || (index === 0 ? 'Host' : `Guest ${index + 1}`);
