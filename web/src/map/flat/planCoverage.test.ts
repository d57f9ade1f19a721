import { describe, expect, it } from '@jest/globals';
import { Coverage } from '@violet-crate/core/trial/coverage';
import { blank, made, profile } from '@violet-crate/core/testing/maps';
import { drawCoverage, neverUsed, type PlanCoverage } from './planCoverage.ts';

/** A canvas that remembers what is drawn on it. */
function canvas() {
  const calls: [string, ...unknown[]][] = [];
  const context = new Proxy({} as Record<string, unknown>, {
    get: (of, name: string) =>
      of[name] ?? (name === 'measureText' ? () => ({ width: 10 }) : (...args: unknown[]) => void calls.push([name, ...args])),
    set: (of, name: string, value) => ((of[name] = value), true),
  });
  return { context: context as unknown as CanvasRenderingContext2D, calls };
}

const colours = { warm: '#fa0', ground: '#000' } as PlanCoverage['colours'];
const map = { ...blank(), objects: { a: made('crank', 'a', [10, 10, 0]), b: made('crank', 'b', [90, 10, 0]), wall: made('sign', 'c', [0, 0, 300]) } };

function scene(): PlanCoverage {
  const coverage = new Coverage(20);
  coverage.use('a');
  coverage.stay([5, 5, 0], 3);
  coverage.stay([5, 5, 300], 3);
  coverage.lose('falls', [50, 50, -900]);
  coverage.lose('deaths', [60, 50, 0]);
  return { data: coverage.data(), profile, map, band: { bottom: 0, top: 128 }, colours };
}

describe('what runs came by, on the plan', () => {
  it('names what could have been operated and never was', () => {
    expect(neverUsed(scene())).toEqual(['b', 'wall']);
  });

  it('draws time on this floor only, falls and deaths wherever they ended', () => {
    const { context, calls } = canvas();
    drawCoverage(context, ([x, y]) => [x, -y], 2, scene());
    expect(calls.filter(([name]) => name === 'fillRect').some(([, x, y, width]) => x === 0 && y === -20 && width === 40)).toBe(true);
    expect(calls.filter(([name, x, y]) => name === 'fillRect' && x === 0 && y === -20)).toHaveLength(1);
    expect(calls.filter(([name]) => name === 'closePath')).toHaveLength(1);
    expect(calls.filter(([name, text]) => name === 'fillText' && text === 'never used')).toHaveLength(1);
  });
});
