import { Modal } from 'react-bootstrap';

const GROUPS: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['Ctrl+K', 'Commands'],
      ['Alt+1 … Alt+8', 'Go to a stage'],
      ['F9', 'Open or close the findings'],
      ['?', 'This list'],
    ],
  ],
  [
    'Map',
    [
      ['1 … 5', 'Select, room, solid, object, section line'],
      ['6', 'Library beside the plan'],
      ['Arrows', 'Nudge by a grid step (in plan or section)'],
      ['Page Up / Down', 'Nudge up or down'],
      ['[ and ]', 'Finer or coarser grid'],
      ['Ctrl+D', 'Duplicate'],
      ['Delete', 'Delete'],
      ['Ctrl+Z, Ctrl+Shift+Z', 'Undo, redo'],
      ['Esc', 'Drop the tool or the selection'],
      ['Wheel, right drag', 'Zoom, move the sheet'],
    ],
  ],
  [
    'Assets',
    [
      ['Arrows', 'Next and previous in the library'],
      ['Ctrl+click', 'Choose several of the crate’s own'],
      ['Delete', 'Remove what is chosen'],
    ],
  ],
  [
    'Test run',
    [
      ['W A S D', 'Walk'],
      ['Arrows', 'Turn and walk'],
      ['Shift', 'Run'],
      ['Space', 'Jump'],
      ['Q or click', 'Operate what is before you'],
      ['G', 'Glide freely, and land'],
      ['Esc', 'Free the pointer'],
    ],
  ],
];

export function ShortcutsOverlay({ close }: { close(): void }) {
  return (
    <Modal show onHide={close} size="lg" aria-labelledby="shortcuts-title">
      <Modal.Header closeButton>
        <h2 id="shortcuts-title" className="m-0">
          Keys
        </h2>
      </Modal.Header>
      <Modal.Body className="row">
        {GROUPS.map(([title, keys]) => (
          <section key={title} className="col-md-4">
            <h3>{title}</h3>
            {keys.map(([key, what]) => (
              <div key={key} className="mb-1 small">
                <kbd>{key}</kbd> <span className="faint">{what}</span>
              </div>
            ))}
          </section>
        ))}
      </Modal.Body>
    </Modal>
  );
}
