import type { TSchema } from '@sinclair/typebox';
import { useState } from 'react';
import { plural } from '../common/format.ts';
import { EntryList } from './EntryList.tsx';
import { blankOf, choicesOf, isRecord, known, variantOf, variantWords, words, type Json, type JsonRecord } from './schema.ts';

interface Props {
  schema: TSchema;
  value: Json | undefined;
  path: readonly string[];
  readOnly: boolean;
  set(path: readonly string[], value: Json | undefined): void;
}

/** The fields of one part of a document, made of its schema: what has no field of its own is edited as JSON. */
export function SchemaForm({ schema, value, path, readOnly, set }: Props) {
  const about = known(schema);
  const name = path.at(-1) ?? '';
  const id = `field-${path.join('-')}`;
  const choices = choicesOf(schema);
  const parts = (properties: Record<string, TSchema>, record: JsonRecord) =>
    Object.entries(properties).map(([key, part]) => (
      <SchemaForm key={key} schema={part} value={record[key]} path={[...path, key]} readOnly={readOnly} set={set} />
    ));
  if (about.type === 'object' && about.properties) {
    const fields = parts(about.properties, isRecord(value) ? value : {});
    // An entry of a list stands under its own name already.
    if (/^\d+$/.test(name)) return <>{fields}</>;
    return (
      <fieldset className={path.length > 1 ? 'schema-part' : ''}>
        <legend className="form-label">{words(name)}</legend>
        {about.description && <div className="faint small mb-1">{about.description}</div>}
        {fields}
      </fieldset>
    );
  }
  const items = Array.isArray(about.items) ? undefined : about.items;
  if (about.type === 'array' && items && known(items).type === 'object')
    return (
      <EntryList
        schema={items}
        entries={Array.isArray(value) ? value : []}
        path={path}
        description={about.description}
        readOnly={readOnly}
        set={set}
        form={(index) => <SchemaForm schema={items} value={(value as Json[])[index]} path={[...path, String(index)]} readOnly={readOnly} set={set} />}
      />
    );
  const label = (
    <label htmlFor={id}>
      {words(name)}
      {about.description && <span className="faint small d-block">{about.description}</span>}
    </label>
  );
  if (choices)
    return (
      <div className="schema-row">
        {label}
        <select
          id={id}
          className="form-select"
          disabled={readOnly}
          value={String(value ?? '')}
          onChange={(event) => set(path, event.target.value || undefined)}
        >
          {value === undefined && <option value="">–</option>}
          {choices.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </div>
    );
  if (about.type === 'boolean')
    return (
      <div className="schema-row">
        {label}
        <input
          id={id}
          type="checkbox"
          className="form-check-input"
          disabled={readOnly}
          checked={value === true}
          onChange={(event) => set(path, event.target.checked)}
        />
      </div>
    );
  if (about.type === 'number' || about.type === 'integer')
    return (
      <div className="schema-row">
        {label}
        <input
          id={id}
          type="number"
          className="form-control"
          step={about.type === 'integer' ? 1 : 'any'}
          min={about.minimum}
          max={about.maximum}
          readOnly={readOnly}
          value={typeof value === 'number' ? value : ''}
          onChange={(event) => set(path, event.target.value === '' ? undefined : Number(event.target.value))}
        />
      </div>
    );
  if (about.type === 'string')
    return (
      <div className="schema-row">
        {label}
        <input
          id={id}
          className="form-control"
          readOnly={readOnly}
          value={typeof value === 'string' ? value : ''}
          onChange={(event) => set(path, event.target.value === '' ? undefined : event.target.value)}
        />
      </div>
    );
  const itemChoices = items ? choicesOf(items) : null;
  if (about.type === 'array' && itemChoices) {
    const chosen = Array.isArray(value) ? value : [];
    return (
      <div className="schema-row" role="group" aria-label={words(name)}>
        <span>{words(name)}</span>
        <div className="d-flex flex-wrap gap-3">
          {itemChoices.map((one) => (
            <label key={one} className="d-inline-flex gap-1 align-items-center">
              <input
                type="checkbox"
                className="form-check-input m-0"
                disabled={readOnly}
                checked={chosen.includes(one)}
                onChange={(event) => set(path, event.target.checked ? [...chosen, one] : chosen.filter((other) => other !== one))}
              />
              {one}
            </label>
          ))}
        </div>
      </div>
    );
  }
  const numbers = Array.isArray(about.items) ? about.items : items ? [items] : [];
  if (about.type === 'array' && numbers.length > 0 && numbers.every((one) => ['number', 'integer'].includes(known(one).type ?? '')))
    return (
      <div className="schema-row">
        {label}
        <TypedText
          id={id}
          readOnly={readOnly}
          text={Array.isArray(value) ? value.join(', ') : ''}
          read={(text) => {
            const all = text
              .split(/[\s,;]+/)
              .filter((one) => one !== '')
              .map(Number);
            const length = Array.isArray(about.items) ? about.items.length : all.length;
            if (all.some((one) => !Number.isFinite(one)) || (all.length > 0 && all.length !== length)) return null;
            return { value: all.length === 0 ? undefined : all };
          }}
          hint={`Numbers with commas between${Array.isArray(about.items) ? `: ${about.items.length} of them` : ''}`}
          commit={(next) => set(path, next)}
        />
      </div>
    );
  if (about.anyOf?.every((one) => known(one).type === 'object')) {
    const variant = variantOf(about.anyOf, value);
    return (
      <fieldset className="schema-part">
        <legend className="form-label">{words(name)}</legend>
        <div className="schema-row">
          <label htmlFor={id}>Kind</label>
          <select
            id={id}
            className="form-select"
            disabled={readOnly}
            value={variant}
            onChange={(event) => set(path, event.target.value === '-1' ? undefined : blankOf(about.anyOf![Number(event.target.value)]))}
          >
            <option value={-1}>none</option>
            {about.anyOf.map((one, i) => (
              <option key={i} value={i}>
                {variantWords(one)}
              </option>
            ))}
          </select>
        </div>
        {variant >= 0 && parts(known(about.anyOf[variant]).properties!, isRecord(value) ? value : {})}
      </fieldset>
    );
  }
  if (about.anyOf)
    return (
      <div className="schema-row">
        {label}
        <TypedText
          id={id}
          readOnly={readOnly}
          text={value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value)}
          read={(text) => ({ value: text === '' ? undefined : anyValue(text) })}
          hint="A number, true or false, numbers in brackets, or a text"
          commit={(next) => set(path, next)}
        />
      </div>
    );
  const pattern = Object.values(about.patternProperties ?? {})[0];
  if (pattern && known(pattern).type === 'string')
    return (
      <div className="schema-row">
        {label}
        <TypedText
          id={id}
          rows
          readOnly={readOnly}
          text={
            isRecord(value)
              ? Object.entries(value)
                  .map(([key, one]) => `${key}=${String(one)}`)
                  .join('\n')
              : ''
          }
          read={(text) => {
            const lines = text.split('\n').filter((line) => line.trim() !== '');
            if (lines.some((line) => line.indexOf('=') < 1)) return null;
            const pairs = lines.map((line) => [line.slice(0, line.indexOf('=')).trim(), line.slice(line.indexOf('=') + 1)]);
            return { value: pairs.length === 0 ? undefined : Object.fromEntries(pairs) };
          }}
          hint="One a line: NAME=value"
          commit={(next) => set(path, next)}
        />
      </div>
    );
  if (about.type === 'array' && items && known(items).type === 'string' && (value === undefined || Array.isArray(value)))
    return (
      <div className="schema-row">
        {label}
        <textarea
          id={id}
          className="form-control mono"
          rows={Math.min(6, (value?.length ?? 0) + 1)}
          readOnly={readOnly}
          aria-description="One a line"
          value={(value ?? []).join('\n')}
          onChange={(event) => set(path, event.target.value === '' ? [] : event.target.value.split('\n'))}
        />
      </div>
    );
  const count = Array.isArray(value) ? value.length : value === undefined ? 0 : Object.keys(value as object).length;
  return (
    <div className="schema-row">
      {label}
      <span className="faint">{plural(count, 'entry', 'entries')}, edited under JSON</span>
    </div>
  );
}

/** A value of an open kind, as it was typed: whatever is JSON but a text or a record is that. */
function anyValue(text: string): Json {
  try {
    const value = JSON.parse(text) as Json;
    return typeof value === 'string' || isRecord(value) ? text : value;
  } catch {
    return text;
  }
}

/** A text that means a value: kept when the field is left, where it can be read. */
function TypedText(props: {
  id: string;
  text: string;
  rows?: boolean;
  readOnly: boolean;
  hint: string;
  read(text: string): { value: Json | undefined } | null;
  commit(value: Json | undefined): void;
}) {
  const { id, text, rows, readOnly, hint, read, commit } = props;
  const [draft, setDraft] = useState<string | null>(null);
  const shown = draft ?? text;
  const wrong = draft !== null && read(draft) === null;
  const shared = {
    id,
    readOnly,
    title: hint,
    value: shown,
    'aria-invalid': wrong,
    className: `form-control mono ${wrong ? 'is-invalid' : ''}`,
    onChange: (event: { target: { value: string } }) => setDraft(event.target.value),
    onBlur: () => {
      if (draft === null) return;
      const known = read(draft);
      if (!known) return;
      if (draft !== text) commit(known.value);
      setDraft(null);
    },
  };
  return (
    <div>
      {rows ? <textarea {...shared} rows={Math.min(6, shown.split('\n').length + 1)} /> : <input {...shared} />}
      {wrong && (
        <div className="severity blocker small" role="alert">
          {hint}.
        </div>
      )}
    </div>
  );
}
