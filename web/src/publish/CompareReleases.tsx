import { useEffect, useMemo, useState } from 'react';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { sub } from '@violet-crate/core/math/vec3';
import { startView } from '@violet-crate/core/release/startView';
import type { ThumbnailView } from '@violet-crate/core/release/thumbnail';
import { selectWorld } from '../state/world.ts';
import { draftNotes } from '@violet-crate/core/release/notes';
import { getJson, message } from '../api/http.ts';
import type { ReleaseComparison } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { bytes, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { ComparedPlan } from './ComparedPlan.tsx';

/** Places that both are seen from: the start and the bookmarks of the main map as it is now, as queries. */
function camerasOf(world: CrateWorld | null): Record<string, string> {
  if (!world) return {};
  const { mainMap } = world.crate.manifest;
  const start = startView(world, mainMap);
  const query = ({ eye, direction }: Pick<ThumbnailView, 'eye' | 'direction'>) => `eye=${eye.join(',')}&direction=${direction.join(',')}`;
  const bookmarks = Object.values(world.crate.maps[mainMap].bookmarks).sort((a, b) => (a.name < b.name ? -1 : 1));
  return {
    'the start': query(start),
    ...Object.fromEntries(bookmarks.map(({ name, position, target }) => [name, query({ eye: position, direction: sub(target, position) })])),
  };
}

const signed = (by: number): string => (by < 0 ? `−${bytes(-by)}` : `+${bytes(by)}`);

/** Two packages side by side: in words, on the plan, by their pictures, and file by file. */
export function CompareReleases({ crateId }: { crateId: string }) {
  const packages = useAppSelector((s) => s.crate.packages) ?? [];
  const [chosen, setChosen] = useState<[from: string, to: string]>(['', '']);
  const [from, to] = [chosen[0] || packages[1]?.id || '', chosen[1] || packages[0]?.id || ''];
  const [comparison, setComparison] = useState<(ReleaseComparison & { key: string }) | null>(null);
  const [problem, setProblem] = useState('');
  const [share, setShare] = useState(50);
  const [camera, setCamera] = useState('');
  const world = useAppSelector(selectWorld);
  const cameras = useMemo(() => camerasOf(world), [world]);
  const seen = (id: string) => (camera === '' ? `/api/packages/${id}/picture` : `/api/packages/${id}/view?${cameras[camera]}`);
  const key = `${from} ${to}`;
  useEffect(() => {
    if (!from || !to) return;
    let gone = false;
    getJson<ReleaseComparison>(`/api/crates/${crateId}/compare?from=${from}&to=${to}`)
      .then((answer) => !gone && (setComparison({ ...answer, key: `${from} ${to}` }), setProblem('')))
      .catch((error) => !gone && setProblem(message(error)));
    return () => {
      gone = true;
    };
  }, [crateId, from, to]);
  if (packages.length < 2)
    return (
      <section className="panel mt-3">
        <header>
          <h2>Compare two packages</h2>
        </header>
        <p className="body faint mb-0">There is {packages.length === 0 ? 'none' : 'one only'} yet: with the next, what is different shows here.</p>
      </section>
    );
  const select = (n: 0 | 1, label: string, value: string) => (
    <select
      className="form-select form-select-sm w-auto"
      aria-label={label}
      value={value}
      onChange={(event) => setChosen(n === 0 ? [event.target.value, to] : [from, event.target.value])}
    >
      {packages.map(({ id, manifest, createdAt }) => (
        <option key={id} value={id}>
          {manifest.version}, {time(createdAt)}
        </option>
      ))}
    </select>
  );
  const total = comparison?.files.reduce((sum, { before, after }) => sum + (after ?? 0) - (before ?? 0), 0) ?? 0;
  return (
    <section className="panel mt-3 compare" aria-label="Comparison of two packages">
      <header>
        <h2>Compare two packages</h2>
        <div className="d-flex gap-2 align-items-center">
          {select(0, 'Before', from)} <Icon name="arrow-right" /> {select(1, 'After', to)}
        </div>
      </header>
      {problem ? (
        <Trouble>{problem}</Trouble>
      ) : comparison?.key !== key ? (
        <Busy what="Comparing" />
      ) : (
        <div className="body publish-form">
          {comparison.changes ? (
            <pre className="mb-0 text-wrap">{draftNotes(comparison.changes)}</pre>
          ) : (
            <p className="faint mb-0">
              One of them was made by an earlier version, which did not keep the crate beside it: only files can be compared.
            </p>
          )}
          {comparison.before &&
            comparison.after &&
            Object.keys(comparison.after)
              .filter((map) => comparison.before![map] && comparison.changes?.maps[map])
              .map((map) => <ComparedPlan key={map} name={map} before={comparison.before![map]} after={comparison.after![map]} />)}
          <div>
            <div className="slider" style={{ '--share': `${share}%` } as React.CSSProperties}>
              <img src={seen(from)} alt="Before" />
              <img src={seen(to)} alt="After" className="over" />
            </div>
            <label className="d-flex gap-2 align-items-center faint mb-1">
              seen from
              <select className="form-select form-select-sm w-auto" value={camera} onChange={(event) => setCamera(event.target.value)}>
                <option value="">their title pictures</option>
                {Object.keys(cameras).map((name) => (
                  <option key={name}>{name}</option>
                ))}
              </select>
            </label>
            <label className="d-flex gap-2 align-items-center faint">
              before
              <input
                type="range"
                className="form-range"
                min={0}
                max={100}
                value={share}
                aria-label="How much of the picture is as it was before"
                onChange={(event) => setShare(Number(event.target.value))}
              />
              after
            </label>
          </div>
          <div className="wide">
            <table className="table mb-0">
              <caption className="faint">
                {comparison.files.length} files are different, {signed(total)}
              </caption>
              <thead>
                <tr>
                  <th>What</th>
                  <th>File</th>
                  <th className="text-end">Before</th>
                  <th className="text-end">After</th>
                  <th className="text-end">By</th>
                </tr>
              </thead>
              <tbody>
                {comparison.files.map(({ path, before, after }) => (
                  <tr key={path}>
                    <td className="text-nowrap">
                      <Icon name={before === null ? 'plus-square' : after === null ? 'dash-square' : 'pencil-square'} />{' '}
                      {before === null ? 'added' : after === null ? 'removed' : 'changed'}
                    </td>
                    <td className="mono">{path}</td>
                    <td className="text-end">{before === null ? '–' : bytes(before)}</td>
                    <td className="text-end">{after === null ? '–' : bytes(after)}</td>
                    <td className="text-end">{signed((after ?? 0) - (before ?? 0))}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </div>
      )}
    </section>
  );
}
