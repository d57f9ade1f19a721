import type { IncomingMessage, ServerResponse } from 'node:http';

const LOCAL = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** The host name of a Host header, without its port. */
const hostName = (host: string): string => host.replace(/:\d+$/, '');

/**
 * Our servers are for the browser on this machine. A foreign Host header (DNS rebinding) and requests that
 * another site's page sends (a foreign Origin) are refused.
 */
export function sameOrigin(request: IncomingMessage, response: ServerResponse, next: () => void): void {
  const detail = foreign(request);
  if (!detail) return next();
  response.writeHead(403, { 'content-type': 'application/problem+json' });
  response.end(JSON.stringify({ type: 'about:blank', title: 'Forbidden', status: 403, detail, code: 'foreign-origin' }));
}

/** Why a request, or a socket that it opens, is none of ours; null where it is. */
export function foreign({ headers: { host = '', origin } }: IncomingMessage): string | null {
  if (!LOCAL.has(hostName(host))) return `Host "${host}" is not this machine.`;
  return origin !== undefined && origin !== `http://${host}` ? `Requests from "${origin}" are not taken.` : null;
}
