/** The workshop as somebody meets it who wants what is others': tokens, uploads, mail, sign-in, and where credentials go. */
import assert from 'node:assert/strict';
import { createServer } from 'node:http';
import { URLSearchParams } from 'node:url';
import { dataFolder, freePort, Server, sleep } from './target.mjs';

export async function attack(attempt, { short }) {
  const data = await dataFolder();
  const shop = await Server.workshop(data);
  const server = await Server.start(data);
  const form = (path, fields, headers = {}) =>
    fetch(shop.url + path, { method: 'POST', body: new URLSearchParams(fields), headers: { origin: shop.url, ...headers }, redirect: 'manual' });
  const person = async (name) => {
    const answer = await form('/sign-up', { name, mail: `${name}@mail.example`, password: 'a tide of lamps' });
    return answer.headers.get('set-cookie').split(';')[0];
  };
  const [ann, bob] = [await person('annmoor'), await person('bobmoor')];
  const token = async (cookie, scopes) => {
    const fields = [['name', 'x'], ...scopes.map((scope) => ['scopes', scope])];
    return /<code>(qw_[^<]+)</.exec(await (await form('/tokens', fields, { cookie })).text())[1];
  };
  const reading = await token(ann, ['read']);
  const bearer = (value) => ({ authorization: `Bearer ${value}` });

  await attempt('a token for reading makes no other one', async () => {
    const { status } = await form('/tokens', { name: 'y', scopes: 'manage' }, bearer(reading));
    assert.equal(status, 403);
  });
  for (const [path, method] of [
    ['/account', 'GET'],
    ['/mailbox', 'GET'],
    ['/terms', 'POST'],
    ['/organisations', 'POST'],
    ['/mods/x/comments', 'POST'],
    ['/moderation', 'GET'],
    ['/api/entrance', 'POST'],
    ['/api/uploads', 'POST'],
    ['/api/mods/x/visibility', 'POST'],
    ['/api/mods/x/rollback', 'POST'],
  ])
    await attempt(`a token for reading at ${method} ${path}`, async () => {
      const { status } = await fetch(shop.url + path, { method, headers: { ...bearer(reading), origin: shop.url }, redirect: 'manual' });
      assert.equal(status, 403);
    });
  await attempt('the mailbox shows nobody else’s links', async () => {
    assert.ok(!(await (await fetch(`${shop.url}/mailbox`)).text()).includes('/confirm/'));
    const mine = await (await fetch(`${shop.url}/mailbox`, { headers: { cookie: ann } })).text();
    assert.ok(mine.includes('/confirm/') && !mine.includes('bobmoor@'));
  });
  await attempt('spellings of a name are one account for guessing', async () => {
    const tries = await Promise.all(
      Array.from({ length: 30 }, (_, i) => form('/sign-in', { name: `${' '.repeat(i)}BobMoor`, password: `guess number ${i}` })),
    );
    assert.ok(tries.filter(({ status }) => status === 401).length <= 8);
  });
  await attempt('many who sign in do not keep others waiting', async () => {
    const guesses = Array.from({ length: short ? 30 : 60 }, (_, i) =>
      form('/sign-in', { name: `nobody${i}`, password: `guess number ${i}` }).catch(() => {}),
    );
    const begun = Date.now();
    assert.equal((await fetch(`${shop.url}/site.css`)).status, 200);
    assert.ok(Date.now() - begun < 3000, `${Date.now() - begun} ms`);
    await Promise.all(guesses);
  });
  const tus = (value, more) => ({ ...bearer(value), 'tus-resumable': '1.0.0', ...more });
  const publishing = await token(ann, ['publish']);
  const other = await token(bob, ['publish']);
  await attempt('uploads of others, by any spelling of their address', async () => {
    const made = await fetch(`${shop.url}/api/uploads`, { method: 'POST', headers: tus(publishing, { 'upload-length': '10' }) });
    const id = made.headers.get('location').split('/').pop();
    for (const spelling of [id, `%${id.charCodeAt(0).toString(16)}${id.slice(1)}`, `${id}/`, `x/${id}`])
      for (const method of ['HEAD', 'PATCH', 'DELETE']) {
        const headers = tus(other, { 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' });
        const { status } = await fetch(`${shop.url}/api/uploads/${spelling}`, { method, headers, ...(method === 'PATCH' ? { body: 'x' } : {}) });
        assert.ok(status === 404 || status === 405, `${method} ${spelling}: ${status}`);
      }
  });
  await attempt('300 uploads of 1 GiB are announced', async () => {
    let open = 0;
    for (let i = 0; i < (short ? 20 : 300); i++)
      open += (await fetch(`${shop.url}/api/uploads`, { method: 'POST', headers: tus(other, { 'upload-length': String(2 ** 30) }) })).status === 201;
    assert.ok(open <= 8, `${open} are open`);
  });

  const heard = [];
  const listening = createServer((request, response) => {
    heard.push(request.headers.authorization);
    response.writeHead(404, { 'content-type': 'application/json' }).end('{}');
  });
  const port = await freePort();
  await new Promise((done) => listening.listen(port, '127.0.0.1', done));
  await attempt('the workshop’s token goes to no other address', async () => {
    await server.json('/api/settings', { method: 'PUT', body: { workshopUrl: shop.url, workshopToken: 'secret-token' } });
    assert.ok(!JSON.stringify(await server.json('/api/settings')).includes('secret-token'));
    await server.json('/api/settings', { method: 'PUT', body: { workshopUrl: `http://127.0.0.1:${port}` } });
    assert.equal((await server.json('/api/settings')).hasToken, false);
    await server.request('/api/games/brinewick/mods/install', { method: 'POST', body: { shareCode: 'AAAA-BBBB' } });
    await server.request('/api/games/brinewick/mods/browse');
    await server.request('/api/workshop/releases/AAAA-BBBB/thumbnail');
    await sleep(200);
    assert.ok(heard.length > 0);
    assert.deepEqual(
      heard.filter((one) => one !== undefined),
      [],
    );
    await server.json('/api/settings', { method: 'PUT', body: { workshopUrl: shop.url } });
    assert.equal((await server.json('/api/settings')).hasToken, true);
  });
  listening.closeAllConnections();
  listening.close();
  await server.stop();
  await shop.stop();
}
