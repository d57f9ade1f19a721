import { useState } from 'react';
import { Link } from 'react-router';
import { STAGES } from '@violet-crate/core/finding';
import { Icon } from '../common/Icon.tsx';
import { selectNextStep } from '../state/nextStep.ts';
import { useAppSelector } from '../state/store.ts';

const KEY = (crateId: string) => `violet-crate-no-next-step-${crateId}`;

/** The next useful step and why, until the user wants it no more for this crate. */
export function NextStepCard({ crateId }: { crateId: string }) {
  const next = useAppSelector(selectNextStep);
  const ready = useAppSelector((s) => s.crate.status === 'ready');
  const [dismissed, setDismissed] = useState(() => localStorage.getItem(KEY(crateId)) !== null);
  if (dismissed || !next || !ready) return null;
  return (
    <section className="next-step" aria-label="Next step">
      <div className="d-flex align-items-baseline">
        <span className="faint small flex-grow-1">
          {next.done} of {STAGES.length} in order. Next:
        </span>
        <button
          className="btn btn-quiet btn-sm py-0"
          aria-label="Show no next steps for this crate"
          onClick={() => {
            localStorage.setItem(KEY(crateId), 'yes');
            setDismissed(true);
          }}
        >
          <Icon name="x" />
        </button>
      </div>
      <Link to={`/crates/${crateId}/${next.stage}`} className="next-step-link">
        <strong>{next.what}</strong>
        <span className="faint small d-block">{next.why}</span>
      </Link>
    </section>
  );
}
