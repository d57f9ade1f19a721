import { useState } from 'react';
import { Modal } from 'react-bootstrap';
import type { Ask, MapCommand } from './mapCommands.ts';

/** Asks for what a command needs before it runs; a refusal stays in the dialog with its reason. */
export function AskDialog({
  command,
  asks,
  run,
  close,
}: {
  command: MapCommand;
  asks: Ask[];
  run(answers: Record<string, number | string>): string | null;
  close(): void;
}) {
  const [answers, setAnswers] = useState<Record<string, string>>(() => Object.fromEntries(asks.map((ask) => [ask.id, String(ask.value)])));
  const [refusal, setRefusal] = useState('');
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    const wrong = asks.find((ask) => typeof ask.value === 'number' && (answers[ask.id].trim() === '' || !Number.isFinite(Number(answers[ask.id]))));
    if (wrong) return setRefusal(`${wrong.label} has to be a number.`);
    const typed = Object.fromEntries(asks.map((ask) => [ask.id, typeof ask.value === 'number' ? Number(answers[ask.id]) : answers[ask.id]]));
    const why = run(typed);
    if (why) setRefusal(why);
    else close();
  };
  return (
    <Modal show onHide={close} aria-labelledby="ask-title" size="sm">
      <form onSubmit={submit}>
        <Modal.Header closeButton>
          <h2 id="ask-title" className="m-0">
            {command.label.replace(/ …$/, '')}
          </h2>
        </Modal.Header>
        <Modal.Body>
          {asks.map((ask, i) => (
            <div key={ask.id} className="mb-2">
              <label className="form-label small mb-1" htmlFor={`ask-${ask.id}`}>
                {ask.label}
                {ask.unit && <span className="faint"> ({ask.unit})</span>}
              </label>
              {ask.choices && ask.choices.length > 0 ? (
                <select
                  id={`ask-${ask.id}`}
                  className="form-select"
                  autoFocus={i === 0}
                  value={answers[ask.id]}
                  onChange={(e) => setAnswers({ ...answers, [ask.id]: e.target.value })}
                >
                  {ask.choices.map((choice) => (
                    <option key={choice}>{choice}</option>
                  ))}
                </select>
              ) : (
                <input
                  id={`ask-${ask.id}`}
                  className="form-control"
                  autoFocus={i === 0}
                  onFocus={(e) => e.target.select()}
                  value={answers[ask.id]}
                  onChange={(e) => setAnswers({ ...answers, [ask.id]: e.target.value })}
                />
              )}
            </div>
          ))}
          {refusal && (
            <div role="alert" className="text-warm small">
              {refusal}
            </div>
          )}
        </Modal.Body>
        <Modal.Footer>
          <button type="button" className="btn btn-quiet" onClick={close}>
            Cancel
          </button>
          <button type="submit" className="btn btn-primary">
            Do it
          </button>
        </Modal.Footer>
      </form>
    </Modal>
  );
}
