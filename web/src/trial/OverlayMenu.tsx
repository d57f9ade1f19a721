import { Dropdown } from 'react-bootstrap';
import { Icon } from '../common/Icon.tsx';
import { OVERLAYS, type Overlay } from './overlays.ts';

interface Props {
  shown: ReadonlySet<Overlay>;
  onChange(shown: ReadonlySet<Overlay>): void;
}

/** What of what lies behind the picture is drawn into it. */
export function OverlayMenu({ shown, onChange }: Props) {
  const toggle = (id: Overlay) => {
    const next = new Set(shown);
    if (!next.delete(id)) next.add(id);
    onChange(next);
  };
  return (
    <Dropdown className="overlay-menu" autoClose="outside" drop="up">
      <Dropdown.Toggle variant="quiet" size="sm">
        <Icon name="layers" /> Show{shown.size > 0 ? ` · ${shown.size}` : ''}
      </Dropdown.Toggle>
      <Dropdown.Menu>
        {OVERLAYS.map(([id, label]) => (
          <Dropdown.Item key={id} as="button" role="menuitemcheckbox" aria-checked={shown.has(id)} onClick={() => toggle(id)}>
            <Icon name={shown.has(id) ? 'check-square' : 'square'} /> {label}
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
