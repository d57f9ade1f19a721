import { vectorOf } from '../document/value.ts';
import { turnAbout, turnVector } from '../math/pose.ts';
import { add, cross, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { numberOf, type Life, type Part, type Properties } from './part.ts';

const axisOf = ({ axis }: Properties): Vec3 | null => {
  const given = vectorOf(axis) ?? [0, 0, 1];
  return length(given) > 1e-6 ? given : null;
};

/**
 * `swung`: 0 as it stands in the map, 1 at the end of its swing, and as far to the other side where it swings by itself;
 * `heading`: where it is going, -1, 0 or 1; `rate`: how fast it swings by itself, degrees per second.
 */
export interface Swing {
  swung: number;
  heading: -1 | 0 | 1;
  rate: number;
}

/** Share of its speed that a leaf which swings by itself loses in a second (from memory; a matter of taste). */
const RUB = 0.05;

export const hinge: Part<Swing> = {
  id: 'hinge',
  says: 'a block that swings by `angle` about an `axis` through its `hinge`, and at what is in its way stops, pushes or crushes (`blocked`); a `loose` one hangs and swings by itself',
  reads: ['size', 'hinge', 'axis', 'angle', 'speed', 'material', 'blocked', 'loose'],
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
  begin: () => ({ swung: 0, heading: 0, rate: 0 }),
  actions: {
    open: ({ state }) => void (state.heading = 1),
    close: ({ state }) => void (state.heading = -1),
    // A knock, in degrees per second; that of its speed without a value.
    knock: ({ item, state }, value) => void (state.rate += value === null ? numberOf(item.properties.speed) : Number(value) || 0),
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
    if (state.heading === 0) {
      if (item.properties.loose === true) hang({ item, state, host });
      return;
    }
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

/**
 * One step of a leaf that gravity pulls: a physical pendulum, α = n · (r × g) / (I/m) about the unit axis n, r from the hinge to
 * the centre of mass, with a uniform block's moment of inertia I/m = n · J n + |r⊥|², J = diag(b² + c², a² + c², a² + b²) / 12 (Goldstein,
 * Classical Mechanics, chapter 5; the formulas from memory). Semi-implicit Euler.
 */
function hang({ item, state, host }: Life<Swing>): void {
  const { properties, object } = item;
  const given = axisOf(properties);
  const [a, b, c] = vectorOf(properties.size) ?? [0, 0, 0];
  if (!given) return;
  const axis = normalise(given);
  const [x, y, z] = vectorOf(properties.hinge) ?? [0, 0, 0];
  // About the leaf's own axes; its hinge's axis is the map's, so it is turned back.
  const n = turnVector(turnAbout([0, 0, 1], -object.turn), axis);
  const rest = sub([0, 0, c / 2], [x, y, z]);
  const level = dot(rest, n);
  const across = sub(rest, n.map((v) => v * level) as Vec3);
  const inertia = (n[0] ** 2 * (b ** 2 + c ** 2) + n[1] ** 2 * (a ** 2 + c ** 2) + n[2] ** 2 * (a ** 2 + b ** 2)) / 12 + dot(across, across);
  const whole = numberOf(properties.angle);
  if (!(inertia > 0) || whole === 0) return;
  const angle = whole * state.swung;
  const now = turnVector(turnAbout(n, angle), rest);
  const pull = dot(n, cross(now, [0, 0, -host.gravity]));
  state.rate = (state.rate + ((pull / inertia) * 180 * host.step) / Math.PI) * (1 - RUB * host.step);
  const before = state.swung;
  state.swung = Math.max(-1, Math.min(1, state.swung + (state.rate * host.step) / whole));
  // At the end of its swing, or against something, it stands.
  const met = host.blocked(item);
  if (met) state.swung = before;
  if (met || Math.abs(state.swung) === 1) state.rate = 0;
}
