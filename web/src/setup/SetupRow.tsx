import type { ReactNode } from 'react';
import { Icon } from '../common/Icon.tsx';

interface Props {
  id: string;
  /** What it is a row of, for tests. */
  kind: 'check' | 'step' | 'offer';
  ok: boolean;
  state: { stamp: string; icon: string; word: string };
  children: ReactNode;
}

/** One row of the set-up: how it stands, what it is, and what can be done. */
export function SetupRow({ id, kind, ok, state, children }: Props) {
  return (
    <div className="check-row" {...{ [`data-${kind}`]: id }} data-ok={ok}>
      <span className={`stamp ${state.stamp}`}>
        <Icon name={state.icon} /> {state.word}
      </span>
      {children}
    </div>
  );
}

export function RowAction({ busy, onClick, children }: { busy: boolean; onClick(): void; children: ReactNode }) {
  return (
    <button className="btn btn-warm" disabled={busy} onClick={onClick}>
      {children}
    </button>
  );
}
