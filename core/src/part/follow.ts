import { pathLength, pointAlong } from '../document/path.ts';
import { sub } from '../math/vec3.ts';
import { numberOf, type Part } from './part.ts';

/** `along`: how far along its path, in units; `going`: whether it is under way. */
export const follow: Part<{ along: number; going: boolean }> = {
  id: 'follow',
  says: 'moves along a path once told to `go`; at the end of an open one it stops',
  reads: ['path', 'speed', 'going', 'blocked'],
  floats: true,
  needs: { path: { code: 'path-missing', lacks: 'follows no path yet; it will stay where it is', hint: 'Draw a path, then pick it.' } },
  begin: (properties) => ({ along: 0, going: properties.going === true }),
  actions: {
    go: ({ state }) => void (state.going = true),
    stop: ({ state }) => void (state.going = false),
  },
  live: ({ along }) => ({ along }),
  offset({ item, state, host }) {
    const path = host.path(String(item.properties.path));
    return path && (state.along > 0 || state.going) ? sub(pointAlong(path, state.along), item.object.position) : [0, 0, 0];
  },
  step({ item, state, host }) {
    if (!state.going) return;
    const path = host.path(String(item.properties.path));
    if (!path) {
      state.going = false;
      return;
    }
    const whole = pathLength(path);
    const before = state.along;
    state.along += numberOf(item.properties.speed) * host.step;
    if (host.blocked(item)) {
      state.along = before;
      return;
    }
    if (state.along < whole) return;
    state.along = path.loop ? state.along % whole : whole;
    if (!path.loop) state.going = false;
    host.emit(item, 'arrived');
  },
};
