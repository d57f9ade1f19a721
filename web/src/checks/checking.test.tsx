/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { beforeAll, beforeEach, describe, expect, it, jest } from '@jest/globals';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { newObject } from '@violet-crate/core/profile/newObject';
import { testProfile } from '@violet-crate/core/testing/world';
import { selectFindings } from '../state/findings.ts';
import { edited } from '../state/mapSlice.ts';
import { store } from '../state/store.ts';
import { openWorld } from '../testing/render.tsx';
import { keepChecked } from './checking.ts';

/** Workers in the order in which they were begun; each keeps what it was sent. */
const begun: StandIn[] = [];
class StandIn {
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: ((event: { preventDefault(): void }) => void) | null = null;
  sent: { world?: object; edit?: MapEdit }[] = [];
  ended = false;
  constructor(readonly url: URL) {
    begun.push(this);
  }
  postMessage(message: object) {
    this.sent.push(message);
  }
  terminate() {
    this.ended = true;
  }
  die() {
    this.onerror!({ preventDefault() {} });
  }
}
const checkers = () => begun.filter(({ url }) => url.pathname.endsWith('checkWorker.ts'));
const codes = () => selectFindings(store.getState()).map(({ code }) => code);
const move = (x: number): MapEdit => ({
  name: 'move',
  changes: [{ of: 'objects', id: 'o9', to: { ...newObject(testProfile(), 'lamp', 'lamp_9', [0, 0, 64]), position: [x, 0, 64] } }],
});
const change = async (x: number) => {
  store.dispatch(edited(move(x)));
  await jest.advanceTimersByTimeAsync(100);
};

beforeAll(() => {
  jest.useFakeTimers();
  globalThis.Worker = StandIn as unknown as typeof Worker;
  keepChecked();
});

describe('checking behind the page', () => {
  beforeEach(async () => {
    openWorld();
    await jest.advanceTimersByTimeAsync(100);
    checkers().at(-1)!.onmessage!({ data: { findings: [], milliseconds: 1 } });
  });

  it('sends what changed after the first time, and the whole crate to a worker that was begun anew', async () => {
    const first = checkers().at(-1)!;
    await change(1);
    expect(first.sent.at(-1)).toHaveProperty('edit.changes.0.id', 'o9');
    first.die();
    const second = checkers().at(-1)!;
    expect([first.ended, second === first]).toEqual([true, false]);
    expect(second.sent).toEqual([expect.objectContaining({ world: expect.anything() })]);
    second.onmessage!({ data: { findings: [], milliseconds: 1 } });
    expect(codes()).not.toContain('checks-died');
  });

  it('says so where it dies of the same crate twice, tries again after the next change, and takes it back', async () => {
    await change(2);
    checkers().at(-1)!.die();
    const count = checkers().length;
    checkers().at(-1)!.die();
    expect(checkers().length).toBe(count);
    expect(codes()).toContain('checks-died');
    expect(store.getState().checks.running).toBe(false);
    await change(3);
    expect(checkers().length).toBe(count + 1);
    checkers().at(-1)!.onmessage!({ data: { findings: [], milliseconds: 1 } });
    expect(codes()).not.toContain('checks-died');
  });
});
