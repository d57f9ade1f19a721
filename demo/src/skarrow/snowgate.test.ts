import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { expandMap } from '@violet-crate/core/map/prefab';
import { jumpsOf } from '@violet-crate/core/route/jumps';
import { loadProfile } from '@violet-crate/core/profile/load';
import { ribbonOf } from '@violet-crate/core/route/ribbon';
import { snowgateMap } from './map.ts';

const profile = loadProfile(readFileSync(new URL('../../../core/profiles/skarrow.json', import.meta.url), 'utf8'), 'skarrow.json');
const whole = expandMap(snowgateMap(profile), profile);

describe('Snowgate Ridge', () => {
  const [route] = Object.values(whole.routes);
  const ribbon = ribbonOf(whole, route);

  it('is a race of more than two kilometres, past eight gates, on more than a square kilometre', () => {
    expect(ribbon.length).toBeGreaterThan(2000);
    expect(route.stops).toHaveLength(8);
    const [{ samples, spacing }] = Object.values(whole.terrains);
    expect((samples[0] - 1) * (samples[1] - 1) * spacing ** 2).toBeGreaterThan(1_000_000);
  });

  it('has three jumps, slow or fast, and all come down softly', () => {
    for (const speed of [12, 18, 26]) {
      const jumps = jumpsOf(whole, ribbon, speed, profile.player.gravity, profile.unit.metres);
      expect(jumps).toHaveLength(3);
      for (const { flight } of jumps) expect(flight.into).toBeLessThan(9);
    }
  });

  it('has a shed to enter and to leave, and places to look from', () => {
    const uses = Object.values(whole.objects).flatMap(({ class: of, properties }) => (of === 'zone' ? [String(properties.use)] : []));
    for (const use of ['entrance', 'exit', 'photo']) expect(uses).toContain(use);
  });
});
