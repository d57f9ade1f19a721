import { useState } from 'react';
import { Modal } from 'react-bootstrap';
import { nameProblem } from '@violet-crate/core/crate/naming';
import type { Profile } from '@violet-crate/core/profile/schema';
import { message } from '../api/http.ts';

interface Props {
  heading: string;
  /** What the button says. */
  take: string;
  profile: Profile;
  name: string;
  title: string;
  /** Names that other crates have. */
  taken: readonly string[];
  submit(name: string, title: string): Promise<unknown>;
  close(): void;
}

/** Asks for a crate's title and short name: of a copy, or of one that is renamed. */
export function NameCrate({ heading, take, profile, name: firstName, title: firstTitle, taken, submit, close }: Props) {
  const [title, setTitle] = useState(firstTitle);
  const [name, setName] = useState(firstName);
  const [problem, setProblem] = useState('');
  const wrong = nameProblem(profile, 'crate', name, [...taken]);
  return (
    <Modal show onHide={close} aria-labelledby="name-crate">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          submit(name, title.trim())
            .then(close)
            .catch((error) => setProblem(message(error)));
        }}
      >
        <Modal.Header closeButton>
          <h2 id="name-crate" className="m-0">
            {heading}
          </h2>
        </Modal.Header>
        <Modal.Body>
          <label className="form-label" htmlFor="name-crate-title">
            Title
          </label>
          <input id="name-crate-title" className="form-control mb-2" autoFocus value={title} onChange={(event) => setTitle(event.target.value)} />
          <label className="form-label" htmlFor="name-crate-name">
            Short name
          </label>
          <input
            id="name-crate-name"
            className={`form-control mono ${wrong ? 'is-invalid' : ''}`}
            value={name}
            spellCheck={false}
            onChange={(event) => setName(event.target.value)}
          />
          {(wrong ?? problem) && (
            <div className="severity blocker small text-wrap mt-1" role="alert">
              {wrong ?? problem}
            </div>
          )}
        </Modal.Body>
        <Modal.Footer>
          <button type="button" className="btn btn-quiet" onClick={close}>
            Cancel
          </button>
          <button className="btn btn-primary" disabled={wrong !== null || title.trim() === ''}>
            {take}
          </button>
        </Modal.Footer>
      </form>
    </Modal>
  );
}
