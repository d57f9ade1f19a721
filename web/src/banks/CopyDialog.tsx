import { Modal } from 'react-bootstrap';
import { rowName } from '@violet-crate/core/bank/copyRow';
import type { BankDocument } from '@violet-crate/core/bank/document';
import type { BankLayout } from '@violet-crate/core/bank/layout';
import { Icon } from '../common/Icon.tsx';

interface Props {
  layout: BankLayout;
  other: BankDocument;
  section: string;
  close(): void;
  copy(n: number): void;
}

/** Rows of another bank, one of which is copied with all that hangs on it. */
export function CopyDialog({ layout, other, section, close, copy }: Props) {
  const { record, title } = layout.sections.find(({ name }) => name === section)!;
  return (
    <Modal show onHide={close} aria-labelledby="copy-row" scrollable>
      <Modal.Header closeButton>
        <h2 id="copy-row" className="m-0">
          Copy from the other bank: {title ?? section}
        </h2>
      </Modal.Header>
      <Modal.Body>
        <p className="faint">It comes with all that hangs on it. What it numbers in other sections is looked up here by name.</p>
        <ul className="list-unstyled mb-0">
          {other.sections[section].map((row, n) => (
            <li key={n}>
              <button className="btn btn-quiet btn-sm mb-1" onClick={() => copy(n)}>
                <Icon name="files" /> {rowName(layout, other, record, row) || `${section} ${n + 1}`}
              </button>
            </li>
          ))}
        </ul>
      </Modal.Body>
    </Modal>
  );
}
