import { lazy, Suspense, useState, type KeyboardEvent } from 'react';
import { Modal } from 'react-bootstrap';
import { Busy } from '../Busy.tsx';
import { Icon } from '../Icon.tsx';
import type { useText } from './useText.ts';

const TextHistory = lazy(async () => ({ default: (await import('../TextHistory.tsx')).TextHistory }));

/** Undo, redo, and what a file was before. */
export function FileButtons({ crateId, path, file }: { crateId: string; path: string; file: ReturnType<typeof useText> }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button className="btn btn-quiet btn-sm" disabled={!file.canUndo} onClick={file.undo} aria-label="Undo" title="Undo (Ctrl+Z)">
        <Icon name="arrow-counterclockwise" />
      </button>
      <button className="btn btn-quiet btn-sm" disabled={!file.canRedo} onClick={file.redo} aria-label="Redo" title="Redo (Ctrl+Shift+Z)">
        <Icon name="arrow-clockwise" />
      </button>
      <button className="btn btn-quiet btn-sm" onClick={() => setOpen(true)} aria-label="What it was before" title="What it was before">
        <Icon name="clock-history" />
      </button>
      {open && (
        <Modal show onHide={() => setOpen(false)} aria-labelledby="text-history" size="xl" scrollable>
          <Modal.Header closeButton>
            <h2 id="text-history" className="m-0">
              What {path} was before
            </h2>
          </Modal.Header>
          <Modal.Body>
            <Suspense fallback={<Busy what="Loading" />}>
              <TextHistory
                crateId={crateId}
                path={path}
                source={file.text ?? ''}
                onRestore={(source) => {
                  file.change(source);
                  setOpen(false);
                }}
              />
            </Suspense>
          </Modal.Body>
        </Modal>
      )}
    </>
  );
}

/** Ctrl+Z and Ctrl+Shift+Z, where nobody is typing. */
export const undoKeys = (file: ReturnType<typeof useText>) => (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
  if (['INPUT', 'TEXTAREA'].includes((event.target as HTMLElement).tagName)) return;
  event.preventDefault();
  if (event.shiftKey) file.redo();
  else file.undo();
};
