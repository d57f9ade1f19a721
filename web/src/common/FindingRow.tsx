import { useState } from 'react';
import type { Finding, Severity } from '@violet-crate/core/finding';
import { Icon } from './Icon.tsx';
import { useFindingActions } from './useFindingActions.ts';

const ICONS: Record<Severity, string> = { blocker: 'x-octagon-fill', warning: 'exclamation-triangle-fill', note: 'info-circle' };

export function SeverityTag({ severity }: { severity: Severity }) {
  return (
    <span className={`severity ${severity}`}>
      <Icon name={ICONS[severity]} /> {severity}
    </span>
  );
}

/** One finding: what, where, why it matters, with *Show* and *Fix*. `here`: its place is in view, unless it is a part of it. */
export function FindingRow({ finding, here = false }: { finding: Finding; here?: boolean }) {
  const { canShow, canFix, show, fix } = useFindingActions();
  const [problem, setProblem] = useState<string | null>(null);
  return (
    <div className="finding" data-code={finding.code}>
      <SeverityTag severity={finding.severity} />
      <div>
        {finding.message} {finding.hint && <span className="hint">{finding.hint}</span>}
        {problem && <div className="severity blocker">{problem}</div>}
      </div>
      <div className="d-flex gap-1">
        {canShow(finding) && (!here || finding.place?.triangles) && (
          <button className="btn btn-quiet btn-sm py-0" onClick={() => show(finding)}>
            Show
          </button>
        )}
        {finding.others
          ?.filter((other) => canFix(finding, other))
          .map((other) => (
            <button key={other.label} className="btn btn-quiet btn-sm py-0" onClick={() => void fix(finding, other).then(setProblem)}>
              {other.label}
            </button>
          ))}
        {finding.fix && canFix(finding, finding.fix) && (
          <button className="btn btn-warm btn-sm py-0" onClick={() => void fix(finding).then(setProblem)} title={finding.fix.label}>
            {finding.fix.label}
          </button>
        )}
      </div>
    </div>
  );
}
