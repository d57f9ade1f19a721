/** How finely something is lit, as a factor of the luxel of the build. */

const FACTORS: [value: string, label: string][] = [
  ['0.25', 'four times as fine'],
  ['0.5', 'twice as fine'],
  ['1', 'as the build says'],
  ['2', 'twice as coarse'],
  ['4', 'four times as coarse'],
];

interface Props {
  id: string;
  value: number | undefined;
  /** What holds where nothing is chosen. */
  otherwise: string;
  disabled?: boolean;
  onChange(value: number | undefined): void;
}

export function LuxelFactor({ id, value, otherwise, disabled, onChange }: Props) {
  const own = value !== undefined && !FACTORS.some(([factor]) => Number(factor) === value);
  return (
    <select
      id={id}
      className="form-select"
      value={value ?? ''}
      disabled={disabled}
      onChange={(e) => onChange(e.target.value ? Number(e.target.value) : undefined)}
    >
      <option value="">{otherwise}</option>
      {own && <option value={value}>{value} luxels</option>}
      {FACTORS.map(([factor, label]) => (
        <option key={factor} value={factor}>
          {label}
        </option>
      ))}
    </select>
  );
}
