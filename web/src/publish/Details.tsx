import { useMemo, useState } from 'react';
import type { About, CrateManifest } from '@violet-crate/core/crate/manifest';
import { COMMON_LICENCES, meantLicence, readLicence } from '@violet-crate/core/release/licence/expression';
import { htmlOfMarkdown } from '@violet-crate/core/release/markdown';
import { message, sendJson } from '../api/http.ts';
import type { ReleaseChanges } from '../api/types.ts';
import { Icon } from '../common/Icon.tsx';
import { manifestChanged, refreshPackages } from '../state/crateSlice.ts';
import { useAppDispatch } from '../state/store.ts';

const words = (text: string): string[] =>
  text
    .split(',')
    .map((word) => word.trim())
    .filter(Boolean);

/** Title, version, description and all that players choose by. @param changes since the last release, once they are known */
export function Details({ manifest, crateId, changes = null }: { manifest: CrateManifest; crateId: string; changes?: ReleaseChanges | null }) {
  const dispatch = useAppDispatch();
  const about = manifest.about ?? {};
  const [draft, setDraft] = useState({
    title: manifest.title,
    description: manifest.description,
    version: manifest.version,
    authors: manifest.authors.join(', '),
    credits: manifest.credits,
    licence: manifest.licence ?? '',
    tags: (about.tags ?? []).join(', '),
    least: about.players?.[0].toString() ?? '',
    most: about.players?.[1].toString() ?? '',
    minutes: about.minutes?.toString() ?? '',
    difficulty: about.difficulty ?? '',
    languages: (about.languages ?? []).join(', '),
    requires: Object.entries(manifest.requires ?? {}),
  });
  const [preview, setPreview] = useState(false);
  const [note, setNote] = useState<{ tone: string; text: string } | null>(null);
  const html = useMemo(() => (preview ? htmlOfMarkdown(draft.description) : ''), [preview, draft.description]);
  const set = (change: Partial<typeof draft>) => {
    setDraft({ ...draft, ...change });
    setNote(null);
  };
  const licenceWrong = draft.licence !== '' && !readLicence(draft.licence);
  const meant = licenceWrong ? meantLicence(draft.licence) : null;
  const save = async () => {
    const { tags, least, most, minutes, difficulty, languages, authors, credits, requires, ...rest } = draft;
    const told: About = {
      ...(words(tags).length > 0 ? { tags: words(tags) } : {}),
      ...(least || most ? { players: [Number(least || most), Number(most || least)] } : {}),
      ...(minutes ? { minutes: Number(minutes) } : {}),
      ...(difficulty ? { difficulty: difficulty as About['difficulty'] } : {}),
      ...(words(languages).length > 0 ? { languages: words(languages) } : {}),
    };
    const body = {
      ...rest,
      authors: words(authors),
      credits: credits.filter((c) => c.author.trim() !== ''),
      about: told,
      requires: Object.fromEntries(requires.filter(([name]) => name.trim() !== '')),
    };
    try {
      dispatch(manifestChanged(await sendJson<CrateManifest>('PATCH', `/api/crates/${crateId}`, body)));
      await dispatch(refreshPackages(crateId));
      setNote({ tone: 'clear', text: 'Saved' });
    } catch (error) {
      setNote({ tone: 'blocked', text: message(error) });
    }
  };
  const input = (id: keyof typeof draft, label: string, more: React.InputHTMLAttributes<HTMLInputElement> = {}) => (
    <div>
      <label className="form-label" htmlFor={`pub-${id}`}>
        {label}
      </label>
      <input id={`pub-${id}`} className="form-control" value={String(draft[id])} onChange={(event) => set({ [id]: event.target.value })} {...more} />
    </div>
  );
  return (
    <form
      className="panel"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <header>
        <h2>What people will read</h2>
      </header>
      <div className="body publish-form">
        <div className="two-one">
          {input('title', 'Title', { required: true })}
          <div>
            {input('version', 'Version', { required: true, className: 'form-control mono' })}
            {changes?.since && changes.version !== draft.version && !changes.unchanged && (
              <button type="button" className="btn btn-quiet btn-sm mt-1" title={changes.why} onClick={() => set({ version: changes.version })}>
                {changes.version}: {changes.why}
              </button>
            )}
          </div>
        </div>
        <div>
          <div className="d-flex align-items-end gap-2">
            <label className="form-label flex-grow-1" htmlFor="pub-description">
              Description <span className="faint">in Markdown</span>
            </label>
            <button type="button" className="btn btn-quiet btn-sm mb-1" aria-pressed={preview} onClick={() => setPreview(!preview)}>
              {preview ? 'Write' : 'Preview'}
            </button>
          </div>
          {preview ? (
            // Made safe by the reader of Markdown: no HTML of one's own, no links that act.
            <div className="markdown" data-testid="preview" dangerouslySetInnerHTML={{ __html: html }} />
          ) : (
            <textarea
              id="pub-description"
              className="form-control"
              rows={5}
              value={draft.description}
              onChange={(event) => set({ description: event.target.value })}
            />
          )}
        </div>
        <div className="two-one">
          {input('authors', 'Authors', { placeholder: 'Names, with commas between' })}
          <div>
            {input('licence', 'Licence of the whole', {
              list: 'licences',
              placeholder: 'CC-BY-4.0',
              spellCheck: false,
              className: 'form-control mono',
              'aria-invalid': licenceWrong,
            })}
            <datalist id="licences">
              {COMMON_LICENCES.map((id) => (
                <option key={id} value={id} />
              ))}
            </datalist>
            {licenceWrong && (
              <div className="severity warning text-wrap">
                No licence of the SPDX list.{' '}
                {meant && (
                  <button type="button" className="btn btn-quiet btn-sm py-0" onClick={() => set({ licence: meant })}>
                    Take {meant}
                  </button>
                )}
              </div>
            )}
          </div>
        </div>
        <div className="fields-row">
          {input('tags', 'Tags', { placeholder: 'puzzle, short' })}
          {input('least', 'Players from', { type: 'number', min: 1, max: 99 })}
          {input('most', 'to', { type: 'number', min: 1, max: 99 })}
          {input('minutes', 'Minutes', { type: 'number', min: 1, max: 6000 })}
          <div>
            <label className="form-label" htmlFor="pub-difficulty">
              Difficulty
            </label>
            <select
              id="pub-difficulty"
              className="form-select"
              value={draft.difficulty}
              onChange={(event) => set({ difficulty: event.target.value as About['difficulty'] })}
            >
              <option value="">not said</option>
              {['easy', 'medium', 'hard'].map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </div>
          {input('languages', 'Languages', { placeholder: 'en, de' })}
        </div>
        <div className="d-flex align-items-center">
          <span className="form-label m-0 flex-grow-1">Credits for the work of others, beside those of files</span>
          <button
            type="button"
            className="btn btn-quiet btn-sm"
            onClick={() => set({ credits: [...draft.credits, { author: '', work: '', licence: '' }] })}
          >
            <Icon name="plus-lg" /> Add
          </button>
        </div>
        {draft.credits.map((credit, i) => {
          const change = (part: Partial<typeof credit>) => set({ credits: draft.credits.map((c, k) => (k === i ? { ...c, ...part } : c)) });
          return (
            <div className="d-flex gap-1" key={i}>
              {(['author', 'work', 'licence'] as const).map((part) => (
                <input
                  key={part}
                  className="form-control"
                  aria-label={`${part[0].toUpperCase()}${part.slice(1)} of credit ${i + 1}`}
                  placeholder={`${part[0].toUpperCase()}${part.slice(1)}`}
                  value={credit[part]}
                  onChange={(event) => change({ [part]: event.target.value })}
                />
              ))}
              <button
                type="button"
                className="btn btn-quiet"
                aria-label={`Remove credit ${i + 1}`}
                onClick={() => set({ credits: draft.credits.filter((_, k) => k !== i) })}
              >
                <Icon name="x-lg" />
              </button>
            </div>
          );
        })}
        <div className="d-flex align-items-center">
          <span className="form-label m-0 flex-grow-1">Other mods that it needs, with the versions that do</span>
          <button type="button" className="btn btn-quiet btn-sm" onClick={() => set({ requires: [...draft.requires, ['', '*']] })}>
            <Icon name="plus-lg" /> Add one
          </button>
        </div>
        {draft.requires.map(([name, range], i) => {
          const change = (to: [string, string]) => set({ requires: draft.requires.map((one, k) => (k === i ? to : one)) });
          return (
            <div className="d-flex gap-1" key={i}>
              <input
                className="form-control mono"
                aria-label={`Name of needed mod ${i + 1}`}
                placeholder="its name on the workshop"
                value={name}
                onChange={(event) => change([event.target.value, range])}
              />
              <input
                className="form-control mono"
                aria-label={`Versions of needed mod ${i + 1}`}
                placeholder="^1.2.0"
                value={range}
                onChange={(event) => change([name, event.target.value])}
              />
              <button
                type="button"
                className="btn btn-quiet"
                aria-label={`Remove needed mod ${i + 1}`}
                onClick={() => set({ requires: draft.requires.filter((_, k) => k !== i) })}
              >
                <Icon name="x-lg" />
              </button>
            </div>
          );
        })}
        <div className="d-flex align-items-center gap-3">
          <button className="btn btn-primary">
            <Icon name="check-lg" /> Save details
          </button>
          {note && (
            <span className={`stamp ${note.tone}`} role="status">
              {note.text}
            </span>
          )}
        </div>
      </div>
    </form>
  );
}
