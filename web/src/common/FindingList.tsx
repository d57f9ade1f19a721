import type { Finding } from '@violet-crate/core/finding';
import { FindingRow } from './FindingRow.tsx';

/** Rows of a list that are in the page at once. */
const SHOWN = 60;

/** Findings below each other, in a narrow column. */
export function FindingList({ findings, empty }: { findings: readonly Finding[]; empty: string }) {
  if (findings.length === 0) return empty ? <p className="faint small mb-0">{empty}</p> : null;
  return (
    <div className="finding-list">
      {findings.slice(0, SHOWN).map((finding, i) => (
        <FindingRow key={`${finding.code}${i}`} finding={finding} />
      ))}
      {findings.length > SHOWN && <p className="faint small mb-0">and {findings.length - SHOWN} more.</p>}
    </div>
  );
}
