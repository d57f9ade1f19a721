import type { IncomingMessage, ServerResponse } from 'node:http';

const LOCAL = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** The host name of a Host header, without its port. */
const hostName = (host: string): string => host.replace(/:\d+$/, '');

/**
 * Our servers are for the browser on this machine. A foreign Host header (DNS rebinding) and requests that
 * another site's page sends (a foreign Origin) are refused.
 */
export function sameOrigin(request: IncomingMessage, response: ServerResponse, next: () => void): void {
  const host = request.headers.host ?? '';
  const { origin } = request.headers;
  const refuse = (detail: string) => {
    response.writeHead(403, { 'content-type': 'application/problem+json' });
    response.end(JSON.stringify({ type: 'about:blank', title: 'Forbidden', status: 403, detail, code: 'foreign-origin' }));
  };
  if (!LOCAL.has(hostName(host))) return refuse(`Host "${host}" is not this machine.`);
  if (origin !== undefined && origin !== `http://${host}`) return refuse(`Requests from "${origin}" are not taken.`);
  next();
}
