import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from '@jest/globals';
import { sha256Hex } from '@violet-crate/core/hash';
import { fetchRelease, publishRelease, WORKSHOP_LIMITS } from './workshopClient.ts';

let server: Server | null = null;
afterEach(() => {
  server?.closeAllConnections();
  server?.close();
});

async function workshop(answer: RequestListener): Promise<string> {
  server = createServer(answer);
  await new Promise<void>((done) => server!.listen(0, '127.0.0.1', done));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

const content = new TextEncoder().encode('the package');
const release = (more: object = {}) => ({
  shareCode: 'AAAA-BBBB',
  name: 'x',
  title: 'X',
  description: '',
  version: '1.0.0',
  profile: 'brinewick',
  bytes: content.length,
  sha256: sha256Hex(content),
  publishedAt: '2026-01-01',
  key: '',
  notes: '',
  ...more,
});
/** Answers the release as a document, and its package by `give`. */
const shop =
  (give: RequestListener, more: object = {}): RequestListener =>
  (request, response) =>
    request.url!.endsWith('/package') ? give(request, response) : response.end(JSON.stringify(release(more)));

describe('a workshop', () => {
  it('hands out a package that is what it states', async () => {
    const url = await workshop(shop((_, response) => response.end(content)));
    expect((await fetchRelease(url, ' AAAA-BBBB ')).zip).toEqual(content);
  });

  it.each<[string, RequestListener, RegExp]>([
    ['a web page', (_, response) => response.end('<!doctype html>'), /answered with a web page/],
    ['an empty object', (_, response) => response.end('{}'), /a release whose shareCode is not right/],
    ['something else', (_, response) => response.end('{"shareCode":'), /no JSON/],
    ['a document without end', (_, response) => void response.write(' '.repeat(3 << 20)), /more than 1048576 bytes/],
    ['more than it states', shop((_, response) => void response.write('x'.repeat(100))), /longer than the 11 bytes/],
    ['less than it states', shop((_, response) => response.end('x')), /has 1 bytes instead of 11/],
    ['other content', shop((_, response) => response.end('the pa_kage')), /does not match its SHA-256/],
    ['more than anybody takes', shop(() => {}, { bytes: 2 ** 40 }), /at most \d+ are taken/],
    ['nothing any more', shop((_, response) => response.writeHead(200).write('x', () => response.destroy())), /broke off/],
    ['silence', shop((_, response) => response.writeHead(200).write('x')), /said nothing for/],
    ['a refusal', (_, response) => response.writeHead(404).end('{"detail":"There is none."}'), /refused share code AAAA-BBBB: There is none\./],
    ['a refusal in HTML', (_, response) => response.writeHead(502).end('<html>'), /status 502/],
  ])('that answers with %s ends in a sentence', async (_, answer, message) => {
    const url = await workshop(answer);
    await expect(fetchRelease(url, 'AAAA-BBBB', { ...WORKSHOP_LIMITS, silence: 400 })).rejects.toMatchObject({
      name: 'UnreadableInput',
      message: expect.stringMatching(message),
    });
  });

  it('is not asked for what is no share code, nor at what is no address', async () => {
    for (const code of ['', ' ', '../x', 'a'.repeat(41)]) await expect(fetchRelease('http://127.0.0.1:1', code)).rejects.toThrow(/no share code/);
    await expect(publishRelease('ftp://x', 't', content)).rejects.toThrow(/not a web address/);
    await expect(publishRelease('http://127.0.0.1:1', 't', content)).rejects.toThrow(/does not answer/);
  });
});
