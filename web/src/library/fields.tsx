/** Fields of conversion settings: a label over a control, in a grid of settings. */

interface ChoiceProps {
  id: string;
  label: string;
  value: string;
  values: readonly (string | [string, string])[];
  disabled?: boolean;
  onChange(value: string): void;
}

export function Choice({ id, label, value, values, disabled, onChange }: ChoiceProps) {
  return (
    <div>
      <label className="form-label" htmlFor={`option-${id}`}>
        {label}
      </label>
      <select id={`option-${id}`} className="form-select" value={value} disabled={disabled} onChange={(event) => onChange(event.target.value)}>
        {values.map((entry) => {
          const [key, word] = typeof entry === 'string' ? [entry, entry] : entry;
          return (
            <option key={key} value={key}>
              {word}
            </option>
          );
        })}
      </select>
    </div>
  );
}

interface AmountProps {
  id: string;
  label: string;
  value: number;
  min?: number;
  max?: number;
  step?: number;
  unit?: string;
  disabled?: boolean;
  onChange(value: number): void;
}

export function Amount({ id, label, value, min, max, step, unit, disabled, onChange }: AmountProps) {
  return (
    <div>
      <label className="form-label" htmlFor={`option-${id}`}>
        {label}
        {unit ? `, ${unit}` : ''}
      </label>
      <input
        id={`option-${id}`}
        type="number"
        className="form-control"
        value={value}
        min={min}
        max={max}
        step={step ?? 'any'}
        disabled={disabled}
        onChange={(event) => event.target.value !== '' && Number.isFinite(event.target.valueAsNumber) && onChange(event.target.valueAsNumber)}
      />
    </div>
  );
}

export function Switch({
  id,
  label,
  value,
  disabled,
  onChange,
}: {
  id: string;
  label: string;
  value: boolean;
  disabled?: boolean;
  onChange(value: boolean): void;
}) {
  return (
    <div className="form-check align-self-end mb-1">
      <input
        id={`option-${id}`}
        type="checkbox"
        className="form-check-input"
        checked={value}
        disabled={disabled}
        onChange={(event) => onChange(event.target.checked)}
      />
      <label className="form-check-label" htmlFor={`option-${id}`}>
        {label}
      </label>
    </div>
  );
}
