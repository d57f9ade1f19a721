import { useState, type ReactNode } from 'react';
import type { TSchema } from '@sinclair/typebox';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { blankOf, isRecord, known, words, type Json } from './schema.ts';

interface Props {
  /** Of one entry. */
  schema: TSchema;
  entries: readonly Json[];
  path: readonly string[];
  description?: string;
  readOnly: boolean;
  set(path: readonly string[], value: Json | undefined): void;
  /** The form of the entry at a place. */
  form(index: number): ReactNode;
}

/** What an entry is called by those who wrote it. */
function nameOf(entry: Json, index: number): string {
  if (!isRecord(entry)) return `${index + 1}`;
  const name = [entry.title, entry.label, entry.name, entry.id, entry.path, entry.class, entry.line].find(
    (one) => typeof one === 'string' && one !== '',
  );
  return typeof name === 'string' ? name : `${index + 1}`;
}

/** A list of records: each opens to its own form, and can be moved, doubled and taken away. */
export function EntryList({ schema, entries, path, description, readOnly, set, form }: Props) {
  const [opened, setOpened] = useState<number | null>(null);
  const [wanted, setWanted] = useState('');
  const title = words(path.at(-1) ?? '');
  const change = (next: Json[], at: number | null) => {
    set(path, next);
    setOpened(at);
  };
  const move = (from: number, to: number) => {
    const next = entries.filter((_, i) => i !== from);
    next.splice(to, 0, entries[from]);
    change(next, to);
  };
  const add = () => change([...entries, blankOf(schema)], entries.length);
  const shown = entries
    .map((entry, index) => ({ index, name: nameOf(entry, index) }))
    .filter(({ name }) => name.toLowerCase().includes(wanted.toLowerCase()));
  return (
    <fieldset className="entry-list" aria-label={title}>
      <legend className="form-label">
        {title} <span className="faint small">{plural(entries.length, 'entry', 'entries')}</span>
      </legend>
      {(description ?? known(schema).description) && <div className="faint small mb-1">{description ?? known(schema).description}</div>}
      <div className="d-flex gap-2 mb-1">
        {entries.length > 8 && (
          <input
            type="search"
            className="form-control"
            placeholder={`Search ${title.toLowerCase()}`}
            aria-label={`Search ${title.toLowerCase()}`}
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
        )}
        {!readOnly && (
          <button type="button" className="btn btn-quiet btn-sm text-nowrap" onClick={add} aria-label={`Add to ${title.toLowerCase()}`}>
            <Icon name="plus" /> Add
          </button>
        )}
      </div>
      {shown.map(({ index, name }) => (
        <div key={index} className="entry">
          <button
            type="button"
            className="btn btn-quiet btn-sm w-100 text-start"
            aria-expanded={opened === index}
            onClick={() => setOpened(opened === index ? null : index)}
          >
            <Icon name={opened === index ? 'chevron-down' : 'chevron-right'} /> {name}
          </button>
          {opened === index && (
            <div className="entry-form">
              {!readOnly && (
                <div className="d-flex gap-1 mb-2 flex-wrap">
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm"
                    aria-label={`Move ${name} up`}
                    disabled={index === 0}
                    onClick={() => move(index, index - 1)}
                  >
                    <Icon name="arrow-up" /> Up
                  </button>
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm"
                    aria-label={`Move ${name} down`}
                    disabled={index === entries.length - 1}
                    onClick={() => move(index, index + 1)}
                  >
                    <Icon name="arrow-down" /> Down
                  </button>
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm"
                    aria-label={`Double ${name}`}
                    onClick={() => change([...entries.slice(0, index + 1), entries[index], ...entries.slice(index + 1)], index + 1)}
                  >
                    <Icon name="copy" /> Double
                  </button>
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm"
                    aria-label={`Take ${name} away`}
                    onClick={() =>
                      change(
                        entries.filter((_, i) => i !== index),
                        null,
                      )
                    }
                  >
                    <Icon name="trash" /> Take away
                  </button>
                </div>
              )}
              {form(index)}
            </div>
          )}
        </div>
      ))}
    </fieldset>
  );
}
