import { Modal } from 'react-bootstrap';
import { Link } from 'react-router';
import { keyWords } from '../map/commands/CommandMenu.tsx';
import { MAP_COMMANDS } from '../map/commands/mapCommands.ts';
import { useAppSelector } from '../state/store.ts';

const groups = (chosen: Readonly<Record<string, string>>): [string, [string, string][]][] => [
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
      ...MAP_COMMANDS.flatMap((c): [string, string][] => {
        const keys = keyWords(c, chosen);
        return keys ? [[keys, c.label]] : [];
      }),
      ['Arrows, Page Up / Down', 'Nudge by a grid step'],
      ['Shift+click, Ctrl+click', 'Add to the selection, take away'],
      ['Alt+drag', 'Copy; on a corner: split what would be concave'],
      ['Esc', 'Drop the tool, then the selection'],
      ['Wheel, right drag', 'Zoom, move the sheet'],
      ['W A S D R F', 'Fly, while flying is on; the wheel sets the speed'],
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
  const chosen = useAppSelector((s) => s.preferences.keys);
  return (
    <Modal show onHide={close} size="xl" scrollable aria-labelledby="shortcuts-title">
      <Modal.Header closeButton>
        <h2 id="shortcuts-title" className="m-0">
          Keys
        </h2>
        <Link className="btn btn-quiet btn-sm ms-3" role="button" to="/preferences">
          Choose your own
        </Link>
      </Modal.Header>
      <Modal.Body className="keys-overlay">
        {groups(chosen).map(([title, keys]) => (
          <section key={title}>
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
