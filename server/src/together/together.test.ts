import { EventEmitter, once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals';
import { WebSocket } from 'ws';
import { startApplication, type TestApplication } from '../testing.ts';
import { TogetherGateway } from './together.gateway.ts';
import type { Guest, TogetherNews } from './together.service.ts';
import { readWish } from './wish.ts';

let t: TestApplication;
let id: string;
let port: number;

beforeAll(async () => {
  t = await startApplication();
  await t.app.listen(0, '127.0.0.1');
  port = (t.app.getHttpServer().address() as AddressInfo).port;
  id = await t.newCrate('hall');
  await t.build(id, 'hall');
});
afterAll(() => t.close());

interface Window {
  socket: WebSocket;
  news: TogetherNews[];
  until<K extends TogetherNews['type']>(
    type: K,
    wanted?: (news: Extract<TogetherNews, { type: K }>) => boolean,
  ): Promise<Extract<TogetherNews, { type: K }>>;
}
function open(run: string, headers: Record<string, string> = {}): Window {
  const socket = new WebSocket(`ws://127.0.0.1:${port}/api/together?run=${run}`, { headers });
  const news: TogetherNews[] = [];
  socket.on('message', (data: Buffer) => news.push(JSON.parse(data.toString()) as TogetherNews));
  return {
    socket,
    news,
    async until(type, wanted = () => true) {
      for (let i = 0; i < 400; i++) {
        const found = news.findLast((one) => one.type === type && wanted(one as never));
        if (found) return found as never;
        await new Promise((resolve) => setTimeout(resolve, 25));
      }
      throw new Error(`no ${type} came: ${JSON.stringify(news.at(-1))?.slice(0, 400)}`);
    },
  };
}
const begin = async () => ((await t.send('post', `/api/crates/${id}/together`, { map: 'hall' })).body as { run: string }).run;

describe('a run that several play', () => {
  it('seats the first and then guests, moves each by what its window wants, and lets them go', async () => {
    const run = await begin();
    const first = open(run);
    expect(await first.until('welcome')).toMatchObject({ player: 0, map: 'hall' });
    const guest = open(run);
    expect((await guest.until('welcome')).player).toBe(1);
    await guest.until('state', ({ state }) => state.objects.length > 0);
    expect((await t.get(`/api/crates/${id}/together`)).body).toEqual([{ run, build: `build-${id}-hall`, map: 'hall', players: 2 }]);
    const before = (await first.until('state', ({ state }) => state.players.length === 2)).state.players[1].feet;
    guest.socket.send(JSON.stringify({ type: 'want', intent: { move: [1, 0, 0], run: true, jump: false, look: [1, 0, 0] } }));
    const moved = await first.until('state', ({ state }) => (state.players[1]?.feet[0] ?? -1e9) > before[0] + 20);
    expect(moved.state.players[0].velocity).toEqual([0, 0, 0]);
    guest.socket.close();
    await first.until('state', ({ state }) => state.players.length === 0 && state.time > moved.state.time);
    first.socket.close();
  });

  it('has room for as many as the game has players', async () => {
    const run = await begin();
    const windows = Array.from({ length: 4 }, () => open(run));
    await Promise.all(windows.map((window) => window.until('welcome')));
    const [code, reason] = (await once(open(run).socket, 'close')) as [number, Buffer];
    expect([code, reason.toString()]).toEqual([4000, 'At most 4 play together in this game.']);
    for (const { socket } of windows) socket.close();
  });

  it('refuses what is no run, and windows of other pages', async () => {
    const nowhere = open('no-such');
    const [code, reason] = (await once(nowhere.socket, 'close')) as [number, Buffer];
    expect([code, reason.toString()]).toEqual([4000, 'There is no such run; it may be over.']);
    const stranger = open(await begin(), { origin: 'http://elsewhere.example' });
    const [policy] = (await once(stranger.socket, 'close')) as [number];
    expect(policy).toBe(1008);
    expect(stranger.news).toEqual([]);
  });

  it('takes no other than known wishes within their bounds', () => {
    expect(readWish('{"type":"operate","look":[1,0,0]}')).toEqual({ type: 'operate', look: [1, 0, 0] });
    for (const wrong of [
      '',
      'null',
      '[]',
      '{"type":"evaluate","text":"x"}',
      '{"type":"operate","look":[9,0,0]}',
      '{"type":"want","intent":{"move":[0,0]}}',
    ])
      expect([wrong, readWish(wrong)]).toEqual([wrong, null]);
    expect(readWish('{"type":"want","intent":{"move":[0,0,0],"look":[0,1,0],"jump":1}}')).toMatchObject({ intent: { jump: false, run: false } });
  });

  it('windows that are cut at once leave nobody behind', async () => {
    const run = await begin();
    const first = open(run);
    await first.until('welcome');
    for (let round = 0; round < 40; round++) {
      const { socket } = open(run);
      await once(socket, 'open').catch(() => {});
      socket.terminate();
    }
    await first.until('state', ({ state }) => state.players.length < 2);
    // What was on its way in when it was cut is out again, and there is room.
    const players = async () =>
      ((await t.get(`/api/crates/${id}/together`)).body as { run: string; players: number }[]).find((one) => one.run === run)!.players;
    for (let i = 0; i < 100 && (await players()) > 1; i++) await new Promise((resolve) => setTimeout(resolve, 50));
    expect(await players()).toBe(1);
    const guest = open(run);
    expect((await guest.until('welcome')).player).toBeGreaterThan(0);
    const seen = await first.until('state', ({ state }) => state.players.length === 2);
    expect(seen.state.players).toHaveLength(2);
    guest.socket.close();
    first.socket.close();
  });

  it('a window that never reads, or of which nothing is heard, is let go; and one machine has so many', () => {
    jest.useFakeTimers();
    try {
      let left = 0;
      let guest: Guest | undefined;
      const gateway = new TogetherGateway({ join: (_: string, one: Guest) => (guest = one), leave: () => left++ } as never);
      const request = { url: '/api/together?run=x', headers: { host: '127.0.0.1' }, socket: { remoteAddress: '127.0.0.1' } } as never;
      const window = () => {
        const did: string[] = [];
        const socket = Object.assign(new EventEmitter(), {
          OPEN: 1,
          readyState: 1,
          bufferedAmount: 0,
          ping: () => did.push('ping'),
          send: () => did.push('send'),
          close: (code: number) => did.push(`close ${code}`),
          terminate: () => (did.push('terminate'), socket.emit('close')),
        });
        gateway.handleConnection(socket as never, request);
        return { socket, did };
      };
      const slow = window();
      guest!.tell({ type: 'state', state: {} as never });
      slow.socket.bufferedAmount = 5 << 20;
      guest!.tell({ type: 'state', state: {} as never });
      expect([slow.did, left]).toEqual([['send', 'terminate'], 1]);
      const silent = window();
      jest.advanceTimersByTime(10_000);
      silent.socket.emit('pong');
      jest.advanceTimersByTime(20_000);
      expect([silent.did, left]).toEqual([['ping', 'ping', 'terminate'], 2]);
      const many = Array.from({ length: 33 }, window);
      expect(many.map(({ did }) => did.join())).toEqual([...Array<string>(32).fill(''), 'close 1008']);
    } finally {
      jest.useRealTimers();
    }
  });
});
