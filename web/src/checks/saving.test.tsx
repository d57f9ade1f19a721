/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { beforeAll, beforeEach, describe, expect, it, jest } from '@jest/globals';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { newObject } from '@violet-crate/core/profile/newObject';
import { testProfile } from '@violet-crate/core/testing/world';
import { edited, undone } from '../state/mapSlice.ts';
import { store } from '../state/store.ts';
import { openWorld } from '../testing/render.tsx';
import { flushEdits, keepSaved } from './saving.ts';

interface Sent {
  path: string;
  base: number;
  names: string[];
}
/** What the server was sent, and what it answers next; without an answer it counts on. */
let sent: Sent[] = [];
let answers: (() => Response | Promise<Response>)[] = [];

const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status });
const accepted = (base: number, count: number, others: MapEdit[] = []) => json({ revision: base + count, others: others.map((edit) => ({ edit })) });

const lamp = newObject(testProfile(), 'lamp', 'lamp_9', [0, 0, 64]);
const move = (x: number): MapEdit => ({ name: `move to ${x}`, changes: [{ of: 'objects', id: 'o9', to: { ...lamp, position: [x, 0, 64] } }] });
const wait = (milliseconds: number) => jest.advanceTimersByTimeAsync(milliseconds);
const map = () => store.getState().map;

beforeAll(() => {
  jest.useFakeTimers();
  globalThis.fetch = (input, init) => {
    const path = input as string;
    if (init?.method !== 'POST') return Promise.resolve(json([]));
    const { base, edits } = JSON.parse(init.body as string) as { base: number; edits: MapEdit[] };
    sent.push({ path, base, names: edits.map((edit) => edit.name) });
    return Promise.resolve(answers.shift()?.() ?? accepted(base, edits.length));
  };
  keepSaved();
});

beforeEach(async () => {
  await wait(5000);
  openWorld();
  sent = [];
  answers = [];
});

/** An edit whose answer is not there yet, and one behind it. Answers what lets the answer come. */
async function oneUnderWay(): Promise<(response: Response) => void> {
  let answer = (_: Response) => {};
  answers = [() => new Promise<Response>((resolve) => (answer = resolve))];
  store.dispatch(edited(move(1)));
  await wait(200);
  store.dispatch(edited(move(2)));
  return answer;
}

describe('saving', () => {
  it('what is done quickly goes as one batch, on the revision that it was made on', async () => {
    store.dispatch(edited(move(1)));
    store.dispatch(edited(move(2)));
    expect(sent).toEqual([]);
    await wait(200);
    store.dispatch(undone());
    await wait(200);
    const path = `/api/crates/${map().crateId}/maps/hall/edits`;
    expect(sent).toEqual([
      { path, base: 1, names: ['move to 1', 'move to 2'] },
      { path, base: 3, names: ['undo move to 2'] },
    ]);
    expect([map().unsaved, map().saveState, map().revision]).toEqual([[], 'saved', 4]);
  });

  it('what is not sent yet goes at once from a page that closes, and nothing goes twice', async () => {
    const answer = await oneUnderWay();
    flushEdits();
    expect(sent.map(({ base, names }) => [base, names])).toEqual([
      [1, ['move to 1']],
      [2, ['move to 2']],
    ]);
    answer(accepted(1, 1));
  });

  it('what is done while a batch is under way waits for its answer, so that the order is kept', async () => {
    const answer = await oneUnderWay();
    await wait(3000);
    expect(sent.map(({ names }) => names)).toEqual([['move to 1']]);
    answer(accepted(1, 1));
    await wait(1);
    expect(sent.map(({ base, names }) => [base, names])).toEqual([
      [1, ['move to 1']],
      [2, ['move to 2']],
    ]);
  });

  it('a server that is away is asked again until it is back, and nothing is lost', async () => {
    answers = [() => Promise.reject(new TypeError('connection refused')), () => json({ detail: 'The disk is full.', code: 'disk-full' }, 507)];
    store.dispatch(edited(move(1)));
    await wait(200);
    expect([map().saveState, map().unsaved.length]).toEqual(['retrying', 1]);
    store.dispatch(edited(move(2)));
    await wait(200);
    expect(map().saveState).toBe('retrying');
    await wait(2500);
    expect(sent.at(-1)!.names).toEqual(['move to 1', 'move to 2']);
    expect([map().saveState, map().unsaved.length, map().revision]).toEqual(['saved', 0, 3]);
  });

  it('more than a batch holds goes in several', async () => {
    for (let i = 0; i < 450; i++) store.dispatch(edited(move(i)));
    await wait(400);
    expect(sent.map(({ base, names }) => [base, names.length])).toEqual([
      [1, 200],
      [201, 200],
      [401, 50],
    ]);
  });

  it('what others did meanwhile is taken in beside it', async () => {
    const theirs: MapEdit = { name: 'rename', changes: [{ of: 'bands', id: 'b1', to: { name: 'Quay', bottom: 0, top: 128 } }] };
    answers = [() => accepted(1, 2, [theirs])];
    store.dispatch(edited(move(7)));
    await wait(200);
    expect(map().map!.bands.b1.name).toBe('Quay');
    expect(map().map!.objects.o9.position[0]).toBe(7);
    expect(map().foreign.name).toBe('rename');
  });

  it('a conflict stops saving, names what it is about, and keeps what was done', async () => {
    answers = [() => json({ detail: 'Others changed the same.', code: 'edit-conflict', conflicts: ['objects/o9'] }, 409)];
    store.dispatch(edited(move(1)));
    await wait(200);
    expect([map().saveState, map().conflicts, map().unsaved.length]).toEqual(['conflict', ['objects/o9'], 1]);
    store.dispatch(edited(move(2)));
    await wait(10_000);
    expect(sent).toHaveLength(1);
    expect(map().unsaved).toHaveLength(2);
    // Another crate is opened afterwards: its edits are saved as ever.
    openWorld();
    sent = [];
    store.dispatch(edited(move(3)));
    await wait(200);
    expect(sent.map(({ path, names }) => [path.split('/')[3], names])).toEqual([[map().crateId, ['move to 3']]]);
  });
});
