/** Who asks: by the cookie of a browser, or by the token of a program. */

import type { NextFunction, Request, Response } from 'express';
import { Refusal } from '../refusal.ts';
import type { Scope } from '../schema.ts';
import type { Account, AccountsService } from './accounts.service.ts';

export const COOKIE = 'quayside';

export interface Viewer {
  account: Account;
  /** All of them in a browser. */
  scopes: readonly Scope[] | 'all';
}

type Asked = Request & { viewer?: Viewer };

export const sessionOf = ({ headers }: { headers: { cookie?: string } }): string | undefined =>
  (headers.cookie ?? '')
    .split(';')
    .map((part) => part.trim().split('='))
    .find(([name]) => name === COOKIE)?.[1];

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

export function findViewer(service: AccountsService) {
  return (request: Asked, response: Response, next: NextFunction): void => {
    const { authorization, origin } = request.headers;
    const bearer = /^Bearer (\S{1,200})$/.exec(authorization ?? '')?.[1];
    if (authorization !== undefined) {
      request.viewer = bearer ? service.ofToken(bearer) : undefined;
      if (!request.viewer) {
        response
          .status(401)
          .type('application/problem+json')
          .send(JSON.stringify({ type: 'about:blank', title: 'Refused', status: 401, detail: 'The token is not right, or was revoked.' }));
        return;
      }
    } else {
      const session = sessionOf(request);
      const account = session ? service.ofSession(session) : undefined;
      // Browsers say from which page a form was sent; one that does not is not trusted with the cookie.
      if (account && (SAFE.has(request.method) || origin !== undefined)) request.viewer = { account, scopes: 'all' };
    }
    next();
  };
}

export const withoutViewer = (request: Request): void => void delete (request as Asked).viewer;

export const viewerOf = (request: Request): Viewer | null => (request as Asked).viewer ?? null;

/** @throws Refusal where nobody is signed in, or a token may not do that */
export function needViewer(request: Request, scope: Scope): Viewer {
  const viewer = viewerOf(request);
  if (!viewer) throw new Refusal(401, 'Sign in first.');
  if (viewer.scopes !== 'all' && !viewer.scopes.includes(scope)) throw new Refusal(403, `This token may not ${scope}.`);
  return viewer;
}

/** An address to slow down: everybody is on this machine, so that it is theirs. */
export const addressOf = (request: Request): string => request.socket.remoteAddress ?? '';
