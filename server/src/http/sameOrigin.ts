import type { NextFunction, Request, Response } from 'express';

const LOCAL = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** The host name of a Host header, without its port. */
const hostName = (host: string): string => host.replace(/:\d+$/, '');

/**
 * The server is for the browser on this machine. A foreign Host header (DNS rebinding) and requests that
 * another site's page sends (a foreign Origin) are refused.
 */
export function sameOrigin(request: Request, response: Response, next: NextFunction): void {
  const host = request.headers.host ?? '';
  const { origin } = request.headers;
  const refuse = (detail: string) =>
    response
      .status(403)
      .type('application/problem+json')
      .send(JSON.stringify({ type: 'about:blank', title: 'Forbidden', status: 403, detail, code: 'foreign-origin' }));
  if (!LOCAL.has(hostName(host))) return void refuse(`Host "${host}" is not this machine.`);
  if (origin !== undefined && origin !== `http://${host}`) return void refuse(`Requests from "${origin}" are not taken.`);
  next();
}
