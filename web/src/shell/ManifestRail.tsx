import { NavLink } from 'react-router';
import { STAGES, type Stage } from '@violet-crate/core/finding';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { selectStamps, STAMP_ICONS } from '../state/findings.ts';
import { NextStepCard } from './NextStepCard.tsx';

export const STAGE_NAMES: Record<Stage, string> = {
  setup: 'Set-up',
  assets: 'Assets',
  scripts: 'Scripts',
  map: 'Map',
  links: 'Links',
  build: 'Build',
  trial: 'Test run',
  publish: 'Publish',
};

/** The eight stages in working order, each stamped with its state. */
export function ManifestRail({ crateId }: { crateId: string }) {
  const stamps = useAppSelector(selectStamps);
  return (
    <nav className="rail" aria-label="Stages">
      {STAGES.map((stage, i) => {
        const { kind, word, count } = stamps[stage];
        return (
          <NavLink
            key={stage}
            to={`/crates/${crateId}/${stage}`}
            data-stage={stage}
            data-state={kind}
            title={`${STAGE_NAMES[stage]}: ${word}${count > 0 ? ` · ${count}` : ''}`}
          >
            <span className="number" aria-hidden="true">
              {i + 1}
            </span>
            <span className="name">{STAGE_NAMES[stage]}</span>
            <span className={`stamp ${kind}`}>
              <Icon name={STAMP_ICONS[kind]} className={kind === 'running' ? 'turning' : ''} /> {word}
              {count > 0 && ` · ${count}`}
            </span>
          </NavLink>
        );
      })}
      <NextStepCard key={crateId} crateId={crateId} />
    </nav>
  );
}
