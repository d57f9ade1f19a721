import type { IncomingMessage } from 'node:http';
import { WebSocketGateway, type OnGatewayConnection } from '@nestjs/websockets';
import { foreign } from '@violet-crate/host/sameOrigin';
import type { WebSocket } from 'ws';
import { Problem } from '../http/problem.ts';
import { TogetherService, type Guest } from './together.service.ts';
import { readWish } from './wish.ts';

/** Bytes of one message, and messages of one window within a second. */
const MESSAGE = 1024;
const RATE = 240;
/** Bytes that may wait to be read by a window: who never reads would fill the server's memory. What it missed it gets by coming in again. */
const MOST_WAITING = 4 << 20;
/** Milliseconds between two questions whether a window is still there. */
const HEARTBEAT = 10_000;
/** Windows of one address, in all runs together. */
const MOST_WINDOWS = 32;
/** Codes with which a socket is closed (RFC 6455, 7.4.1): against our rules; and one of ours, with the sentence as its reason. */
const POLICY = 1008;
const REFUSED = 4000;

/** Windows of shared runs: `/api/together?run=ID`. */
@WebSocketGateway({ path: '/api/together', maxPayload: MESSAGE })
export class TogetherGateway implements OnGatewayConnection {
  /** Open windows by address. */
  private readonly open = new Map<string, number>();

  constructor(private readonly together: TogetherService) {}

  handleConnection(socket: WebSocket, request: IncomingMessage): void {
    const stranger = foreign(request);
    if (stranger) return socket.close(POLICY, stranger);
    const run = new URL(request.url ?? '', 'http://local').searchParams.get('run') ?? '';
    const address = request.socket.remoteAddress ?? '';
    const windows = this.open.get(address) ?? 0;
    if (windows >= MOST_WINDOWS) return socket.close(POLICY, `At most ${MOST_WINDOWS} windows of one machine play at a time.`);
    this.open.set(address, windows + 1);
    const guest: Guest = {
      tell: (news) => {
        if (socket.bufferedAmount > MOST_WAITING) return socket.terminate();
        if (socket.readyState === socket.OPEN) socket.send(JSON.stringify(news));
        if (news.type === 'over') socket.close(1000);
      },
    };
    let messages = 0;
    let there = true;
    const second = setInterval(() => (messages = 0), 1000);
    const heart = setInterval(() => {
      if (!there) return socket.terminate();
      there = false;
      socket.ping();
    }, HEARTBEAT);
    socket.on('pong', () => (there = true));
    let left = false;
    const leave = () => {
      if (left) return;
      left = true;
      clearInterval(second);
      clearInterval(heart);
      const others = this.open.get(address)! - 1;
      if (others === 0) this.open.delete(address);
      else this.open.set(address, others);
      this.together.leave(run, guest);
    };
    socket.on('close', leave);
    socket.on('error', () => socket.terminate());
    socket.on('message', (data: Buffer) => {
      const wish = ++messages > RATE ? null : readWish(data.toString());
      if (wish) this.together.wish(run, guest, wish);
      else if (messages > RATE) socket.close(POLICY, 'Too many messages.');
    });
    try {
      this.together.join(run, guest);
      // One that was cut before anybody listened says so no more.
      if (socket.readyState > socket.OPEN) leave();
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      socket.close(REFUSED, error.message);
    }
  }
}
