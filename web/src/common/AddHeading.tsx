import { Icon } from './Icon.tsx';

interface Props {
  title: string;
  /** What the button does, or why it does nothing now. */
  hint?: string;
  disabled?: boolean;
  onAdd(): void;
}

/** The heading of a list with a button that adds to it. */
export const AddHeading = ({ title, hint, disabled, onAdd }: Props) => (
  <div className="d-flex align-items-center">
    <h3 className="flex-grow-1">{title}</h3>
    <button className="btn btn-quiet btn-sm py-0" disabled={disabled} title={hint} onClick={onAdd}>
      <Icon name="plus-lg" /> Add
    </button>
  </div>
);
