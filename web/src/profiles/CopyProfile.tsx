import { useState } from 'react';
import { Modal } from 'react-bootstrap';
import { message, sendJson } from '../api/http.ts';
import type { ProfileEntry, Profiles } from '../api/types.ts';

interface Props {
  of: ProfileEntry;
  made(list: Profiles, id: string): void;
  close(): void;
}

/** Asks for the id and the title of a profile's copy. */
export function CopyProfile({ of, made, close }: Props) {
  const [title, setTitle] = useState('');
  const [id, setId] = useState<string | null>(null);
  const [problem, setProblem] = useState('');
  const proper = title
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+/, '')
    .replace(/_$/, '');
  const name = id ?? proper;
  return (
    <Modal show onHide={close} aria-labelledby="copy-profile">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          sendJson<Profiles>('POST', `/api/profiles/${of.id}/copy`, { id: name, title: title.trim() })
            .then((list) => made(list, name))
            .catch((error) => setProblem(message(error)));
        }}
      >
        <Modal.Header closeButton>
          <h2 id="copy-profile" className="m-0">
            Copy of {of.title}
          </h2>
        </Modal.Header>
        <Modal.Body>
          <label className="form-label" htmlFor="copy-title">
            Title of the game
          </label>
          <input id="copy-title" className="form-control mb-2" autoFocus value={title} onChange={(event) => setTitle(event.target.value)} />
          <label className="form-label" htmlFor="copy-id">
            Id
          </label>
          <input id="copy-id" className="form-control mono" value={name} spellCheck={false} onChange={(event) => setId(event.target.value)} />
          {problem && (
            <div className="severity blocker text-wrap mt-2" role="alert">
              {problem}
            </div>
          )}
        </Modal.Body>
        <Modal.Footer>
          <button type="button" className="btn btn-quiet" onClick={close}>
            Cancel
          </button>
          <button className="btn btn-primary" disabled={title.trim() === '' || name === ''}>
            Make the copy
          </button>
        </Modal.Footer>
      </form>
    </Modal>
  );
}
