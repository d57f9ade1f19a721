/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { beforeAll, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { refreshFiles } from '../state/crateSlice.ts';
import { scriptDropped, scriptTyped } from '../state/scriptsSlice.ts';
import { store } from '../state/store.ts';
import { openWorld } from '../testing/render.tsx';
import { Refusal, serve, type Sent } from '../testing/server.ts';
import { keepScriptsSaved, saveScripts } from './savingScripts.ts';

const MAIN = 'scripts/main.lua';
const state = () => store.getState().scripts;
const crateId = () => store.getState().crate.view!.id;
const type = (source: string, path = MAIN) => store.dispatch(scriptTyped({ crateId: crateId(), path, source }));
const wait = (milliseconds: number) => jest.advanceTimersByTimeAsync(milliseconds);
const sources = (sent: Sent[]) =>
  sent.flatMap(({ method, path, body }) => (method === 'PUT' ? [[path.split('/').at(-1), (body as { source: string }).source]] : []));

beforeAll(() => {
  jest.useFakeTimers();
  keepScriptsSaved();
});

beforeEach(async () => {
  serve({ 'PUT ': {} });
  await wait(10_000);
  openWorld();
  expect(state()).toEqual({ unsaved: [], trouble: '' });
});

describe('scripts', () => {
  it('are shown at once and sent a moment after the last key', async () => {
    const sent = serve({ 'PUT ': {} });
    type('a');
    await wait(400);
    type('ab');
    expect(store.getState().crate.scripts[MAIN]).toBe('ab');
    await wait(400);
    expect(sources(sent)).toEqual([]);
    await wait(400);
    expect(sources(sent)).toEqual([['main.lua', 'ab']]);
    expect(state().unsaved).toEqual([]);
  });

  it('two that are typed on one after the other are both sent', async () => {
    const sent = serve({ 'PUT ': {} });
    type('first');
    type('second', 'scripts/locks.lua');
    await wait(1000);
    expect(sources(sent)).toEqual([
      ['main.lua', 'first'],
      ['locks.lua', 'second'],
    ]);
  });

  it('what is typed while it is being sent is sent as well', async () => {
    let answer = () => {};
    const sent: string[] = [];
    globalThis.fetch = (_input, init) => {
      if (init?.method !== 'PUT') return Promise.resolve(new Response('[]'));
      sent.push((JSON.parse(init.body as string) as { source: string }).source);
      return new Promise((done) => (answer = () => done(new Response('{}'))));
    };
    type('one');
    await wait(700);
    type('two');
    answer();
    await wait(700);
    expect(sent).toEqual(['one', 'two']);
    expect(state().unsaved).toHaveLength(1);
    answer();
    await wait(1);
    expect(state().unsaved).toEqual([]);
  });

  it('are kept and tried again while the server is away', async () => {
    let away = true;
    const sent = serve({ 'PUT ': () => (away ? new Refusal(503, 'The server is starting.') : {}) });
    type('kept');
    await wait(700);
    expect(state()).toMatchObject({ trouble: 'The server is starting.', unsaved: [{ source: 'kept' }] });
    away = false;
    await wait(2500);
    expect(sources(sent).at(-1)).toEqual(['main.lua', 'kept']);
    expect(state()).toEqual({ unsaved: [], trouble: '' });
  });

  it('one that is refused does not hold up the others, and is not sent again by itself', async () => {
    const sent = serve({ 'PUT ': {}, [`PUT /api/crates/${crateId()}/scripts/main.lua`]: new Refusal(413, 'It is larger than 1 MiB.') });
    type('huge');
    type('fine', 'scripts/locks.lua');
    await wait(5000);
    expect(sources(sent)).toEqual([
      ['main.lua', 'huge'],
      ['locks.lua', 'fine'],
    ]);
    expect(state().unsaved.map(({ path }) => path)).toEqual([MAIN]);
    store.dispatch(scriptDropped({ crateId: crateId(), path: MAIN }));
    expect(state().unsaved).toEqual([]);
  });

  it('of a crate that is gone are let go', async () => {
    serve({ 'PUT ': new Refusal(404, 'There is no such crate.') });
    type('for nobody');
    await wait(700);
    expect(state().unsaved).toEqual([]);
  });

  it('are not replaced by older ones that arrive meanwhile', async () => {
    const { view, scripts } = store.getState().crate;
    const file = { path: MAIN, bytes: 3, sha256: 'a'.repeat(64), findings: [] };
    globalThis.fetch = (input) =>
      Promise.resolve(new Response((input as string).endsWith('.lua') ? 'old' : JSON.stringify({ ...view, files: [file] })));
    expect(scripts[MAIN]).not.toBe('new');
    type('new');
    const reading = store.dispatch(refreshFiles(crateId()));
    await saveScripts();
    await reading;
    expect(store.getState().crate.scripts[MAIN]).toBe('new');
  });

  it('asked to, are sent at once', async () => {
    const sent = serve({ 'PUT ': {} });
    type('now');
    await saveScripts();
    expect(sources(sent)).toEqual([['main.lua', 'now']]);
    await wait(2000);
    expect(sources(sent)).toHaveLength(1);
  });
});
