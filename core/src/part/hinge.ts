import { vectorOf } from '../document/value.ts';
import { add, length, type Vec3 } from '../math/vec3.ts';
import { numberOf, type Part, type Properties } from './part.ts';

const axisOf = ({ axis }: Properties): Vec3 | null => {
  const given = vectorOf(axis) ?? [0, 0, 1];
  return length(given) > 1e-6 ? given : null;
};

/** `swung`: 0 as it stands in the map, 1 at the end of its swing; `heading`: where it is going, -1, 0 or 1. */
export const hinge: Part<{ swung: number; heading: -1 | 0 | 1 }> = {
  id: 'hinge',
  says: 'a block that swings by `angle` about an `axis` through its `hinge`, and at what is in its way stops, pushes or crushes (`blocked`)',
  reads: ['size', 'hinge', 'axis', 'angle', 'speed', 'material', 'blocked'],
  floats: true,
  collides: () => true,
  faults(properties) {
    if (axisOf(properties)) return [];
    return [
      {
        code: 'hinge-axis',
        lacks: 'has a hinge without an axis; it will not swing',
        hint: 'Give the axis a length, such as 0, 0, 1 for an upright one.',
        set: { axis: [0, 0, 1] },
      },
    ];
  },
  begin: () => ({ swung: 0, heading: 0 }),
  actions: {
    open: ({ state }) => void (state.heading = 1),
    close: ({ state }) => void (state.heading = -1),
    toggle: ({ state }) => void (state.heading = state.heading > 0 || (state.heading === 0 && state.swung > 0.5) ? -1 : 1),
  },
  live: ({ swung }) => ({ swung }),
  swing({ item, state }) {
    const axis = axisOf(item.properties);
    const { position, turn } = item.object;
    const [x, y, z] = vectorOf(item.properties.hinge) ?? [0, 0, 0];
    const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
    return axis && { about: add(position, [x * c - y * s, x * s + y * c, z]), axis, degrees: numberOf(item.properties.angle) * state.swung };
  },
  step({ item, state, host }) {
    if (state.heading === 0) return;
    const whole = Math.abs(numberOf(item.properties.angle));
    const before = state.swung;
    const by = whole > 0 && axisOf(item.properties) ? (numberOf(item.properties.speed) * host.step) / whole : 1;
    state.swung = Math.min(1, Math.max(0, state.swung + state.heading * by));
    if (host.blocked(item)) {
      state.swung = before;
      return;
    }
    if (state.swung !== 1 && state.swung !== 0) return;
    const event = state.heading > 0 ? 'opened' : 'closed';
    state.heading = 0;
    host.emit(item, event);
  },
};
