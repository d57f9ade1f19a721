import { diffByIdentity } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Finding } from '@violet-crate/core/finding';
import { checked, checking, checksDied, sealed } from '../state/checksSlice.ts';
import { store } from '../state/store.ts';
import { selectWorld } from '../state/world.ts';

const CHECK_DELAY = 30;

/** Keeps findings and leaks up to date, each in a worker of its own. */
export function keepChecked(): void {
  follow<{ findings: Finding[]; milliseconds: number }>(
    'checks',
    () => new Worker(new URL('./checkWorker.ts', import.meta.url), { type: 'module' }),
    () => store.dispatch(checking()),
    (answer) => store.dispatch(checked(answer)),
  );
  follow<{ findings: Finding[] }>(
    'sealing',
    () => new Worker(new URL('./sealWorker.ts', import.meta.url), { type: 'module' }),
    () => {},
    ({ findings }) => store.dispatch(sealed(findings)),
  );
}

/**
 * Has a worker look at the crate after every change, one at a time; while it is at work, what changes meanwhile waits and
 * is looked at as it is then. The worker keeps the crate: after the first time it is sent only what changed.
 */
function follow<Answer>(what: string, start: () => Worker, onSend: () => void, onAnswer: (answer: Answer) => void): void {
  // Begun with the first crate: the list of crates has nothing to check.
  let worker: Worker | null = null;
  let busy = false;
  let dirty = false;
  /** Times that it has died since it answered last. */
  let deaths = 0;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let last: unknown[] = [];
  let sent: { rest: unknown[]; map: GameMap; name: string } | null = null;
  const begun = (): Worker => {
    const made = start();
    made.onmessage = (event: MessageEvent<Answer>) => {
      busy = false;
      deaths = 0;
      store.dispatch(checksDied({ what, died: false }));
      if (!dirty) onAnswer(event.data);
      else send();
    };
    // It met what it cannot handle, or took more memory than there is. It is begun again with the whole crate; one that
    // dies of that too would die for ever, and waits for the next change.
    made.onerror = (event) => {
      event.preventDefault();
      made.terminate();
      if (worker !== made) return;
      worker = sent = null;
      busy = false;
      if (deaths++ === 0) send();
      else store.dispatch(checksDied({ what, died: true }));
    };
    return made;
  };
  const send = () => {
    const state = store.getState();
    const world = selectWorld(state);
    if (!world) return;
    busy = true;
    dirty = false;
    onSend();
    const { map, name } = state.map;
    // What the world is made of beside the map; most of what the server says of a crate is no part of it.
    const { view, scripts, data, otherMaps, base, required } = state.crate;
    const rest = [view?.manifest, view?.files, scripts, data, otherMaps, base, required];
    const known = sent?.name === name && sent.rest.every((value, i) => value === rest[i]) ? sent.map : null;
    sent = { rest, map: map!, name };
    worker ??= begun();
    if (known) worker.postMessage({ mapName: name, edit: diffByIdentity(known, map!) });
    else worker.postMessage({ mapName: name, world });
  };
  store.subscribe(() => {
    const state = store.getState();
    const { view, scripts, data, otherMaps, base, required } = state.crate;
    const inputs = [state.map.map, view?.manifest, view?.files, scripts, data, otherMaps, base, required];
    if (inputs.every((value, i) => value === last[i])) return;
    last = inputs;
    dirty = true;
    clearTimeout(timer);
    timer = setTimeout(() => !busy && send(), CHECK_DELAY);
  });
}
