import { numberOf, type Part } from './part.ts';

/** `reached`: whether the target was told already since the last reset. */
export const counter: Part<{ count: number; reached: boolean }> = {
  id: 'counter',
  says: 'counts what it is told, and fires `reached` at its `target`; with `again` it begins anew then',
  reads: ['target', 'again'],
  floats: true,
  hollow: true,
  carriesNothing: true,
  waitsFor: { actions: ['count'] },
  begin: () => ({ count: 0, reached: false }),
  actions: {
    count({ item, state, host }, value) {
      // A signal may say by how much; what is no number counts as one.
      const by = Number(value ?? 1);
      state.count += Number.isFinite(by) ? by : 1;
      host.emit(item, 'counted');
      if (state.reached || state.count < numberOf(item.properties.target)) return;
      if (item.properties.again === true) state.count = 0;
      else state.reached = true;
      host.emit(item, 'reached');
    },
    reset: ({ state }) => void Object.assign(state, { count: 0, reached: false }),
  },
  live: ({ count }) => ({ count }),
};
