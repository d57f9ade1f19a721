import { useCallback, useEffect, useState } from 'react';
import { Modal } from 'react-bootstrap';
import { getJson, message, sendJson } from '../api/http.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

type Space = Record<string, { files: number; bytes: number }>;

/** In the order in which people would part with them. */
const WHAT: { id: string; title: string; says: string; asked: boolean }[] = [
  { id: 'parts', title: 'Unfinished files', says: 'Writing them was cut off; nothing uses them.', asked: true },
  {
    id: 'unused',
    title: 'Contents that nothing names',
    says: 'Of removed crates, replaced assets and old builds. No revision, build or release needs them.',
    asked: true,
  },
  { id: 'cache', title: 'Kept stages of builds', says: 'They save time: the next build of every map makes them anew.', asked: false },
  {
    id: 'copies',
    title: 'Copies of the database',
    says: 'And the contents that only they name. Without them “npm run restore” has nothing to bring back.',
    asked: false,
  },
];

/** What can be cleared away from the data folder, with what it would free. */
export function FreeSpace({ close }: { close(): void }) {
  const [space, setSpace] = useState<Space | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(WHAT.filter((what) => what.asked).map((what) => what.id)));
  const [problem, setProblem] = useState('');
  const [freed, setFreed] = useState<number | null>(null);
  const [busy, setBusy] = useState(false);
  const look = useCallback(() => {
    setProblem('');
    getJson<Space>('/api/space')
      .then(setSpace)
      .catch((error) => setProblem(message(error)));
  }, []);
  useEffect(look, [look]);
  const sum = (of: Space) => WHAT.filter(({ id }) => chosen.has(id)).reduce((total, { id }) => total + of[id].bytes, 0);
  const nothing = space !== null && WHAT.every(({ id }) => space[id].files === 0);

  const clear = async () => {
    if (!space) return;
    setBusy(true);
    setProblem('');
    try {
      const before = sum(space);
      const left = await sendJson<Space>('POST', '/api/space', { what: [...chosen] });
      setFreed(before - sum(left));
      setSpace(left);
    } catch (error) {
      setProblem(message(error));
    }
    setBusy(false);
  };

  return (
    <Modal show onHide={close} aria-labelledby="free-space">
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="free-space">
          Free space
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {!space && !problem && <Busy what="Looking through the data folder" />}
        {problem && <Trouble retry={look}>{problem}</Trouble>}
        {nothing && <p className="faint">Everything in the data folder is needed.</p>}
        {space &&
          WHAT.map(({ id, title, says }) => (
            <label key={id} className="d-flex gap-3 align-items-start py-2 border-bottom" htmlFor={`space-${id}`}>
              <input
                id={`space-${id}`}
                type="checkbox"
                className="form-check-input mt-1"
                checked={chosen.has(id)}
                disabled={space[id].files === 0}
                onChange={() => {
                  const next = new Set(chosen);
                  if (!next.delete(id)) next.add(id);
                  setChosen(next);
                }}
              />
              <span className="flex-grow-1">
                {title}
                <span className="d-block small faint">{says}</span>
              </span>
              <span className="text-nowrap text-end">
                {bytes(space[id].bytes)}
                <span className="d-block small faint">{plural(space[id].files, 'file')}</span>
              </span>
            </label>
          ))}
        {freed !== null && (
          <div className="stamp clear mt-3" role="status">
            <Icon name="check-circle" /> {bytes(freed)} freed
          </div>
        )}
      </Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={close}>
          Close
        </button>
        <button className="btn btn-primary" onClick={() => void clear()} disabled={!space || busy || sum(space) === 0}>
          <Icon name="trash" /> {busy ? 'Clearing away …' : space ? `Free ${bytes(sum(space))}` : 'Free'}
        </button>
      </Modal.Footer>
    </Modal>
  );
}
