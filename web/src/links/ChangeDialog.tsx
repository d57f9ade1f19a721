import { useEffect, useState } from 'react';
import { Modal } from 'react-bootstrap';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { message, sendJson } from '../api/http.ts';
import { Busy } from '../common/Busy.tsx';
import { plural } from '../common/format.ts';
import { useCrateChange } from '../common/useCrateChange.ts';

interface Props {
  crateId: string;
  changes: readonly LinkChange[];
  close(): void;
  done(): void;
}

interface Plan {
  name: string;
  places: string[];
  leftOut: string[];
}

/** Every place that orders would touch, before they are given. */
export function ChangeDialog({ crateId, changes, close, done }: Props) {
  const [plan, setPlan] = useState<Plan | null>(null);
  const [problem, setProblem] = useState('');
  const [busy, setBusy] = useState(false);
  const change = useCrateChange();
  useEffect(() => {
    let gone = false;
    sendJson<Plan>('POST', `/api/crates/${crateId}/links/plan`, { changes })
      .then((answer) => !gone && setPlan(answer))
      .catch((error) => !gone && setProblem(message(error)));
    return () => {
      gone = true;
    };
  }, [crateId, changes]);
  const carryOut = () => {
    setBusy(true);
    change(crateId, changes)
      .then(done)
      .catch((error) => setProblem(message(error)))
      .finally(() => setBusy(false));
  };
  return (
    <Modal show onHide={close} aria-labelledby="change-title" scrollable>
      <Modal.Header closeButton>
        <h2 id="change-title" className="m-0">
          {plan?.name ? sentence(plan.name) : 'Change of links'}
        </h2>
      </Modal.Header>
      <Modal.Body>
        {problem ? (
          <div className="severity blocker text-wrap" role="alert">
            {problem}
          </div>
        ) : !plan ? (
          <Busy what="Looking for all places" />
        ) : (
          <>
            <p>
              {plan.places.length === 0
                ? 'Nothing would change.'
                : `${plural(plan.places.length, 'place')} would change; one undo takes all of it back.`}
            </p>
            <ul className="places">
              {plan.places.map((place) => (
                <li key={place}>{place}</li>
              ))}
            </ul>
            {plan.leftOut.length > 0 && <p className="faint">Left out: {plan.leftOut.join(' ')}</p>}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          Cancel
        </button>
        <button className="btn btn-primary" autoFocus disabled={busy || !plan || plan.places.length === 0 || problem !== ''} onClick={carryOut}>
          {busy ? 'Changing …' : 'Change it'}
        </button>
      </Modal.Footer>
    </Modal>
  );
}

const sentence = (text: string): string => text[0].toUpperCase() + text.slice(1);
