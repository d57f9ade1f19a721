import { vectorOf } from '../document/value.ts';
import type { Box3 } from '../math/box3.ts';
import { numberOf, type Life, type Part, type Properties } from './part.ts';

/** Share of the walking speed that is left in water. */
const WADING = 0.5;

const full = (properties: Properties): number => vectorOf(properties.size)?.[2] ?? 0;

/** The space that is under water now. */
function filled({ item, state, host }: Life<{ level: number }>): Box3 | null {
  if (state.level <= 0) return null;
  const { min, max } = host.extent(item);
  return { min, max: [max[0], max[1], min[2] + state.level] };
}

/** `level`: height of its surface above its bottom, in units; `filling`: -1 drains, 1 fills. */
export const water: Part<{ level: number; filling: -1 | 0 | 1 }> = {
  id: 'water',
  says: 'a body of water in which players wade and swim and things float; it can be drained',
  reads: ['size', 'rate', 'material'],
  floats: true,
  hollow: true,
  upright: true,
  begin: (properties) => ({ level: full(properties), filling: 0 }),
  actions: {
    drain: ({ state }) => void (state.filling = -1),
    fill: ({ state }) => void (state.filling = 1),
  },
  live: ({ level }) => ({ level }),
  step({ item, state, host }) {
    if (state.filling === 0) return;
    const top = full(item.properties);
    state.level = Math.min(top, Math.max(0, state.level + state.filling * numberOf(item.properties.rate) * host.step));
    if (state.level !== 0 && state.level !== top) return;
    const event = state.filling < 0 ? 'drained' : 'filled';
    state.filling = 0;
    host.emit(item, event);
  },
  liquid: filled,
  drag(life) {
    const space = filled(life);
    return space && life.host.playerIn(life.item, space) ? WADING : 1;
  },
};
