import { useEffect, useMemo, useRef, useState, type DragEvent } from 'react';
import { Dropdown } from 'react-bootstrap';
import { Link, useSearchParams } from 'react-router';
import { IMPORTABLE } from '@violet-crate/core/crate/assetKind';
import { NO_FILTER, searchLibrary, type LibraryFilter } from '@violet-crate/core/library/library';
import { message, sendJson, upload } from '../api/http.ts';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { refreshFiles } from '../state/crateSlice.ts';
import { FindingRow } from '../common/FindingRow.tsx';
import { selectFindings } from '../state/findings.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { AssetDetail } from './AssetDetail.tsx';
import { droppedFiles } from './droppedFiles.ts';
import { FilterBar } from './FilterBar.tsx';
import { ImportProgress } from './ImportProgress.tsx';
import { LibraryGrid, type LibraryLook } from './LibraryGrid.tsx';
import { PackDialog } from './PackDialog.tsx';
import { useAssetSource, useLibrary } from '../common/useLibrary.ts';
import { WatchPanel } from './WatchPanel.tsx';
import './library.css';

const LOOK_KEY = 'violet-crate-library';

function storedLook(): LibraryLook {
  try {
    return { list: false, size: 112, ...(JSON.parse(localStorage.getItem(LOOK_KEY) ?? '{}') as Partial<LibraryLook>) };
  } catch {
    return { list: false, size: 112 };
  }
}

/** Stage 2: everything the crate and its game have to build with. Files dropped anywhere on it are imported. */
export function LibraryPage() {
  const dispatch = useAppDispatch();
  const { view, profile } = useAppSelector((s) => s.crate);
  const source = useAssetSource();
  const entries = useLibrary();
  const [params, setParams] = useSearchParams();
  const [filter, setFilter] = useState<LibraryFilter>(NO_FILTER);
  const [look, setLook] = useState(storedLook);
  const [over, setOver] = useState(false);
  const [problem, setProblem] = useState('');
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [undo, setUndo] = useState<{ id: string; what: string } | null>(null);
  const [packId, setPackId] = useState<string | null>(null);
  const [watching, setWatching] = useState(false);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const packFile = useRef<HTMLInputElement>(null);
  const packFolder = useRef<HTMLInputElement>(null);

  useEffect(() => localStorage.setItem(LOOK_KEY, JSON.stringify(look)), [look]);
  const found = useMemo(() => searchLibrary(entries, filter), [entries, filter]);
  const wanted = params.get('file');
  const findings = useAppSelector(selectFindings);
  const refused = findings.filter((finding) => finding.stage === 'assets' && finding.place?.file === wanted);
  const entry =
    entries.find((e) => e.id === wanted) ?? (wanted ? undefined : (found.find((e) => e.origin === 'crate' && e.kind === 'model') ?? found[0]));
  if (!view || !profile || !source) return null;

  const attempt = async (work: () => Promise<void>) => {
    setProblem('');
    try {
      await work();
    } catch (error) {
      setProblem(message(error));
    }
  };
  const send = (chosen: File[]) =>
    attempt(async () => {
      if (chosen.length > 0) await upload(`/api/crates/${view.id}/assets`, 'files', chosen);
    });
  const openPack = (chosen: File[]) =>
    attempt(async () => {
      if (chosen.length === 0) return;
      const { id } = await upload<{ id: string }>(`/api/crates/${view.id}/packs`, 'files', chosen);
      setPackId(id);
    });
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void attempt(async () => send(await droppedFiles(event.dataTransfer)));
  };
  const removed = async (what: string, undoId: string) => {
    setUndo({ id: undoId, what });
    setPicked(new Set());
    await dispatch(refreshFiles(view.id));
  };
  const removePicked = () =>
    attempt(async () => {
      const list = [...picked];
      const answer = await sendJson<{ undo: string }>('POST', `/api/crates/${view.id}/assets/remove`, { entries: list });
      await removed(plural(list.length, 'asset'), answer.undo);
    });
  const restore = () =>
    attempt(async () => {
      await sendJson('POST', `/api/crates/${view.id}/crate-edits/${undo!.id}/undo`, {});
      setUndo(null);
      await dispatch(refreshFiles(view.id));
    });
  const pickFile = (input: React.ChangeEvent<HTMLInputElement>, take: (list: File[]) => Promise<void>) => {
    void take([...(input.target.files ?? [])]);
    input.target.value = '';
  };

  return (
    <div
      className={`library ${over ? 'over' : ''}`}
      onDragOver={(event) => {
        if (![...event.dataTransfer.types].includes('Files')) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget.contains(event.relatedTarget as Node | null) || setOver(false)}
      onDrop={drop}
    >
      <h1 className="visually-hidden">Assets</h1>
      <header className="library-bar">
        <button className="btn btn-primary" onClick={() => files.current?.click()}>
          <Icon name="box-arrow-in-down" /> Import files
        </button>
        <button className="btn btn-quiet" onClick={() => folder.current?.click()}>
          <Icon name="folder-plus" /> Import folder
        </button>
        <Link className="btn btn-quiet" to={`/crates/${view.id}/effects`}>
          <Icon name="stars" /> Effects
        </Link>
        <Dropdown>
          <Dropdown.Toggle variant="quiet">
            <Icon name="box2" /> Open a pack
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item as="button" onClick={() => packFile.current?.click()}>
              A ZIP archive
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => packFolder.current?.click()}>
              A folder
            </Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
        <button className="btn btn-quiet" aria-expanded={watching} onClick={() => setWatching(!watching)}>
          <Icon name="eye" /> Watch a folder
        </button>
        {((profile.tables?.length ?? 0) > 0 || profile.speech) && (
          <Link className="btn btn-quiet" to={`/crates/${view.id}/data`}>
            <Icon name="table" /> Game data
          </Link>
        )}
        {(profile.banks?.length ?? 0) > 0 && (
          <Link className="btn btn-quiet" to={`/crates/${view.id}/banks`}>
            <Icon name="hdd" /> Game banks
          </Link>
        )}
        <span className="faint small d-none d-xl-inline">or drop files and folders anywhere here</span>
        <input
          ref={files}
          type="file"
          multiple
          className="visually-hidden"
          tabIndex={-1}
          accept={IMPORTABLE}
          aria-label="Choose files to convert"
          onChange={(e) => pickFile(e, send)}
        />
        <input
          ref={folder}
          type="file"
          multiple
          className="visually-hidden"
          tabIndex={-1}
          aria-label="Choose a folder to import"
          {...{ webkitdirectory: '' }}
          onChange={(e) => pickFile(e, send)}
        />
        <input
          ref={packFolder}
          type="file"
          multiple
          className="visually-hidden"
          tabIndex={-1}
          aria-label="Choose a folder as a pack"
          {...{ webkitdirectory: '' }}
          onChange={(e) => pickFile(e, openPack)}
        />
        <input
          ref={packFile}
          type="file"
          className="visually-hidden"
          tabIndex={-1}
          accept=".zip"
          aria-label="Choose a pack"
          onChange={(e) => pickFile(e, openPack)}
        />
      </header>
      <FilterBar entries={entries} filter={filter} onChange={setFilter} look={look} onLook={setLook} found={found.length} />
      <div className="library-main">
        {watching && <WatchPanel onClose={() => setWatching(false)} />}
        <ImportProgress />
        {problem && (
          <div className="severity blocker text-wrap px-2 py-1" role="alert">
            {problem}
          </div>
        )}
        {undo && (
          <div className="library-note" role="status">
            <span className="flex-grow-1">{undo.what} removed.</span>
            <button className="btn btn-warm btn-sm" onClick={() => void restore()}>
              Undo
            </button>
            <button className="btn btn-quiet btn-sm" onClick={() => setUndo(null)} aria-label="Close this note">
              <Icon name="x-lg" />
            </button>
          </div>
        )}
        {picked.size > 1 && (
          <div className="library-note">
            <span className="flex-grow-1">{picked.size} chosen</span>
            <button className="btn btn-quiet btn-sm" onClick={() => void removePicked()}>
              <Icon name="trash" /> Remove them
            </button>
            <button className="btn btn-quiet btn-sm" onClick={() => setPicked(new Set())}>
              Choose none
            </button>
          </div>
        )}
        {found.length === 0 ? (
          <div className="empty">
            <h2>{entries.length === 0 ? 'Nothing here yet' : 'Nothing matches'}</h2>
            {entries.length === 0 ? 'Drop models, pictures or sounds here.' : 'Take a filter away, or search for something else.'}
          </div>
        ) : (
          <LibraryGrid
            entries={found}
            source={source}
            look={look}
            current={entry?.id ?? ''}
            picked={picked}
            onOpen={(id) => setParams({ file: id }, { replace: true })}
            onPick={setPicked}
            onRemove={() => void (picked.size > 0 && removePicked())}
          />
        )}
      </div>
      <aside className="library-detail" aria-label="Details">
        {entry ? (
          <AssetDetail
            key={entry.id}
            entry={entry}
            source={source}
            code={params.get('code')}
            onRemoved={removed}
            onMoved={(id) => setParams({ file: id }, { replace: true })}
          />
        ) : (
          <>
            <div className="empty">
              <h2>{wanted ? `${wanted} is not here` : 'Nothing chosen'}</h2>
              {!wanted ? 'Choose something on the left.' : refused.length > 0 ? 'It could not be imported:' : 'It may have been removed or renamed.'}
            </div>
            {refused.map((finding) => (
              <FindingRow key={finding.code} finding={finding} here />
            ))}
          </>
        )}
      </aside>
      {packId && <PackDialog packId={packId} onClose={() => setPackId(null)} />}
    </div>
  );
}
