import type { SetupCheck, StepState } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';

interface Props {
  folder: string;
  checks: readonly SetupCheck[];
  steps: readonly StepState[];
  close(): void;
}

/** How a folder stands to a profile that is not kept yet. */
export function ProfileChecks({ folder, checks, steps, close }: Props) {
  const row = (key: string, ok: boolean, title: string, detail: string) => (
    <div className="check-row" key={key} data-check={key} data-ok={ok}>
      <span className={`stamp ${ok ? 'clear' : 'blocked'}`}>
        <Icon name={ok ? 'check-circle' : 'x-octagon'} /> {ok ? 'in order' : 'not so'}
      </span>
      <div>
        <strong>{title}</strong> <span className="detail">{detail}</span>
      </div>
    </div>
  );
  return (
    <section className="panel mb-3" aria-label="Tried against an install">
      <header>
        <h3>
          Tried against <code>{folder}</code>
        </h3>
        <button className="btn btn-quiet btn-sm" aria-label="Close" onClick={close}>
          <Icon name="x-lg" />
        </button>
      </header>
      {checks.map(({ id, ok, title, detail, hint }) => row(id, ok, title, ok || !hint ? detail : `${detail} ${hint}`))}
      {steps.map(({ step, done, rule }) => row(step.id, done, step.title, rule))}
    </section>
  );
}
