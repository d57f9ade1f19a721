import { numberOf, type Part } from './part.ts';

/** Steps are sixtieths of a second, which binary fractions only come near. */
const NEAR = 1e-9;

/** `left`: seconds until it fires. */
export const timer: Part<{ running: boolean; left: number }> = {
  id: 'timer',
  says: 'fires `elapsed` after its `seconds`, again and again with `repeat`; runs from the beginning where `running` is set',
  reads: ['seconds', 'repeat', 'running'],
  floats: true,
  hollow: true,
  carriesNothing: true,
  waitsFor: { actions: ['start'], unless: 'running' },
  begin: ({ running, seconds }) => ({ running: running === true, left: numberOf(seconds) }),
  actions: {
    start: ({ item, state }) => void Object.assign(state, { running: true, left: numberOf(item.properties.seconds) }),
    stop: ({ state }) => void (state.running = false),
  },
  live: ({ running, left }) => ({ running: running ? 1 : 0, left }),
  step({ item, state, host }) {
    if (!state.running) return;
    state.left -= host.step;
    if (state.left > NEAR) return;
    // What is over goes on to the next round, so that a hundred rounds take a hundred times as long. No more than once a step.
    if (item.properties.repeat === true) state.left = Math.max(state.left + numberOf(item.properties.seconds), 0);
    else Object.assign(state, { running: false, left: 0 });
    host.emit(item, 'elapsed');
  },
};
