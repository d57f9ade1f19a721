import { Spinner } from 'react-bootstrap';

export function Busy({ what }: { what: string }) {
  return (
    <div className="d-flex align-items-center gap-2 p-4 faint" role="status">
      <Spinner size="sm" /> {what} …
    </div>
  );
}

export function Trouble({ children, retry }: { children: string; retry?: () => void }) {
  return (
    <div className="panel p-3 my-2 d-flex gap-3 align-items-center" role="alert">
      <span className="severity blocker">
        <i className="bi bi-x-octagon" aria-hidden="true" /> Problem
      </span>
      <span className="flex-grow-1">{children}</span>
      {retry && (
        <button className="btn btn-quiet" onClick={retry}>
          Try again
        </button>
      )}
    </div>
  );
}
