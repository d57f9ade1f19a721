import { useMemo, useState, type DragEvent } from 'react';
import { useSearchParams } from 'react-router';
import { NORMAL_MODES, PIVOTS } from '@violet-crate/core/asset/mesh/convert';
import { LENGTH_UNITS } from '@violet-crate/core/asset/mesh/model';
import { message, remove, sendJson, upload } from '../api/http.ts';
import { isActive } from '../api/jobsSlice.ts';
import { bytes, round } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { refreshFiles } from '../crate/crateSlice.ts';
import { FindingRow } from '../shell/FindingRow.tsx';
import { useAppDispatch, useAppSelector } from '../store.ts';
import { previewUrl, type AssetSource } from '../three/assets3d.ts';
import { ModelViewer } from './ModelViewer.tsx';

interface Entry {
  path: string;
  stock: boolean;
  bytes: number;
}

/** Stage 2: files dropped in are converted to what the game loads, with every mistake shown. */
export function AssetsPage() {
  const { view, profile, base } = useAppSelector((s) => s.crate);
  const jobs = useAppSelector((s) => s.jobs.byId);
  const [params, setParams] = useSearchParams();
  const [over, setOver] = useState(false);
  const [problem, setProblem] = useState('');
  const source = useMemo((): AssetSource | null => (view && profile ? { view, profileId: profile.id } : null), [view, profile]);
  if (!view || !profile || !base || !source) return null;

  const entries: Entry[] = [
    ...view.files.filter((f) => /^(models|textures|sounds)\//.test(f.path)).map((f) => ({ path: f.path, stock: false, bytes: f.bytes })),
    ...base.files.filter((f) => /^(models|textures|sounds)\//.test(f.path)).map((f) => ({ path: f.path, stock: true, bytes: f.bytes })),
  ];
  const path = params.get('file') ?? entries.find((e) => !e.stock && e.path.startsWith('models/'))?.path ?? entries[0]?.path;
  const entry = entries.find((e) => e.path === path);
  const running = Object.values(jobs).filter((job) => job.kind === 'convert' && job.crateId === view.id && isActive(job));
  const failures = Object.values(jobs)
    .filter((job) => job.kind === 'convert' && job.crateId === view.id && job.state === 'failed')
    .filter((job) => !Object.values(jobs).some((other) => other.label === job.label && other.createdAt > job.createdAt));

  const send = async (files: File[]) => {
    if (files.length === 0) return;
    setProblem('');
    try {
      await upload(`/api/crates/${view.id}/assets`, 'files', files);
    } catch (error) {
      setProblem(message(error));
    }
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void send([...event.dataTransfer.files]);
  };

  return (
    <div className="h-100 d-grid" style={{ gridTemplateColumns: '17rem minmax(0, 1fr)' }}>
      <aside className="border-end p-2 overflow-auto" style={{ background: 'var(--vc-surface)' }}>
        <label
          className={`drop mb-2 ${over ? 'over' : ''}`}
          onDragOver={(event) => (event.preventDefault(), setOver(true))}
          onDragLeave={() => setOver(false)}
          onDrop={drop}
        >
          <Icon name="box-arrow-in-down" className="fs-3" />
          <div>
            <strong>Drop files here</strong> or choose
          </div>
          <div className="small">OBJ (with MTL), GLB, PNG, JPEG</div>
          <input
            type="file"
            multiple
            className="visually-hidden"
            accept=".obj,.mtl,.glb,.png,.jpg,.jpeg"
            aria-label="Choose files to convert"
            onChange={(event) => (void send([...(event.target.files ?? [])]), (event.target.value = ''))}
          />
        </label>
        {problem && (
          <div className="severity blocker text-wrap mb-2" role="alert">
            {problem}
          </div>
        )}
        {running.map((job) => (
          <div key={job.id} className="small mb-2" role="status">
            <Icon name="arrow-repeat" className="turning" /> {job.label}
            <div className="progress">
              <div className="progress-bar" style={{ width: `${Math.max(5, job.progress * 100)}%` }} />
            </div>
          </div>
        ))}
        {[false, true].map((stock) => (
          <section key={String(stock)}>
            <h2 className="mt-2">{stock ? `Of the game (read-only)` : 'Of this crate'}</h2>
            {entries
              .filter((e) => e.stock === stock)
              .map((e) => (
                <button
                  key={e.path}
                  className={`btn btn-quiet w-100 text-start mb-1 d-flex gap-2 align-items-center ${e.path === path ? 'active' : ''}`}
                  onClick={() => setParams({ file: e.path })}
                >
                  {e.path.startsWith('textures/') ? (
                    <span className="swatch" style={{ backgroundImage: `url("${previewUrl(source, e.path)}")` }} />
                  ) : (
                    <Icon name={e.path.startsWith('models/') ? 'box' : 'volume-up'} />
                  )}
                  <span className="text-truncate flex-grow-1">{e.path.replace(/^[^/]+\//, '')}</span>
                  <span className="faint small">{bytes(e.bytes)}</span>
                </button>
              ))}
            {!stock && !entries.some((e) => !e.stock) && <div className="faint small">Nothing yet. The game’s stock can be used as it is.</div>}
          </section>
        ))}
      </aside>
      <section className="overflow-auto p-3">
        {failures.map((job) => job.error && <FindingRow key={job.id} finding={job.error} />)}
        {entry ? (
          <AssetDetail key={entry.path} entry={entry} source={source} />
        ) : (
          <div className="empty">
            <h2>{path ? `${path} is not here` : 'No assets'}</h2>
            Drop a model or a picture on the left.
          </div>
        )}
      </section>
    </div>
  );
}

function AssetDetail({ entry, source }: { entry: Entry; source: AssetSource }) {
  const dispatch = useAppDispatch();
  const { view, profile, base } = useAppSelector((s) => s.crate);
  const [problem, setProblem] = useState('');
  const record = view!.manifest.assets[entry.path] ?? base!.assets[entry.path];
  const findings = view!.files.find((file) => file.path === entry.path)?.findings ?? [];
  const material = [...view!.manifest.materials, ...base!.materials].find((m) => m.texture === entry.path);
  const m = profile!.unit.metres;
  const kind = entry.path.split('/')[0];
  const size = record?.bounds ? [0, 1, 2].map((axis) => record.bounds!.max[axis] - record.bounds!.min[axis]) : null;
  return (
    <>
      <div className="d-flex align-items-center gap-3 mb-2">
        <h1 className="m-0 flex-grow-1 text-truncate">{entry.path}</h1>
        <span className="faint">{entry.stock ? 'stock of the game, read-only' : `from ${record?.source ?? 'a file'}`}</span>
        {!entry.stock && (
          <button
            className="btn btn-quiet"
            onClick={() => {
              if (window.confirm(`Remove ${entry.path} from the crate?`))
                remove(`/api/crates/${view!.id}/files/${entry.path}`)
                  .then(() => dispatch(refreshFiles(view!.id)))
                  .catch((error) => setProblem(message(error)));
            }}
          >
            <Icon name="trash" /> Remove
          </button>
        )}
      </div>
      {problem && <div className="severity blocker">{problem}</div>}
      {findings.length > 0 && (
        <div className="panel mb-3">
          {findings.map((finding) => (
            <FindingRow key={finding.code + finding.message} finding={finding} />
          ))}
        </div>
      )}
      {kind === 'models' && record?.bounds && size && (
        <>
          <div className="panel overflow-hidden" style={{ height: '25rem' }}>
            <ModelViewer source={source} profile={profile!} path={entry.path} bounds={record.bounds} />
          </div>
          <p className="faint mt-2">
            {record.triangles?.toLocaleString('en')} triangles · {size.map((s) => round(s, 1)).join(' × ')} {profile!.unit.plural} (
            {size.map((s) => round(s * m)).join(' × ')} m) · stands from {round(record.bounds.min[2], 1)} to {round(record.bounds.max[2], 1)} about
            its pivot · the figure is the player, {round(profile!.player.height * m)} m
          </p>
          {!entry.stock && <ModelSettings key={JSON.stringify(record.options)} path={entry.path} options={record.options} />}
        </>
      )}
      {kind === 'textures' && (
        <div className="d-flex gap-3 flex-wrap">
          <img
            src={previewUrl(source, entry.path)}
            alt={`Texture ${entry.path}`}
            style={{ width: 320, maxWidth: '100%', imageRendering: 'auto' }}
            className="border rounded"
          />
          <div>
            <h2>Tiled three by three</h2>
            <div
              className="border rounded"
              style={{ width: 320, height: 320, backgroundImage: `url("${previewUrl(source, entry.path)}")`, backgroundSize: '33.334% 33.334%' }}
              role="img"
              aria-label="The texture, tiled three by three"
            />
          </div>
          <div>
            <h2>Facts</h2>
            <p className="faint">
              {record?.width} × {record?.height}, KTX2 (UASTC, mipmaps), {bytes(entry.bytes)}
              <br />
              {material ? (
                <>
                  Material <code>{material.name}</code>, type {material.type}
                  <br />
                  One repeat covers {material.unitsPerRepeat} {profile!.unit.plural} ({round(material.unitsPerRepeat * m)} m)
                  <br />
                  Mean colour <span className="swatch" style={{ background: material.colour }} /> {material.colour}
                </>
              ) : (
                'No material uses it.'
              )}
            </p>
          </div>
        </div>
      )}
      {kind === 'sounds' && (
        <audio controls src={entry.stock ? `/api/games/${profile!.id}/base/${entry.path}` : `/api/crates/${view!.id}/files/${entry.path}`} />
      )}
    </>
  );
}

/** The settings of a conversion; *Convert again* uses the kept source. */
function ModelSettings({ path, options }: { path: string; options: Record<string, unknown> }) {
  const view = useAppSelector((s) => s.crate.view)!;
  const [draft, setDraft] = useState(options);
  const [problem, setProblem] = useState('');
  const choice = (id: string, label: string, values: readonly string[]) => (
    <div className="col-auto">
      <label className="form-label" htmlFor={`option-${id}`}>
        {label}
      </label>
      <select
        id={`option-${id}`}
        className="form-select"
        value={String(draft[id])}
        onChange={(event) => setDraft({ ...draft, [id]: event.target.value })}
      >
        {values.map((value) => (
          <option key={value}>{value}</option>
        ))}
      </select>
    </div>
  );
  return (
    <section className="panel">
      <header>
        <h2>Conversion</h2>
      </header>
      <div className="body row g-2 align-items-end">
        {choice('unit', 'Unit of the file', ['game', ...Object.keys(LENGTH_UNITS)])}
        {choice('upAxis', 'Up axis', ['y', 'z'])}
        {choice('pivot', 'Pivot', PIVOTS)}
        {choice('normals', 'Normals', NORMAL_MODES)}
        <div className="col-auto">
          <button
            className="btn btn-primary"
            onClick={() =>
              sendJson('POST', `/api/crates/${view.id}/assets/reconvert`, { path, options: draft }).catch((error) => setProblem(message(error)))
            }
          >
            <Icon name="arrow-repeat" /> Convert again
          </button>
        </div>
        {problem && <div className="severity blocker text-wrap">{problem}</div>}
      </div>
    </section>
  );
}
