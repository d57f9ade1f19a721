import type { TSchema } from '@sinclair/typebox';
import { plural } from '../common/format.ts';

/** A JSON value. */
export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

interface Props {
  schema: TSchema;
  value: Json | undefined;
  path: readonly string[];
  readOnly: boolean;
  set(path: readonly string[], value: Json | undefined): void;
}

interface Known {
  type?: string;
  properties?: Record<string, TSchema>;
  required?: string[];
  items?: TSchema;
  anyOf?: { const?: string }[];
  const?: string;
  description?: string;
  minimum?: number;
  maximum?: number;
}

/** "maxTriangles" as people read it. */
const words = (name: string): string => {
  const spaced = name.replaceAll(/([a-z0-9])([A-Z])/g, (_, a: string, b: string) => `${a} ${b.toLowerCase()}`);
  return spaced[0].toUpperCase() + spaced.slice(1);
};

/** The fields of one part of a document, made of its schema: what has no field of its own is edited as JSON. */
export function SchemaForm({ schema, value, path, readOnly, set }: Props) {
  const known = schema as unknown as Known;
  const name = path.at(-1) ?? '';
  const id = `field-${path.join('-')}`;
  const choices = known.anyOf?.every((one) => typeof one.const === 'string') ? known.anyOf.map((one) => one.const!) : null;
  if (known.type === 'object' && known.properties) {
    const record = (typeof value === 'object' && value !== null && !Array.isArray(value) ? value : {}) as Record<string, Json>;
    return (
      <fieldset className={path.length > 1 ? 'schema-part' : ''}>
        <legend className="form-label">{words(name)}</legend>
        {known.description && <div className="faint small mb-1">{known.description}</div>}
        {Object.entries(known.properties).map(([key, part]) => (
          <SchemaForm key={key} schema={part} value={record[key]} path={[...path, key]} readOnly={readOnly} set={set} />
        ))}
      </fieldset>
    );
  }
  const label = (
    <label htmlFor={id}>
      {words(name)}
      {known.description && <span className="faint small d-block">{known.description}</span>}
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
  if (known.type === 'boolean')
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
  if (known.type === 'number' || known.type === 'integer')
    return (
      <div className="schema-row">
        {label}
        <input
          id={id}
          type="number"
          className="form-control"
          step={known.type === 'integer' ? 1 : 'any'}
          min={known.minimum}
          max={known.maximum}
          readOnly={readOnly}
          value={typeof value === 'number' ? value : ''}
          onChange={(event) => set(path, event.target.value === '' ? undefined : Number(event.target.value))}
        />
      </div>
    );
  if (known.type === 'string')
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
  if (known.type === 'array' && (known.items as unknown as Known | undefined)?.type === 'string' && (value === undefined || Array.isArray(value)))
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
