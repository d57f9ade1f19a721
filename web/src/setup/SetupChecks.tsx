import { useState } from 'react';
import type { Severity } from '@violet-crate/core/finding';
import { message, sendJson } from '../api/http.ts';
import type { SetupCheck } from '../api/types.ts';
import { RowAction, SetupRow } from './SetupRow.tsx';

const STATE: Record<Severity, { stamp: string; icon: string; word: string }> = {
  blocker: { stamp: 'blocked', icon: 'x-octagon', word: 'to mend' },
  warning: { stamp: 'notes', icon: 'exclamation-triangle', word: 'to look at' },
  note: { stamp: 'open', icon: 'info-circle', word: 'note' },
};

interface Props {
  profile: string;
  /** Id of the install; the first of its game without it. */
  install?: string;
  checks: readonly SetupCheck[];
  onChange(checks: SetupCheck[]): void;
}

/** The checks of one install, with the button that repairs where there is one. */
export function SetupChecks({ profile, install, checks, onChange }: Props) {
  const [busy, setBusy] = useState('');
  const [note, setNote] = useState('');
  const repair = async (action: string) => {
    setBusy(action);
    try {
      const at = `/api/games/${profile}/repairs${install ? `?install=${install}` : ''}`;
      const answer = await sendJson<{ done: string; checks: SetupCheck[] }>('POST', at, { action });
      setNote(answer.done);
      onChange(answer.checks);
    } catch (error) {
      setNote(message(error));
    }
    setBusy('');
  };
  return (
    <div>
      {checks.map(({ id, title, detail, hint, ok, severity, fix }) => {
        const state = ok ? { stamp: 'clear', icon: 'check-circle', word: 'in order' } : STATE[severity];
        return (
          <SetupRow key={id} id={id} kind="check" ok={ok} state={state}>
            <div>
              <strong>{title}</strong> <span className="detail">{detail}</span>
              {hint && <div>{hint}</div>}
            </div>
            {fix && (
              <RowAction busy={busy !== ''} onClick={() => void repair(fix.action)}>
                {busy === fix.action ? 'Working …' : fix.label}
              </RowAction>
            )}
          </SetupRow>
        );
      })}
      {note && (
        <div className="p-2 px-3 faint" role="status">
          {note}
        </div>
      )}
    </div>
  );
}
