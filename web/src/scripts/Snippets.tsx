import { useState } from 'react';
import { Modal } from 'react-bootstrap';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { addSnippet, removeSnippet, snippetCredit, snippetProblem, SnippetSchema, snippetsIn, type Snippet } from '@violet-crate/core/script/snippet';
import { message, sendJson } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { manifestChanged } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

const EMPTY: Snippet = { format: 1, title: '', author: '', licence: '', call: '', body: '' };

interface Props {
  path: string;
  source: string;
  onChange(source: string): void;
}

/** Shared pieces of script in this one: adding with credit, and taking out again without a trace. */
export function Snippets({ path, source, onChange }: Props) {
  const dispatch = useAppDispatch();
  const { view, profile, scripts } = useAppSelector((s) => s.crate);
  const [open, setOpen] = useState(false);
  const [problem, setProblem] = useState('');
  if (!view || !profile) return null;
  const known = snippetsIn(source);
  const credit = (credits: CrateManifest['credits']) =>
    sendJson<CrateManifest>('PATCH', `/api/crates/${view.id}`, { credits })
      .then((manifest) => dispatch(manifestChanged(manifest)))
      .catch((error) => setProblem(message(error)));
  const add = (snippet: Snippet) => {
    onChange(addSnippet(source, snippet, profile.scripts.startup));
    const own = snippetCredit(snippet);
    if (!view.manifest.credits.some((c) => c.author === own.author && c.work === own.work)) void credit([...view.manifest.credits, own]);
    setOpen(false);
  };
  const remove = (snippet: (typeof known)[number]) => {
    onChange(removeSnippet(source, snippet.title, profile.scripts.startup));
    // The credit goes with the last script that holds the snippet.
    const elsewhere = Object.entries(scripts).some(([other, text]) => other !== path && snippetsIn(text).some((s) => s.title === snippet.title));
    const own = snippetCredit(snippet);
    if (!elsewhere) void credit(view.manifest.credits.filter((c) => c.author !== own.author || c.work !== own.work));
  };
  return (
    <>
      <div className="d-flex align-items-center mb-1">
        <h2 className="m-0 flex-grow-1">Snippets</h2>
        <button className="btn btn-quiet btn-sm" onClick={() => setOpen(true)}>
          <Icon name="plus-lg" /> Add
        </button>
      </div>
      {problem && <div className="severity blocker text-wrap">{problem}</div>}
      {known.length === 0 && (
        <p className="faint small">
          None in this script. Adding one puts its call into {profile.scripts.startup}, its functions at the end, and its author into the credits.
        </p>
      )}
      <ul className="list-unstyled small">
        {known.map((snippet) => (
          <li key={snippet.title} className="d-flex gap-2 align-items-center">
            <span className="flex-grow-1">
              {snippet.title} <span className="faint">by {snippet.author}</span>
            </span>
            <button className="btn btn-quiet btn-sm py-0" onClick={() => remove(snippet)} aria-label={`Remove snippet ${snippet.title}`}>
              Remove
            </button>
          </li>
        ))}
      </ul>
      {open && <SnippetDialog source={source} startup={profile.scripts.startup} onAdd={add} onClose={() => setOpen(false)} />}
    </>
  );
}

function SnippetDialog({ source, startup, onAdd, onClose }: { source: string; startup: string; onAdd(snippet: Snippet): void; onClose(): void }) {
  const [draft, setDraft] = useState<Snippet>(EMPTY);
  const [unreadable, setUnreadable] = useState('');
  const missing = !draft.title.trim()
    ? 'It needs a title.'
    : !draft.author.trim()
      ? 'Say whose work it is.'
      : !draft.licence.trim()
        ? 'Say under which licence it is shared.'
        : !draft.body.trim()
          ? 'Paste its functions.'
          : null;
  const problem = missing ?? snippetProblem(source, draft, startup);
  const field = (id: 'title' | 'author' | 'licence' | 'call', label: string, placeholder: string) => (
    <div className="mb-2">
      <label className="form-label" htmlFor={`snippet-${id}`}>
        {label}
      </label>
      <input
        id={`snippet-${id}`}
        className={`form-control ${id === 'call' ? 'mono' : ''}`}
        placeholder={placeholder}
        value={draft[id]}
        onChange={(event) => setDraft({ ...draft, [id]: event.target.value })}
      />
    </div>
  );
  return (
    <Modal show onHide={onClose} aria-labelledby="snippet-title-bar">
      <Modal.Header closeButton>
        <h2 id="snippet-title-bar" className="m-0">
          Add a snippet
        </h2>
      </Modal.Header>
      <Modal.Body>
        <label className="btn btn-quiet btn-sm mb-2">
          <Icon name="file-earmark-arrow-up" /> Take it from a file
          <input
            type="file"
            className="visually-hidden"
            accept=".json"
            onChange={(event) => {
              const file = event.target.files?.[0];
              setUnreadable('');
              file
                ?.text()
                .then((text) => setDraft(readDocument(text, SnippetSchema, file.name)))
                .catch((error) => setUnreadable(message(error)));
            }}
          />
        </label>
        {unreadable && (
          <div className="severity blocker text-wrap mb-2" role="alert">
            {unreadable}
          </div>
        )}
        {field('title', 'Title', 'Dripping pipes')}
        {field('author', 'Author', '')}
        {field('licence', 'Licence', 'CC BY 4.0')}
        {field('call', `Line for ${startup}`, 'drip_pipes()')}
        <label className="form-label" htmlFor="snippet-body">
          Functions
        </label>
        <textarea
          id="snippet-body"
          className="form-control mono"
          rows={8}
          value={draft.body}
          onChange={(event) => setDraft({ ...draft, body: event.target.value })}
        />
      </Modal.Body>
      <Modal.Footer>
        <span className={`flex-grow-1 small ${missing ? 'faint' : 'severity blocker text-wrap'}`} role="status">
          {problem}
        </span>
        <button className="btn btn-primary" disabled={problem !== null} onClick={() => onAdd(draft)}>
          Add to the script
        </button>
      </Modal.Footer>
    </Modal>
  );
}
