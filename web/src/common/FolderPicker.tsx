import { useEffect, useState } from 'react';
import { Modal } from 'react-bootstrap';
import { getJson, message } from '../api/http.ts';
import { plural } from './format.ts';
import { Icon } from './Icon.tsx';

interface Listing {
  path: string;
  parent: string | null;
  folders: string[];
  files: number;
}

interface Props {
  title: string;
  /** What the button says that takes the folder. */
  take: string;
  start?: string;
  hint?: string;
  choose(folder: string): void;
  close(): void;
}

/** Chooses a folder of the machine that the server runs on: by walking through its folders, or by typing a path. */
export function FolderPicker({ title, take, start = '', hint, choose, close }: Props) {
  const [wanted, setWanted] = useState(start);
  const [typed, setTyped] = useState(start);
  const [listing, setListing] = useState<Listing | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    let current = true;
    const asked = wanted;
    getJson<Listing>(`/api/folders?path=${encodeURIComponent(wanted)}`)
      .then((answer) => {
        if (!current) return;
        setListing(answer);
        // What was typed while the folders were being read is not written over.
        setTyped((now) => (now === asked ? answer.path : now));
        setProblem('');
      })
      .catch((error) => current && setProblem(message(error)));
    return () => {
      current = false;
    };
  }, [wanted]);
  const go = (path: string) => {
    setWanted(path);
    setTyped(path);
  };
  const below = (name: string) => `${listing!.path === '/' ? '' : listing!.path}/${name}`;
  return (
    <Modal show onHide={close} aria-labelledby="folder-picker" scrollable>
      <Modal.Header closeButton>
        <h2 id="folder-picker" className="m-0">
          {title}
        </h2>
      </Modal.Header>
      <Modal.Body>
        {hint && <p className="faint">{hint}</p>}
        <form
          className="input-group mb-2"
          onSubmit={(event) => {
            event.preventDefault();
            setWanted(typed.trim());
          }}
        >
          <input
            className="form-control mono"
            aria-label="Path of the folder"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            spellCheck={false}
          />
          <button className="btn btn-quiet">Look</button>
        </form>
        {problem && (
          <div className="severity blocker text-wrap mb-2" role="alert">
            {problem}
          </div>
        )}
        {listing && (
          <div className="folder-list" role="group" aria-label={`Folders in ${listing.path}`}>
            {listing.parent && (
              <button className="btn btn-quiet" onClick={() => go(listing.parent!)}>
                <Icon name="arrow-up" /> one up
              </button>
            )}
            {listing.folders.map((name) => (
              <button key={name} className="btn btn-quiet" onClick={() => go(below(name))}>
                <Icon name="folder2" /> {name}
              </button>
            ))}
            {listing.folders.length === 0 && <span className="faint p-2">There are no folders in it.</span>}
            <span className="faint small p-2">{plural(listing.files, 'file')} in it</span>
          </div>
        )}
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          Cancel
        </button>
        <button className="btn btn-primary" disabled={typed.trim() === ''} onClick={() => choose(typed.trim())}>
          {take}
        </button>
      </Modal.Footer>
    </Modal>
  );
}
