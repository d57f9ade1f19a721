import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import type { Use } from '@violet-crate/core/library/usage';
import { message, RequestProblem, sendJson } from '../api/http.ts';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { openCrate } from '../state/crateSlice.ts';
import { classFor } from '../map/editing/edits.ts';
import { selected, viewChanged } from '../state/viewSlice.ts';
import { FindingRow } from '../common/FindingRow.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { EditElsewhere } from '../opening/EditElsewhere.tsx';
import { MaterialPanel } from './MaterialPanel.tsx';
import { ModelPanel } from './ModelPanel.tsx';
import { SoundPanel } from './SoundPanel.tsx';
import { SubtitlePanel } from './SubtitlePanel.tsx';
import { TexturePanel } from './TexturePanel.tsx';

interface Props {
  entry: LibraryEntry;
  source: AssetSource;
  /** Code of the finding whose place is to be shown. */
  code: string | null;
  onRemoved(what: string, undo: string): Promise<void>;
  onMoved(id: string): void;
}

/** One asset or material: what it is, what is wrong with it, how it was made, and who uses it. */
export function AssetDetail({ entry, source, code, onRemoved, onMoved }: Props) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const [name, setName] = useState<string | null>(null);
  const [problem, setProblem] = useState('');
  const [held, setHeld] = useState(false);
  const own = entry.origin === 'crate';
  const stem = entry.kind === 'material' ? entry.name : entry.name.replace(/\.[^.]+$/, '');
  const finding = entry.findings.find((f) => f.code === code);

  const rename = async () => {
    try {
      const answer = await sendJson<{ entry: string }>('POST', `/api/crates/${view.id}/assets/rename`, { entry: entry.id, name });
      // Maps and scripts may have changed with it.
      await dispatch(openCrate(view.id));
      onMoved(answer.entry);
    } catch (error) {
      setProblem(message(error));
    }
  };
  const remove = async (anyway: boolean) => {
    setProblem('');
    try {
      const { undo } = await sendJson<{ undo: string }>('POST', `/api/crates/${view.id}/assets/remove`, { entries: [entry.id], anyway });
      await onRemoved(entry.name, undo);
    } catch (error) {
      setProblem(message(error));
      setHeld(error instanceof RequestProblem && error.code === 'asset-used');
    }
  };
  const show = (use: Use) => {
    if (use.by === 'map') {
      if (use.object) dispatch(selected({ kind: 'objects', ids: [use.object] }));
      else if (use.solid) dispatch(selected({ kind: 'solids', ids: [use.solid] }));
      void navigate(`/crates/${view.id}/map`);
    } else if (use.by === 'data') void navigate(`/crates/${view.id}/data?file=${encodeURIComponent(use.name)}&line=${use.line ?? 1}`);
    else if (use.by === 'script') void navigate(`/crates/${view.id}/scripts?file=${encodeURIComponent(use.name)}&line=${use.line ?? 1}`);
    else onMoved(use.by === 'material' ? `material:${use.name}` : use.name);
  };

  return (
    <>
      <header>
        {name === null ? (
          <h2 className="text-truncate" title={entry.name}>
            {entry.name}
          </h2>
        ) : (
          <form
            className="d-flex gap-1 flex-grow-1"
            onSubmit={(event) => {
              event.preventDefault();
              void rename();
            }}
          >
            <label className="visually-hidden" htmlFor="asset-name">
              New name
            </label>
            <input
              id="asset-name"
              className="form-control mono"
              autoFocus
              value={name}
              onChange={(event) => setName(event.target.value)}
              onKeyDown={(event) => event.key === 'Escape' && setName(null)}
            />
            <button className="btn btn-primary btn-sm">Rename</button>
            <button type="button" className="btn btn-quiet btn-sm" onClick={() => setName(null)}>
              Cancel
            </button>
          </form>
        )}
        {own && name === null && (
          <>
            {entry.kind !== 'script' && (
              <button className="btn btn-quiet btn-sm" onClick={() => (setName(stem), setProblem(''))} title="Maps, materials and scripts follow">
                <Icon name="pencil" /> Rename
              </button>
            )}
            <button className="btn btn-quiet btn-sm" onClick={() => void remove(false)}>
              <Icon name="trash" /> Remove
            </button>
          </>
        )}
      </header>
      <p className="faint small mb-2">
        {own ? (entry.record?.origin ? `from ${entry.record.origin.path}` : entry.pack || 'of this crate') : `of the game, read-only (${entry.pack})`}
        {entry.record?.origin?.pack ? `, pack ${entry.record.origin.pack}` : ''}
        {entry.bytes > 0 ? ` · ${bytes(entry.bytes)}` : ''}
        {entry.placeholder ? ' · a placeholder, to be replaced before publishing' : ''}
      </p>
      {problem && (
        <div className="severity blocker text-wrap mb-2" role="alert">
          {problem}{' '}
          {held && (
            <button className="btn btn-warm btn-sm" onClick={() => void remove(true)}>
              Remove it anyway
            </button>
          )}
        </div>
      )}
      {entry.findings.length > 0 && (
        <section className="panel mb-2" aria-label="Findings">
          {entry.findings.map((own) => (
            <FindingRow key={own.code + own.message} finding={own} here />
          ))}
        </section>
      )}
      <div className="d-flex gap-2 flex-wrap align-items-start">
        {(entry.kind === 'model' || entry.kind === 'sound') && (
          <button
            className="btn btn-quiet btn-sm mb-2"
            onClick={() => {
              const target = classFor(profile, entry.kind === 'sound' ? 'sound' : 'model');
              if (!target) return;
              dispatch(viewChanged({ tool: 'place', placeClass: target.id, placeAsset: entry.id }));
              void navigate(`/crates/${view.id}/map`);
            }}
          >
            <Icon name="pin-map" /> Place it in the map
          </button>
        )}
        {own && entry.kind !== 'material' && (entry.record || entry.kind === 'script') && <EditElsewhere path={entry.id} />}
      </div>
      {entry.kind === 'model' && entry.record && <ModelPanel entry={entry} source={source} shown={finding ?? null} />}
      {entry.kind === 'texture' && <TexturePanel entry={entry} source={source} />}
      {entry.kind === 'material' && entry.material && (
        <MaterialPanel key={JSON.stringify(entry.material)} entry={entry} source={source} onMoved={onMoved} />
      )}
      {entry.kind === 'sound' && <SoundPanel entry={entry} source={source} />}
      {entry.kind === 'subtitle' && <SubtitlePanel entry={entry} source={source} />}
      {entry.kind === 'script' && (
        <button className="btn btn-primary" onClick={() => void navigate(`/crates/${view.id}/scripts?file=${encodeURIComponent(entry.id)}`)}>
          <Icon name="code-slash" /> Open in the editor
        </button>
      )}
      <section className="mt-3">
        <h2>Used by {entry.uses.length === 0 ? 'nothing' : plural(entry.uses.length, 'place')}</h2>
        <ul className="uses">
          {entry.uses.slice(0, 100).map((use, i) => (
            <li key={i}>
              <span className="flex-grow-1">
                {use.by} <code>{use.name}</code>: {use.what}
              </span>
              <button className="btn btn-quiet btn-sm py-0" onClick={() => show(use)}>
                Show
              </button>
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}
