import { useState } from 'react';
import { countFindings } from '@violet-crate/core/finding';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { FindingRow } from '../common/FindingRow.tsx';
import { selectFindings } from '../state/findings.ts';

/** The one list of everything wrong or worth knowing in the crate. */
export function FindingsTray() {
  const findings = useAppSelector(selectFindings);
  const [open, setOpen] = useState(false);
  // How long the last check took stands in the page for whoever measures it.
  const { running, milliseconds } = useAppSelector((s) => s.checks);
  const count = countFindings(findings);
  return (
    <section className="tray" aria-label="Findings" data-checked={running ? '' : Math.round(milliseconds)}>
      <button aria-expanded={open} onClick={() => setOpen(!open)} id="tray-toggle">
        <Icon name={open ? 'chevron-down' : 'chevron-up'} />
        <strong>Findings</strong>
        {findings.length === 0 ? (
          <span className="stamp clear">
            <Icon name="check-circle" /> nothing to mend
          </span>
        ) : (
          <>
            <span className={`severity ${count.blocker ? 'blocker' : 'note'}`}>
              <Icon name="x-octagon-fill" /> {plural(count.blocker, 'blocker')}
            </span>
            <span className={`severity ${count.warning ? 'warning' : 'note'}`}>
              <Icon name="exclamation-triangle-fill" /> {plural(count.warning, 'warning')}
            </span>
            <span className="severity note">
              <Icon name="info-circle" /> {plural(count.note, 'note')}
            </span>
            {!open && <span className="faint text-truncate flex-grow-1">{findings[0].message}</span>}
          </>
        )}
      </button>
      {open && (
        <div className="rows">
          {findings.length === 0 ? (
            <div className="p-3 faint">No findings. Everything that can be checked without a build is in order.</div>
          ) : (
            findings.map((finding) => <FindingRow key={`${finding.code}/${finding.message}`} finding={finding} />)
          )}
        </div>
      )}
    </section>
  );
}
