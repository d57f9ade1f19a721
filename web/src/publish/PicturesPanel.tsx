import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { MOST_PICTURES, takenPictures, TITLE_PICTURE } from '@violet-crate/core/release/takenPictures';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { fileUrl } from '../api/assetUrl.ts';
import { message, request, sendJson } from '../api/http.ts';
import { Icon } from '../common/Icon.tsx';
import { useTakenPicture } from '../common/useTakenPicture.ts';
import { manifestChanged, refreshFiles } from '../state/crateSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { CropDialog } from './CropDialog.tsx';
import { pngOf } from './pngOf.ts';

const nameOf = (path: string): string => path.replace(/^.*\/|\.png$/g, '');

/** What players see before they install: the title picture, further ones, and one that moves. */
export function PicturesPanel({ crateId }: { crateId: string }) {
  const dispatch = useAppDispatch();
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const map = useAppSelector((s) => s.map.map);
  const take = useTakenPicture(crateId);
  const [cropped, setCropped] = useState<string | null>(null);
  const [problem, setProblem] = useState('');
  const chosen = useRef<HTMLInputElement>(null);
  const { thumbnailWidth: width, thumbnailHeight: height } = profile.package;
  const title = view.files.some(({ path }) => path === TITLE_PICTURE);
  const taken = takenPictures(view.files);
  const bookmarks = Object.values(map?.bookmarks ?? {});
  const paths = Object.values(map?.paths ?? {}).map(({ name }) => name);
  const { preview } = view.manifest;
  const url = (path: string) => fileUrl({ view, profileId: profile.id }, path);
  const work = (does: () => Promise<unknown>) => {
    setProblem('');
    does()
      .then(() => dispatch(refreshFiles(crateId)))
      .catch((error) => setProblem(message(error)));
  };
  const setPreview = (next: CrateManifest['preview'] | null) =>
    work(async () => dispatch(manifestChanged(await sendJson<CrateManifest>('PATCH', `/api/crates/${crateId}`, { preview: next }))));

  return (
    <section className="panel mb-3" aria-labelledby="pictures-title">
      <header>
        <h2 id="pictures-title">Pictures</h2>
        <span className="faint small">
          {width} × {height} pixels or more
        </span>
      </header>
      <div className="body">
        <ul className="pictures">
          {[TITLE_PICTURE, ...taken].map((path) => {
            const name = nameOf(path);
            const drawn = path === TITLE_PICTURE && !title;
            const word = path === TITLE_PICTURE ? 'Title' : `Picture ${name}`;
            return (
              <li key={path} data-picture={name}>
                {drawn ? <div className="drawn">drawn from the start’s view</div> : <img src={url(path)} alt={word} />}
                <div className="d-flex align-items-center gap-1">
                  <span className="flex-grow-1 small">{word}</span>
                  {!drawn && (
                    <>
                      {path !== TITLE_PICTURE && (
                        <button
                          className="btn btn-quiet btn-sm py-0 px-1"
                          title="Make it the title"
                          aria-label={`Make ${word} the title`}
                          onClick={() => work(() => sendJson('POST', `/api/crates/${crateId}/pictures/${name}/title`, {}))}
                        >
                          <Icon name="star" />
                        </button>
                      )}
                      <button className="btn btn-quiet btn-sm py-0 px-1" title="Crop" aria-label={`Crop ${word}`} onClick={() => setCropped(path)}>
                        <Icon name="crop" />
                      </button>
                      <button
                        className="btn btn-quiet btn-sm py-0 px-1"
                        title="Remove"
                        aria-label={`Remove ${word}`}
                        onClick={() => work(() => request(`/api/crates/${crateId}/files/${path}`, { method: 'DELETE' }))}
                      >
                        <Icon name="trash" />
                      </button>
                    </>
                  )}
                </div>
              </li>
            );
          })}
        </ul>
        <p className="small faint mb-2">
          Take them in the <Link to={`/crates/${crateId}/map`}>map’s perspective view</Link> or with <kbd>I</kbd> in the test run.{' '}
          {bookmarks.length > 0 && taken.length < MOST_PICTURES
            ? `Bookmarks are drawn after them: ${bookmarks
                .map(({ name }) => name)
                .sort()
                .slice(0, MOST_PICTURES - taken.length)
                .join(', ')}.`
            : 'Bookmarks of the map are drawn after them.'}
        </p>
        <div className="d-flex gap-3 align-items-center flex-wrap">
          <button className="btn btn-quiet btn-sm" onClick={() => chosen.current?.click()}>
            <Icon name="image" /> Add one from a file
          </button>
          <input
            ref={chosen}
            type="file"
            hidden
            accept="image/png,image/jpeg,image/webp"
            aria-label="Picture from a file"
            onChange={({ target }) => {
              const file = target.files?.[0];
              target.value = '';
              if (file) work(async () => take(await pngOf(file)));
            }}
          />
          <label className="small" htmlFor="preview-path">
            Moving preview along the path
          </label>
          <select
            id="preview-path"
            className="form-select form-select-sm w-auto"
            value={preview?.path ?? ''}
            onChange={({ target }) => setPreview(target.value === '' ? null : { path: target.value, seconds: preview?.seconds ?? 4 })}
          >
            <option value="">none</option>
            {[...new Set([...paths, ...(preview ? [preview.path] : [])])].map((name) => (
              <option key={name} value={name}>
                {name}
                {!paths.includes(name) && ' (is gone)'}
              </option>
            ))}
          </select>
          {preview && (
            <>
              <label className="small" htmlFor="preview-seconds">
                seconds
              </label>
              <input
                id="preview-seconds"
                className="form-control form-control-sm seconds"
                type="number"
                min={1}
                max={8}
                value={preview.seconds}
                onChange={({ target }) => {
                  const seconds = Number(target.value);
                  if (seconds >= 1 && seconds <= 8) setPreview({ path: preview.path, seconds });
                }}
              />
            </>
          )}
        </div>
        {problem && (
          <div className="severity blocker text-wrap mt-2" role="alert">
            {problem}
          </div>
        )}
      </div>
      {cropped && (
        <CropDialog
          url={url(cropped)}
          word={cropped === TITLE_PICTURE ? 'the title' : `picture ${nameOf(cropped)}`}
          wanted={{ width, height }}
          close={() => setCropped(null)}
          done={(png) => {
            setCropped(null);
            work(() => sendJson('PUT', `/api/crates/${crateId}/pictures/${nameOf(cropped)}`, { png }));
          }}
        />
      )}
    </section>
  );
}
