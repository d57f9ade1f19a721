import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import sirv from 'sirv';

/** Files whose name carries a hash of their content never change. */
const HASHED = /\/assets\/.*-[\w-]{8}\.\w+$/;

/** The worker that unpacks textures makes functions from texts. It may, and nothing else; it fetches nothing. */
const TRANSCODER = '/basis/worker.js';
const MAKES_FUNCTIONS = "default-src 'none'; script-src 'self' 'unsafe-eval' 'wasm-unsafe-eval'";

/** Serves the built web application, compressed as it was when it was built. Every other address is its index page; its router takes over. */
export function webPages(folder: string): RequestHandler[] {
  const index = join(folder, 'index.html');
  if (!existsSync(index)) return [];
  const files = sirv(folder, {
    brotli: true,
    gzip: true,
    etag: true,
    setHeaders(response, path) {
      if (path === TRANSCODER) response.setHeader('content-security-policy', MAKES_FUNCTIONS);
      const pages = path === '/' || path.endsWith('.html');
      response.setHeader('cache-control', pages ? 'no-cache' : HASHED.test(path) ? 'public, max-age=31536000, immutable' : 'public, max-age=3600');
    },
  });
  const page = (request: Request, response: Response, next: NextFunction) => {
    if (request.method === 'GET' && !request.path.startsWith('/api') && request.accepts('html'))
      response.setHeader('cache-control', 'no-cache').sendFile(index);
    else next();
  };
  return [files, page];
}
