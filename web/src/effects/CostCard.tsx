import { useEffect, useMemo, useState } from 'react';
import { costInGame } from '@violet-crate/core/check/checkEffects';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { Effect } from '@violet-crate/core/effect/document';
import { effectFindings, type EffectCost } from '@violet-crate/core/effect/cost';
import type { Profile } from '@violet-crate/core/profile/schema';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

/** Milliseconds of quiet before it is measured again. */
const QUIET = 250;

/** What the effect costs as it is, against what the game allows, and what is odd about it. */
export function CostCard({ effect, profile, assets }: { effect: Effect; profile: Profile; assets: CrateManifest['assets'] }) {
  const [measured, setMeasured] = useState<{ of: Effect; cost: EffectCost } | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setMeasured({ of: effect, cost: costInGame(profile, assets, effect) }), measured ? QUIET : 0);
    return () => clearTimeout(timer);
    // Measuring again is for a changed effect; that it was measured changes nothing of it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [effect, profile, assets]);
  const budget = profile.effects;
  const findings = useMemo(() => (measured ? effectFindings(measured.of, measured.cost, budget, {}) : []), [measured, budget]);
  if (!measured) return <p className="faint small">Measuring …</p>;
  const { cost } = measured;
  const rows: [label: string, value: number, most: number | undefined, shown: (value: number) => string][] = [
    ['Particles at once', cost.particles, budget?.particles, (v) => Math.round(v).toLocaleString('en')],
    ['Layers over each other', cost.overdraw, budget?.overdraw, (v) => v.toFixed(1)],
    ['Drawn from nearby, in whole pictures', cost.screens, budget?.screens, (v) => v.toFixed(2)],
    ['Memory', cost.bytes, budget?.bytes, bytes],
  ];
  return (
    <section className="panel p-2" aria-label="Cost">
      <h2>Cost</h2>
      <dl className="effect-cost">
        {rows.map(([label, value, most, shown]) => {
          const over = most !== undefined && value > most;
          return (
            <div key={label}>
              <dt>{label}</dt>
              <dd className={over ? 'warm' : ''}>
                {over && <Icon name="exclamation-triangle" />} {shown(value)}
                {most !== undefined && <span className="faint"> of {shown(most)}</span>}
              </dd>
              {most !== undefined && (
                <div className="effect-meter" aria-hidden="true">
                  <div className={over ? 'over' : ''} style={{ width: `${Math.min(100, (value / most) * 100)}%` }} />
                </div>
              )}
            </div>
          );
        })}
      </dl>
      {cost.emitters.length > 1 && (
        <p className="faint small mb-1">
          {cost.emitters.map(({ name, particles, screens }) => `${name}: ${particles}, ${screens.toFixed(2)} pictures`).join(' · ')}
        </p>
      )}
      <ul className="effect-odd" aria-live="polite">
        {findings.map(({ code, message, hint }, i) => (
          <li key={`${code} ${i}`} className="small">
            <Icon name="exclamation-triangle" /> {message.slice(message.indexOf(': ') + 2)} <span className="faint">{hint}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
