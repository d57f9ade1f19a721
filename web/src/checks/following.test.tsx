/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { edited } from '../state/mapSlice.ts';
import { store } from '../state/store.ts';
import { job, openWorld } from '../testing/render.tsx';
import { followServer } from './following.ts';
import { TAB } from './tab.ts';

/** The stream of events, from the server's side. */
class Stream extends EventTarget {
  static open: Stream;
  onopen = () => {};
  onerror = () => {};
  constructor(readonly url: string) {
    super();
    Stream.open = this;
  }
  say(name: string, data: unknown) {
    this.dispatchEvent(new MessageEvent(name, { data: JSON.stringify(data) }));
  }
}

let asked: string[] = [];
let answers: Record<string, unknown> = {};
const settled = () => new Promise((done) => setTimeout(done, 20));
const map = () => store.getState().map;
const rename = (name: string): MapEdit => ({ name: `rename to ${name}`, changes: [{ of: 'bands', id: 'b1', to: { name, bottom: 0, top: 128 } }] });

beforeAll(() => {
  Object.assign(globalThis, { EventSource: Stream });
  globalThis.fetch = (input) => {
    const path = input as string;
    asked.push(path);
    const known = Object.keys(answers).find((part) => path.includes(part));
    return Promise.resolve(new Response(JSON.stringify(known ? answers[known] : []), { status: 200 }));
  };
  followServer();
});

beforeEach(() => {
  openWorld();
  asked = [];
  answers = {};
});

describe('following the server', () => {
  it('jobs are loaded whenever the stream opens, and its end is told', async () => {
    answers = { '/api/jobs': [job({ id: 'j7', state: 'interrupted' })] };
    Stream.open.onopen();
    await settled();
    expect(store.getState().jobs.connected).toBe(true);
    expect(store.getState().jobs.byId.j7.state).toBe('interrupted');
    Stream.open.onerror();
    expect(store.getState().jobs.connected).toBe(false);
  });

  it('edits of another page are fetched from the revision that is known, and shown', async () => {
    const { crateId } = map();
    answers = { '/edits?since=1': [{ revision: 2, edit: rename('Quay') }] };
    Stream.open.say('map', { crateId, map: 'hall', revision: 2, tab: 'another' });
    await settled();
    expect([map().map!.bands.b1.name, map().revision, map().unsaved]).toEqual(['Quay', 2, []]);
  });

  it('its own edits, those of other crates and maps are left alone; so is everything while something is unsaved', async () => {
    const { crateId } = map();
    Stream.open.say('map', { crateId, map: 'hall', revision: 2, tab: TAB });
    Stream.open.say('map', { crateId: 'another', map: 'hall', revision: 2, tab: 'another' });
    Stream.open.say('map', { crateId, map: 'attic', revision: 2, tab: 'another' });
    store.dispatch(edited(rename('Mine')));
    Stream.open.say('map', { crateId, map: 'hall', revision: 2, tab: 'another' });
    await settled();
    expect(asked.filter((path) => path.includes('/edits'))).toEqual([]);
    expect(map().map!.bands.b1.name).toBe('Mine');
  });

  it('a build that ends brings its result, and its picture goes only then', async () => {
    const crateId = map().crateId!;
    const running = job({ id: 'j8', crateId });
    Stream.open.say('job', running);
    Stream.open.say('picture', { jobId: 'j8', version: 1, width: 2, height: 2 });
    await settled();
    expect(store.getState().jobs.pictures.j8).toBeDefined();
    expect(asked).toEqual([]);
    Stream.open.say('job', { ...running, state: 'done', finishedAt: '2026-01-02T03:05:05.000Z' });
    expect(store.getState().jobs.pictures.j8).toBeDefined();
    await settled();
    expect(asked.some((path) => path.includes(`/api/crates/${crateId}/builds`))).toBe(true);
    expect(store.getState().jobs.pictures.j8).toBeUndefined();
  });

  it('jobs of other crates change the list of jobs and nothing else', async () => {
    Stream.open.say('job', job({ id: 'j9', crateId: 'another', state: 'done', finishedAt: '2026-01-02T03:05:05.000Z' }));
    await settled();
    expect(store.getState().jobs.byId.j9.state).toBe('done');
    expect(asked).toEqual([]);
  });
});
