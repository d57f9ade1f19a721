import { numberOf, type Part } from './part.ts';

/**
 * What is seen of it is played by whoever shows the run, from these properties: whether it runs, how often it was started,
 * and how many bursts it was told to give.
 *
 * @property left seconds until its round is over; endless where it goes round and round
 */
export const effect: Part<{ left: number | null }> = {
  id: 'effect',
  says: 'shows an effect while it runs; `start` begins its round anew, `burst` throws out its bursts at once',
  reads: ['effect', 'running'],
  floats: true,
  carriesNothing: true,
  needs: {
    effect: { code: 'effect-empty', lacks: 'shows nothing: it has no effect', hint: 'Choose one in the inspector.' },
  },
  waitsFor: { actions: ['start', 'burst'], unless: 'running' },
  begin: () => ({ left: null }),
  actions: {
    start({ item, state }) {
      Object.assign(item.properties, { running: true, started: numberOf(item.properties.started) + 1 });
      state.left = null;
    },
    stop({ item }) {
      item.properties.running = false;
    },
    burst({ item }) {
      item.properties.bursts = numberOf(item.properties.bursts) + 1;
    },
  },
  step({ item, state, host }) {
    if (item.properties.running !== true) return;
    if (state.left === null) {
      const shown = host.effect(String(item.properties.effect ?? ''));
      state.left = shown && !shown.loop ? shown.seconds : Infinity;
    }
    state.left -= host.step;
    if (state.left > 1e-9) return;
    state.left = null;
    item.properties.running = false;
    host.emit(item, 'ended');
  },
};
