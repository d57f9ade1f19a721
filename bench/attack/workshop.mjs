/** Workshops that answer with what they should not. */
import assert from 'node:assert/strict';
import { createServer } from 'node:http';
import { freePort, crate, dataFolder, scratch, Server } from './target.mjs';
import { join } from 'node:path';

const release = (more = {}) => ({
  shareCode: 'AAAA-BBBB',
  name: 'x',
  title: 'X',
  description: '',
  version: '1.0.0',
  profile: 'brinewick',
  bytes: 100,
  sha256: '0'.repeat(64),
  publishedAt: '2026-01-01',
  key: '',
  notes: '',
  ...more,
});
const json = (response, value) => response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(value));
/** What an honest workshop says of a release and of its mod. */
const honest = (request, response, more) =>
  request.url.endsWith('/mod')
    ? json(response, { name: 'x', profile: 'brinewick', current: '1.0.0', versions: [{ ...release(more), withdrawnFor: '' }] })
    : json(response, release(more));
/** Writes for ever, or until the other side has had enough. */
function endless(response, piece) {
  let stopped = false;
  response.on('close', () => (stopped = true));
  const write = () => {
    while (!stopped) if (!response.write(piece)) return void response.once('drain', write);
  };
  write();
}

const ANSWERS = {
  'a web page': [
    (_, response) => response.writeHead(200, { 'content-type': 'text/html' }).end('<!doctype html><p>Hello'),
    /answered with a web page/,
  ],
  'an empty object': [(_, response) => json(response, {}), /a (release|mod) whose/],
  'a list': [(_, response) => json(response, []), /a (release|mod) whose/],
  'no JSON': [(_, response) => response.end('{"a":'), /no JSON/],
  'JSON without end': [(_, response) => endless(response, Buffer.alloc(1 << 16, 0x20)), /more than \d+ bytes/],
  'a package without end': [
    (request, response) => (request.url.endsWith('/package') ? endless(response, Buffer.alloc(1 << 16)) : honest(request, response, { bytes: 1000 })),
    /is longer than the 1000 bytes/,
  ],
  'a package of a terabyte': [(request, response) => honest(request, response, { bytes: 2 ** 40 }), /at most \d+ are taken/],
  'a package that is too short': [
    (request, response) => (request.url.endsWith('/package') ? response.end('short') : honest(request, response)),
    /has 5 bytes instead of 100/,
  ],
  'a package of other content': [
    (request, response) => (request.url.endsWith('/package') ? response.end(Buffer.alloc(100)) : honest(request, response)),
    /does not match its SHA-256/,
  ],
  'a connection that breaks off': [
    (request, response) => {
      if (!request.url.endsWith('/package')) return honest(request, response);
      response.writeHead(200, { 'content-length': 100 }).write('part');
      setTimeout(() => response.destroy(), 50);
    },
    /broke off/,
  ],
  'a refusal that is a web page': [(_, response) => response.writeHead(503).end('<html>'), /refused .*status 503/],
  'a refusal with a stack': [
    (_, response) => response.writeHead(500, { 'content-type': 'application/json' }).end(JSON.stringify({ detail: { a: 1 } })),
    /status 500/,
  ],
};

export async function attack(attempt, { short }) {
  const server = await Server.start(await dataFolder());
  let answer;
  const hostile = createServer((request, response) => answer(request, response));
  const port = await freePort();
  await new Promise((done) => hostile.listen(port, '127.0.0.1', done));
  const workshopUrl = `http://127.0.0.1:${port}`;
  await server.json('/api/settings', { method: 'PUT', body: { workshopUrl } });
  for (const [name, [respond, pattern]] of Object.entries(ANSWERS)) {
    answer = respond;
    await attempt(`${name}, to the server`, async () => {
      const before = await server.memory();
      const response = await server.request('/api/games/brinewick/mods/install', { method: 'POST', body: { shareCode: 'AAAA-BBBB' } });
      const { detail } = await response.json();
      assert.equal(response.status, 502);
      assert.match(detail, pattern);
      assert.ok((await server.memory()) - before < 200);
    });
    if (short && !/end|page/.test(name)) continue;
    await attempt(`${name}, to the command line`, async () => {
      const { code, err } = await crate(['install', 'AAAA-BBBB', '--workshop', workshopUrl, '--game', join(server.data, 'games/brinewick')]);
      assert.equal(code, 2);
      assert.match(err, pattern);
      assert.ok(!/\n\s+at /.test(err), err);
    });
  }
  await attempt('share codes that are none', async () => {
    for (const shareCode of ['', ' ', '../..', 'x'.repeat(50)])
      assert.equal((await server.request('/api/games/brinewick/mods/install', { method: 'POST', body: { shareCode } })).status, 400);
    const { code, err } = await crate(['install', '', '--workshop', workshopUrl, '--game', scratch]);
    assert.equal(code, 2);
    assert.match(err, /no share code/);
  });
  hostile.closeAllConnections();
  hostile.close();
  await attempt('nobody there', async () => {
    const response = await server.request('/api/games/brinewick/mods/install', { method: 'POST', body: { shareCode: 'AAAA-BBBB' } });
    assert.match((await response.json()).detail, /does not answer/);
  });
  await server.stop();
}
