/** Small typed fields of the inspector. Values are committed on Enter or on leaving the field. */

import './fields.css';
import { useEffect, useId, useState, type ReactNode } from 'react';
import { useAppSelector } from '../state/store.ts';
import { useShownUnit } from './useShownUnit.ts';

export function Field({ label, children, id }: { label: string; id?: string; children: ReactNode }) {
  return (
    <div className="row-field">
      <label htmlFor={id}>{label}</label>
      {children}
    </div>
  );
}

/** A text that is checked as it is typed; `problem` says what is wrong, or null. */
export function TextField({
  label,
  value,
  problem,
  onCommit,
  mono,
  rows,
}: {
  label: string;
  value: string;
  problem?(text: string): string | null;
  onCommit(text: string): void;
  mono?: boolean;
  rows?: number;
}) {
  const id = useId();
  const [draft, setDraft] = useState(value);
  useEffect(() => setDraft(value), [value]);
  const wrong = draft === value ? null : (problem?.(draft) ?? null);
  const commit = () => {
    if (draft === value) return;
    if (problem?.(draft)) setDraft(value);
    else onCommit(draft);
  };
  const shared = {
    id,
    className: `form-control ${mono ? 'mono' : ''} ${wrong ? 'is-invalid' : ''}`,
    value: draft,
    onBlur: commit,
    'aria-invalid': wrong !== null,
  };
  return (
    <>
      <Field label={label} id={id}>
        {rows ? (
          <textarea {...shared} rows={rows} onChange={(e) => setDraft(e.target.value)} />
        ) : (
          <input
            {...shared}
            spellCheck={false}
            onChange={(e) => setDraft(e.target.value)}
            onKeyDown={(e) => (e.key === 'Enter' ? commit() : e.key === 'Escape' && setDraft(value))}
          />
        )}
      </Field>
      {wrong && (
        <div className="severity blocker small text-wrap mb-1" role="alert">
          {wrong}
        </div>
      )}
    </>
  );
}

/** One number without a label of its own; `name` is what screen readers say. */
export function NumberInput({
  name,
  value,
  min,
  max,
  step,
  onCommit,
  id,
}: {
  name: string;
  value: number;
  min?: number;
  max?: number;
  step?: number;
  onCommit(value: number): void;
  id?: string;
}) {
  const shown = String(Math.round(value * 1e4) / 1e4);
  const [draft, setDraft] = useState(shown);
  useEffect(() => setDraft(shown), [shown]);
  const number = Number(draft);
  const wrong = draft.trim() === '' || !Number.isFinite(number) || (min !== undefined && number < min) || (max !== undefined && number > max);
  const commit = () => {
    if (wrong) setDraft(shown);
    else if (draft !== shown) onCommit(number);
  };
  return (
    <input
      id={id}
      aria-label={id ? undefined : name}
      aria-invalid={wrong}
      title={wrong ? `${name}: a number${min !== undefined ? ` from ${min}` : ''}${max !== undefined ? ` to ${max}` : ''}` : name}
      className={`form-control mono ${wrong ? 'is-invalid' : ''}`}
      inputMode="decimal"
      step={step}
      value={draft}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={commit}
      onKeyDown={(e) => (e.key === 'Enter' ? commit() : e.key === 'Escape' && setDraft(shown))}
    />
  );
}

/** @param unit as the profile writes it; lengths in it are shown in metres where the user prefers that */
export function NumberField(props: { label: string; unit?: string; value: number; min?: number; max?: number; onCommit(value: number): void }) {
  const id = useId();
  const { unit, factor, scaled } = useShownUnit(props.unit);
  return (
    <Field label={unit ? `${props.label} (${unit})` : props.label} id={id}>
      <NumberInput
        id={id}
        name={props.label}
        value={props.value * factor}
        min={scaled(props.min)}
        max={scaled(props.max)}
        onCommit={(value) => props.onCommit(value / factor)}
      />
    </Field>
  );
}

/** @param isLength shown in metres where the user prefers that */
export function VectorField({
  label,
  value,
  onCommit,
  isLength,
}: {
  label: string;
  value: readonly number[];
  onCommit(value: [number, number, number]): void;
  isLength?: boolean;
}) {
  const plural = useAppSelector((s) => s.crate.profile?.unit.plural);
  const { factor } = useShownUnit(isLength ? plural : undefined);
  return (
    <div className="row-field" role="group" aria-label={label}>
      <label>{label}</label>
      <div className="triple">
        {(['x', 'y', 'z'] as const).map((axis, i) => (
          <NumberInput
            key={axis}
            name={`${label} ${axis}`}
            value={value[i] * factor}
            onCommit={(v) => onCommit(value.map((old, k) => (k === i ? v / factor : old)) as [number, number, number])}
          />
        ))}
      </div>
    </div>
  );
}

export function ChoiceField({
  label,
  value,
  choices,
  onCommit,
}: {
  label: string;
  value: string;
  choices: readonly (readonly [value: string, label: string])[];
  onCommit(value: string): void;
}) {
  const id = useId();
  return (
    <Field label={label} id={id}>
      <select id={id} className="form-select" value={value} onChange={(e) => onCommit(e.target.value)}>
        {!choices.some(([v]) => v === value) && <option value={value}>{value || '(none)'} – missing</option>}
        {choices.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </Field>
  );
}

export function CheckField({ label, value, onCommit, title }: { label: string; value: boolean; onCommit(value: boolean): void; title?: string }) {
  const id = useId();
  return (
    <Field label={label} id={id}>
      <input id={id} title={title} type="checkbox" className="form-check-input" checked={value} onChange={(e) => onCommit(e.target.checked)} />
    </Field>
  );
}

/** A number between two ends, told at every move. `hint` is what it is called where the label alone says too little. */
export function RangeField(props: {
  label: string;
  hint: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange(value: number): void;
}) {
  const { label, hint, onChange, ...range } = props;
  return (
    <label className="row-field">
      <span>{label}</span>
      <input type="range" {...range} aria-label={hint} onChange={(event) => onChange(Number(event.target.value))} />
    </label>
  );
}
