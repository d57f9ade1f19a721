import { diffByIdentity } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Finding } from '@violet-crate/core/finding';
import type { LinkReport } from '@violet-crate/core/link/graph';
import { checked, checking } from '../state/checksSlice.ts';
import { store } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';

const CHECK_DELAY = 30;

/**
 * Checks in a worker, one at a time; while one runs, what changes meanwhile waits and is checked as it is then.
 * The worker keeps the crate: after the first time it is sent only what changed.
 */
export function keepChecked(): void {
  const worker = new Worker(new URL('./checkWorker.ts', import.meta.url), { type: 'module' });
  let busy = false;
  let dirty = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let last: unknown[] = [];
  let sent: { rest: unknown[]; map: GameMap; name: string } | null = null;
  const send = () => {
    const state = store.getState();
    const world = selectWorld(state);
    if (!world) return;
    busy = true;
    dirty = false;
    store.dispatch(checking());
    const { map, name } = state.map;
    const rest = [state.crate.view, state.crate.scripts, state.crate.base];
    const known = sent?.name === name && sent.rest.every((value, i) => value === rest[i]) ? sent.map : null;
    sent = { rest, map: map!, name };
    if (known) worker.postMessage({ mapName: name, edit: diffByIdentity(known, map!) });
    else worker.postMessage({ mapName: name, world });
  };
  worker.onmessage = (event: MessageEvent<{ findings: Finding[]; links: LinkReport[]; milliseconds: number }>) => {
    busy = false;
    if (!dirty) store.dispatch(checked(event.data));
    else send();
  };
  store.subscribe(() => {
    const state = store.getState();
    const inputs = [state.map.map, state.crate.view, state.crate.scripts, state.crate.base];
    if (inputs.every((value, i) => value === last[i])) return;
    last = inputs;
    dirty = true;
    clearTimeout(timer);
    timer = setTimeout(() => !busy && send(), CHECK_DELAY);
  });
}
