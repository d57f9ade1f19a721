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
/** Codes with which a socket is closed (RFC 6455, 7.4.1): against our rules; and one of ours, with the sentence as its reason. */
const POLICY = 1008;
const REFUSED = 4000;

/** Windows of shared runs: `/api/together?run=ID`. */
@WebSocketGateway({ path: '/api/together', maxPayload: MESSAGE })
export class TogetherGateway implements OnGatewayConnection {
  constructor(private readonly together: TogetherService) {}

  handleConnection(socket: WebSocket, request: IncomingMessage): void {
    const stranger = foreign(request);
    if (stranger) return socket.close(POLICY, stranger);
    const run = new URL(request.url ?? '', 'http://local').searchParams.get('run') ?? '';
    const guest: Guest = {
      tell: (news) => {
        if (socket.readyState === socket.OPEN) socket.send(JSON.stringify(news));
        if (news.type === 'over') socket.close(1000);
      },
    };
    let messages = 0;
    const second = setInterval(() => (messages = 0), 1000);
    socket.on('close', () => {
      clearInterval(second);
      this.together.leave(run, guest);
    });
    socket.on('error', () => socket.terminate());
    socket.on('message', (data: Buffer) => {
      const wish = ++messages > RATE ? null : readWish(data.toString());
      if (wish) this.together.wish(run, guest, wish);
      else if (messages > RATE) socket.close(POLICY, 'Too many messages.');
    });
    try {
      this.together.join(run, guest);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      socket.close(REFUSED, error.message);
    }
  }
}
