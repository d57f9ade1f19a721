import { useEffect, useMemo, useState } from 'react';
import { Modal } from 'react-bootstrap';
import type { Clash } from '@violet-crate/core/importing/importPlan';
import { previewPath } from '@violet-crate/core/crate/contents';
import { getJson, message, remove, sendJson } from '../api/http.ts';
import type { Pack, PackClash } from '../api/types.ts';
import { bytes, plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { Busy, Trouble } from '../common/Busy.tsx';
import { refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { fileUrl } from '../api/assetUrl.ts';
import { KIND_ICONS } from '../common/Thumb.tsx';
import { useAssetSource } from '../common/useLibrary.ts';

const CLASH_WORDS: Record<Clash, string> = { rename: 'take it under another name', replace: 'replace mine', keep: 'keep mine, leave this out' };

/** A shared pack, looked into before anything is taken from it. */
export function PackDialog({ packId, onClose }: { packId: string; onClose(): void }) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((s) => s.crate.view)!;
  const [pack, setPack] = useState<Pack | null>(null);
  const [problem, setProblem] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [shown, setShown] = useState('');
  const [clashes, setClashes] = useState<PackClash[]>([]);
  const [answers, setAnswers] = useState<Record<string, Clash>>({});
  const at = `/api/crates/${view.id}/packs/${packId}`;

  useEffect(() => {
    getJson<Pack>(`/api/crates/${view.id}/packs`)
      .then((list) => {
        const found = (list as unknown as Pack[]).find((entry) => entry.id === packId)!;
        setPack(found);
        const assets = found.entries.filter((entry) => entry.kind !== null);
        setChosen(new Set(assets.map((entry) => entry.path)));
        setShown(assets.find((entry) => entry.kind !== 'script')?.path ?? '');
      })
      .catch((error) => setProblem(message(error)));
  }, [view.id, packId]);
  const paths = useMemo(() => [...chosen].sort(), [chosen]);
  useEffect(() => {
    if (paths.length === 0) return;
    let gone = false;
    sendJson<PackClash[]>('POST', `${at}/clashes`, { paths })
      .then((found) => gone || setClashes(found))
      .catch((error) => gone || setProblem(message(error)));
    return () => {
      gone = true;
    };
  }, [at, paths]);

  const close = () => {
    // The pack's files stay in the store only as long as it is open.
    remove(at).catch(() => {});
    onClose();
  };
  const take = async () => {
    setProblem('');
    try {
      await sendJson('POST', `${at}/import`, { paths, clashes: answers });
      await dispatch(refreshFiles(view.id));
      close();
    } catch (error) {
      setProblem(message(error));
    }
  };
  const relevant = clashes.filter((clash) => chosen.has(clash.file));
  const assets = pack?.entries.filter((entry) => entry.kind !== null) ?? [];

  return (
    <Modal show onHide={close} size="xl" scrollable aria-labelledby="pack-title">
      <Modal.Header closeButton>
        <div>
          <h2 id="pack-title" className="m-0">
            {pack?.about.title ?? 'Pack'}
          </h2>
          {pack && (
            <p className="faint m-0">
              {pack.about.author
                ? `by ${pack.about.author}, ${pack.about.licence || 'no licence named'}`
                : 'It does not say whose work it is: ask before you publish it.'}
            </p>
          )}
        </div>
      </Modal.Header>
      <Modal.Body>
        {!pack && !problem && <Busy what="Opening the pack" />}
        {problem && <Trouble>{problem}</Trouble>}
        {pack && (
          <div className="pack">
            <div>
              <div className="d-flex gap-2 mb-2 align-items-center">
                <span className="flex-grow-1">
                  {chosen.size} of {plural(assets.length, 'asset')} chosen
                </span>
                <button className="btn btn-quiet btn-sm" onClick={() => setChosen(new Set(assets.map((entry) => entry.path)))}>
                  All
                </button>
                <button className="btn btn-quiet btn-sm" onClick={() => setChosen(new Set())}>
                  None
                </button>
              </div>
              <PackTree
                pack={pack}
                chosen={chosen}
                shown={shown}
                onChoose={(list, on) => {
                  const next = new Set(chosen);
                  for (const path of list)
                    if (on) next.add(path);
                    else next.delete(path);
                  setChosen(next);
                }}
                onShow={setShown}
              />
            </div>
            <div>
              {shown && <Look at={at} path={shown} sound={/\.(wav|ogg|flac|mp3)$/i.test(shown)} />}
              {pack.about.instructions && (
                <section className="panel mt-2">
                  <header>
                    <h2>Instructions</h2>
                  </header>
                  <p className="body m-0" style={{ whiteSpace: 'pre-wrap' }}>
                    {pack.about.instructions}
                  </p>
                </section>
              )}
            </div>
          </div>
        )}
        {relevant.length > 0 && (
          <section className="panel mt-3" aria-label="Names that are taken">
            <header>
              <h2>{plural(relevant.length, 'name is', 'names are')} taken</h2>
            </header>
            <div className="body">
              {relevant.map((clash) => (
                <ClashRow
                  key={clash.file}
                  clash={clash}
                  at={at}
                  answer={answers[clash.file] ?? 'rename'}
                  onAnswer={(answer) => setAnswers({ ...answers, [clash.file]: answer })}
                />
              ))}
            </div>
          </section>
        )}
      </Modal.Body>
      <Modal.Footer>
        <span className="faint flex-grow-1">{pack?.about.author ? `${pack.about.author} is added to the credits.` : ''}</span>
        <button className="btn btn-quiet" onClick={close}>
          Close
        </button>
        <button className="btn btn-primary" disabled={!pack || chosen.size === 0} onClick={() => void take()}>
          Import {plural(chosen.size, 'asset')}
        </button>
      </Modal.Footer>
    </Modal>
  );
}

interface TreeProps {
  pack: Pack;
  chosen: ReadonlySet<string>;
  shown: string;
  onChoose(paths: string[], on: boolean): void;
  onShow(path: string): void;
}

function PackTree({ pack, chosen, shown, onChoose, onShow }: TreeProps) {
  const folders = new Map<string, Pack['entries']>();
  for (const entry of pack.entries) {
    const folder = entry.path.split('/').slice(0, -1).join('/');
    folders.set(folder, [...(folders.get(folder) ?? []), entry]);
  }
  return (
    <ul className="pack-tree">
      {[...folders].map(([folder, entries]) => {
        const assets = entries.filter((entry) => entry.kind !== null).map((entry) => entry.path);
        return (
          <li key={folder}>
            <div className="folder">
              <input
                type="checkbox"
                className="form-check-input"
                aria-label={`All of ${folder || 'the top folder'}`}
                checked={assets.length > 0 && assets.every((path) => chosen.has(path))}
                disabled={assets.length === 0}
                onChange={(event) => onChoose(assets, event.target.checked)}
              />
              <Icon name="folder2-open" /> {folder || pack.about.title}
            </div>
            <ul>
              {entries.map((entry) => {
                const name = entry.path.split('/').pop()!;
                return (
                  <li key={entry.path}>
                    {entry.kind ? (
                      <input
                        type="checkbox"
                        className="form-check-input"
                        aria-label={`Take ${name}`}
                        checked={chosen.has(entry.path)}
                        onChange={(event) => onChoose([entry.path], event.target.checked)}
                      />
                    ) : (
                      <span className="form-check-input invisible" />
                    )}
                    <button
                      className="btn btn-link btn-sm p-0 text-start"
                      aria-current={shown === entry.path}
                      disabled={!entry.kind || entry.kind === 'script'}
                      onClick={() => onShow(entry.path)}
                    >
                      <Icon name={entry.kind ? KIND_ICONS[entry.kind] : 'file-earmark'} /> {name}
                    </button>
                    <span className="faint small ms-auto">{bytes(entry.bytes)}</span>
                  </li>
                );
              })}
            </ul>
          </li>
        );
      })}
    </ul>
  );
}

/** What one file of a pack would become. It is converted when first asked for. */
function Look({ at, path, sound }: { at: string; path: string; sound: boolean }) {
  const [state, setState] = useState<'busy' | 'ready' | 'failed'>('busy');
  const [last, setLast] = useState(path);
  if (last !== path) {
    setLast(path);
    setState('busy');
  }
  return (
    <figure className="pack-look m-0">
      {state === 'busy' && <Busy what="Looking" />}
      {state === 'failed' && <p className="severity blocker text-wrap">{path} cannot be shown; importing it will say why.</p>}
      <img
        src={`${at}/preview/${path}`}
        alt={`Preview of ${path}`}
        hidden={state !== 'ready'}
        onLoad={() => setState('ready')}
        onError={() => setState('failed')}
      />
      {sound && <audio controls src={`${at}/files/${path}`} aria-label={`Play ${path}`} className="w-100" />}
      <figcaption className="faint small mono">{path}</figcaption>
    </figure>
  );
}

function ClashRow({ clash, at, answer, onAnswer }: { clash: PackClash; at: string; answer: Clash; onAnswer(answer: Clash): void }) {
  const source = useAssetSource()!;
  return (
    <div className="clash">
      <figure>
        <img src={fileUrl(source, previewPath(clash.asset))} alt={`Mine: ${clash.asset}`} />
        <figcaption>mine: {clash.asset}</figcaption>
      </figure>
      <figure>
        <img src={`${at}/preview/${clash.file}`} alt={`Theirs: ${clash.file}`} />
        <figcaption>theirs: {clash.file}</figcaption>
      </figure>
      <div>
        <label className="form-label" htmlFor={`clash-${clash.file}`}>
          {clash.file}
        </label>
        <select id={`clash-${clash.file}`} className="form-select" value={answer} onChange={(event) => onAnswer(event.target.value as Clash)}>
          {(Object.keys(CLASH_WORDS) as Clash[]).map((key) => (
            <option key={key} value={key}>
              {key === 'rename' ? `take it as ${clash.renamed}` : CLASH_WORDS[key]}
            </option>
          ))}
        </select>
      </div>
    </div>
  );
}
