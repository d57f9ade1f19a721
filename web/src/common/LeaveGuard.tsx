import { useEffect } from 'react';
import { Modal } from 'react-bootstrap';
import { useBlocker, type Location } from 'react-router';

interface Props {
  /** Whether there is anything to lose. */
  when: boolean;
  /** What would be lost, as a sentence. */
  what: string;
  /** Whether an address is still the same document. */
  stays(from: Location, to: Location): boolean;
}

/** Asks before changes that are in this page alone are left behind: by a link, a key, going back, or closing the tab. */
export function LeaveGuard({ when, what, stays }: Props) {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => when && !stays(currentLocation, nextLocation));
  useEffect(() => {
    if (!when) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [when]);
  if (blocker.state !== 'blocked') return null;
  return (
    <Modal show onHide={blocker.reset} aria-labelledby="leave-guard">
      <Modal.Header closeButton>
        <h2 id="leave-guard" className="m-0">
          Discard changes?
        </h2>
      </Modal.Header>
      <Modal.Body>{what}</Modal.Body>
      <Modal.Footer>
        <button className="btn btn-quiet" onClick={blocker.proceed}>
          Discard changes
        </button>
        <button className="btn btn-primary" autoFocus onClick={blocker.reset}>
          Stay here
        </button>
      </Modal.Footer>
    </Modal>
  );
}
