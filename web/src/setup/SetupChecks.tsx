import { useState } from 'react';
import { message, sendJson } from '../api/http.ts';
import type { SetupCheck } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';

/** The checks of one install, with the button that repairs where there is one. */
export function SetupChecks({ profile, checks, onChange }: { profile: string; checks: SetupCheck[]; onChange(checks: SetupCheck[]): void }) {
  const [busy, setBusy] = useState('');
  const [note, setNote] = useState('');
  const repair = async (action: string) => {
    setBusy(action);
    try {
      const answer = await sendJson<{ done: string; checks: SetupCheck[] }>('POST', `/api/games/${profile}/repairs`, { action });
      setNote(answer.done);
      onChange(answer.checks);
    } catch (error) {
      setNote(message(error));
    }
    setBusy('');
  };
  return (
    <div>
      {checks.map((check) => (
        <div className="check-row" key={check.id} data-check={check.id} data-ok={check.ok}>
          <span className={`stamp ${check.ok ? 'clear' : 'blocked'}`}>
            <Icon name={check.ok ? 'check-circle' : 'x-octagon'} /> {check.ok ? 'in order' : 'to mend'}
          </span>
          <div>
            <strong>{check.title}</strong> <span className="detail">{check.detail}</span>
            {check.hint && <div>{check.hint}</div>}
          </div>
          {check.fix && (
            <button className="btn btn-warm" disabled={busy !== ''} onClick={() => void repair(check.fix!.action)}>
              {busy === check.fix.action ? 'Working …' : check.fix.label}
            </button>
          )}
        </div>
      ))}
      {note && (
        <div className="p-2 px-3 faint" role="status">
          {note}
        </div>
      )}
    </div>
  );
}
