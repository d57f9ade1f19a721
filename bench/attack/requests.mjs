/** Requests that no page of ours sends. Every answer has to be a problem with a sentence, never a 500. */
import assert from 'node:assert/strict';
import { request } from 'node:http';
import { dataFolder, Server, sleep } from './target.mjs';

const ODD = [
  'constructor',
  '__proto__',
  'nothing',
  '%00',
  '%E0%A4%A',
  '..%2f..%2fetc',
  '-1',
  '1e400',
  '99999999999999999999',
  "' OR 1=1 --",
  'x'.repeat(3000),
];
const BODIES = [
  undefined,
  '',
  '{',
  'null',
  '[]',
  '"text"',
  '{"__proto__":{"polluted":true}}',
  '{"constructor":{"prototype":{}}}',
  '['.repeat(5000) + ']'.repeat(5000),
  '{"a":'.repeat(5000) + '1' + '}'.repeat(5000),
];

function raw(server, { host, path = '/api/crates', headers = {} }) {
  return new Promise((resolve, reject) => {
    const call = request({ host: '127.0.0.1', port: server.port, path, headers: { host, ...headers } }, (response) => {
      response.resume();
      response.on('end', () => resolve(response));
    });
    call.on('error', reject).end();
  });
}

export async function attack(attempt, { short }) {
  const data = await dataFolder();
  const server = await Server.start(data);
  const workshop = await Server.workshop(data);
  await server.json('/api/settings', { method: 'PUT', body: { workshopUrl: workshop.url, workshopToken: 'token' } });
  const crate = await server.newCrate('odd_requests');
  const check = (response, text) => {
    assert.ok(response.status < 500, `${response.status}: ${text.slice(0, 200)}`);
    if (response.status >= 400) {
      assert.match(response.headers.get('content-type') ?? '', /problem\+json/);
      const { detail } = JSON.parse(text);
      assert.ok(typeof detail === 'string' && !/\bat .*:\d+:\d+|undefined|SQLITE|ENOENT/.test(detail), detail);
    }
  };
  for (const one of [server, workshop])
    for (const host of ['evil.example', 'evil.example:80', '127.0.0.1.evil.example', 'localhost.evil.example']) {
      await attempt(`host "${host}"`, async () => {
        const { statusCode } = await raw(one, { host, path: '/' });
        assert.ok(statusCode === 403 || statusCode === 400, String(statusCode));
      });
    }
  for (const origin of ['http://evil.example', 'null', `http://127.0.0.1:1`, 'https://127.0.0.1'])
    await attempt(`origin ${origin}`, async () =>
      assert.equal((await raw(server, { host: `127.0.0.1:${server.port}`, headers: { origin } })).statusCode, 403),
    );
  for (const [name, one] of [
    ['application', server],
    ['workshop', workshop],
  ])
    await attempt(`headers of the ${name}`, async () => {
      const { headers } = await one.request('/');
      const policy = headers.get('content-security-policy');
      assert.match(policy, /frame-ancestors 'none'/);
      assert.ok(!/script-src[^;]*'unsafe-(inline|eval)'/.test(policy));
      assert.equal(headers.get('x-powered-by'), null);
      assert.equal(headers.get('x-content-type-options'), 'nosniff');
    });

  const { paths } = await server.json('/api/docs-json');
  const routes = Object.entries(paths).flatMap(([path, methods]) => Object.keys(methods).map((method) => ({ path, method })));
  const odd = short ? ODD.slice(0, 4) : ODD;
  const bodies = short ? BODIES.filter((_, i) => i % 3 === 0) : BODIES;
  for (const { path, method } of routes) {
    if (path.endsWith('/events')) continue;
    await attempt(`${method} ${path} with odd values`, async () => {
      for (const value of odd)
        for (const known of [true, false]) {
          const filled = path.replace(/\{(\w+)\}/g, (_, name) =>
            known && name === 'id' && path.startsWith('/api/crates') ? crate.id : known && name === 'map' ? 'odd_requests' : value,
          );
          if (known && !path.includes('{')) continue;
          // What is known must stay: nothing here may delete the crate itself.
          if (method === 'delete' && filled === `/api/crates/${crate.id}`) continue;
          const response = await server.request(`${filled}?since=${value}`, {
            method: method.toUpperCase(),
            ...(method === 'get' ? {} : { body: '{}' }),
          });
          check(response, await response.text());
        }
      if (method === 'get') return;
      const filled = path.replace(/\{(\w+)\}/g, (_, name) => (name === 'id' ? crate.id : 'odd_requests'));
      if (method === 'delete' && filled === `/api/crates/${crate.id}`) return;
      for (const body of bodies) {
        const response = await server.request(filled, { method: method.toUpperCase(), body, headers: { 'content-type': 'application/json' } });
        check(response, await response.text());
      }
    });
  }
  await attempt('multipart that is none', async () => {
    for (const [type, body] of [
      ['multipart/form-data', 'nothing'],
      ['multipart/form-data; boundary=x', '--x\r\nContent-Disposition: form-data; name="files"; filename="a.png"\r\n\r\ncut off'],
      ['multipart/form-data; boundary=x', '--x\r\nContent-Disposition: form-data; name="other"; filename="a.png"\r\n\r\nx\r\n--x--\r\n'],
      ['multipart/form-data; boundary=x', '--x\r\nContent-Disposition: form-data; name="files"; filename="../../a.png"\r\n\r\nx\r\n--x--\r\n'],
      ['text/plain', 'x'],
    ]) {
      const response = await fetch(`${server.url}/api/crates/${crate.id}/assets`, { method: 'POST', headers: { 'content-type': type }, body });
      assert.ok(response.status >= 400, `${type} was taken`);
      check(response, await response.text());
    }
  });
  await attempt('a request of 40 MB', async () => {
    const response = await server.request(`/api/crates/${crate.id}`, {
      method: 'PATCH',
      body: JSON.stringify({ description: 'x'.repeat(40 << 20) }),
    });
    const text = await response.text();
    assert.equal(response.status, 413);
    check(response, text);
  });
  await attempt('lengths and kinds that are too much', async () => {
    for (const body of [
      { authors: ['x'.repeat(5000)] },
      { authors: [7] },
      { title: 'x'.repeat(500) },
      { credits: [{ author: 'a', work: 'b', licence: 'c', more: 1 }] },
      { description: 'x'.repeat(10_000) },
      { version: '1' },
    ])
      assert.equal((await server.request(`/api/crates/${crate.id}`, { method: 'PATCH', body })).status, 400, JSON.stringify(body).slice(0, 60));
    const material = { name: 'moss', type: 'lit', colour: 'x'.repeat(1000), unitsPerRepeat: 64 };
    assert.equal((await server.request(`/api/crates/${crate.id}/materials/moss`, { method: 'PUT', body: { material } })).status, 422);
  });
  await attempt('an id like "constructor" stays in its map', async () => {
    const at = `/api/crates/${crate.id}/maps/odd_requests`;
    const { revision } = await server.json(at);
    const to = { class: 'lamp', name: 'odd_lamp', position: [0, 0, 64], turn: 0, properties: {} };
    await server.json(`${at}/edits`, {
      method: 'POST',
      body: { base: revision, edits: [{ name: 'x', changes: [{ of: 'objects', id: 'constructor', to }] }] },
    });
    assert.equal((await server.json(at)).map.objects.constructor.name, 'odd_lamp');
  });
  await attempt('a prefab that holds itself', async () => {
    const at = `/api/crates/${crate.id}/maps/odd_requests`;
    const { revision } = await server.json(at);
    const copy = { prefab: 'p1', name: 'inner', position: [0, 0, 0], turn: 0, values: {} };
    const to = { name: 'post', parameters: [], solids: {}, objects: {}, signals: {}, copies: { c1: copy, c2: { ...copy, name: 'other' } } };
    const response = await server.request(`${at}/edits`, {
      method: 'POST',
      body: { base: revision, edits: [{ name: 'x', changes: [{ of: 'prefabs', id: 'p1', to }] }] },
    });
    assert.equal(response.status, 422);
    assert.match((await response.json()).detail, /would hold itself/);
  });
  await attempt('the prototype of objects is clean, and the server is there', async () => {
    assert.equal({}.polluted, undefined);
    assert.ok(await server.pumphouse());
  });
  await attempt('deleting a crate in the middle of its jobs', async () => {
    for (let i = 0; i < (short ? 2 : 8); i++) {
      const doomed = await server.newCrate(`doomed_${i}`, 'example');
      const map = doomed.maps[0];
      const jobs = await Promise.all([
        server.json(`/api/crates/${doomed.id}/builds`, { method: 'POST', body: { map, quality: 'preview' } }),
        server.upload(doomed.id, [['a.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n']]).then((answer) => answer.jobs[0]),
      ]);
      // In the middle of a stage, when its worker speaks.
      while ((await server.json(`/api/jobs/${jobs[0].id}`)).step === '') await sleep(20);
      await sleep(i * 150);
      assert.equal((await server.request(`/api/crates/${doomed.id}`, { method: 'DELETE' })).status, 204);
      assert.equal((await server.request(`/api/crates/${doomed.id}`)).status, 404);
    }
    await sleep(1500);
    assert.ok(server.alive);
    assert.ok(await server.pumphouse());
  });
  await attempt('static files are compressed, and hashed ones kept', async () => {
    const page = await server.request('/', { headers: { 'accept-encoding': 'br' } });
    const script = /src="(\/assets\/[^"]+\.js)"/.exec(await page.text())?.[1];
    assert.ok(script, 'no script in the page');
    const response = await server.request(script, { headers: { 'accept-encoding': 'br' } });
    assert.equal(response.headers.get('content-encoding'), 'br');
    assert.match(response.headers.get('cache-control'), /immutable/);
    assert.match(page.headers.get('cache-control'), /no-cache/);
  });
  await server.stop();
  await workshop.stop();
}
