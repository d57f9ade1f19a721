import { vectorOf } from '../document/value.ts';
import { length } from '../math/vec3.ts';
import { numberOf, type Part } from './part.ts';

/** `raised`: 0 at its place in the map, 1 at the end of its travel; `heading`: where it is going, -1, 0 or 1. */
export const mover: Part<{ raised: number; heading: -1 | 0 | 1 }> = {
  id: 'mover',
  says: 'a block that slides along `travel`, carries what stands on it, and at what is in its way stops, pushes or crushes (`blocked`)',
  reads: ['size', 'travel', 'speed', 'material', 'blocked'],
  floats: true,
  collides: () => true,
  begin: () => ({ raised: 0, heading: 0 }),
  actions: {
    raise: ({ state }) => void (state.heading = 1),
    lower: ({ state }) => void (state.heading = -1),
    toggle: ({ state }) => void (state.heading = state.heading > 0 || (state.heading === 0 && state.raised > 0.5) ? -1 : 1),
  },
  live: ({ raised }) => ({ raised }),
  offset({ item, state }) {
    const [x, y, z] = vectorOf(item.properties.travel) ?? [0, 0, 0];
    return [x * state.raised, y * state.raised, z * state.raised];
  },
  step({ item, state, host }) {
    if (state.heading === 0) return;
    const travel = length(vectorOf(item.properties.travel) ?? [0, 0, 0]) || 1;
    const before = state.raised;
    state.raised = Math.min(1, Math.max(0, state.raised + (state.heading * numberOf(item.properties.speed) * host.step) / travel));
    if (host.blocked(item)) {
      state.raised = before;
      return;
    }
    if (state.raised !== 1 && state.raised !== 0) return;
    const event = state.heading > 0 ? 'raised' : 'lowered';
    state.heading = 0;
    host.emit(item, event);
  },
};
