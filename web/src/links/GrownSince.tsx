import { useMemo, useState } from 'react';
import { grownSince } from '@violet-crate/core/link/grown';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import type { Links } from './useLinks.ts';

const signed = (by: number): string => (by < 0 ? `−${bytes(-by)}` : `+${bytes(by)}`);

/** What travels now against a package that was made, files of the crate alone: what a build makes is compared under Publish. */
export function GrownSince({ links, choose }: { links: Links; choose(id: string): void }) {
  const packages = useAppSelector((s) => s.crate.packages) ?? [];
  const [chosen, setChosen] = useState('');
  const made = packages.find(({ id }) => id === chosen) ?? packages[0];
  const grown = useMemo(() => {
    if (!made) return [];
    const now = links.rows.flatMap(({ origin, unused, name, bytes: size, sha256 }) =>
      origin === 'crate' && !unused && sha256 ? [{ path: name, bytes: size, sha256 }] : [],
    );
    const before = made.manifest.files.filter(({ path }) => /^(models|textures|sounds|subtitles)\//.test(path));
    return grownSince(before, now);
  }, [made, links]);
  if (!made) return <p className="p-3 faint">No package was made yet: there is nothing to compare with.</p>;
  const total = grown.reduce((sum, { before, after }) => sum + (after ?? 0) - (before ?? 0), 0);
  return (
    <section>
      <div className="d-flex gap-2 align-items-center mb-2">
        <label htmlFor="grown-since">Since the package</label>
        <select id="grown-since" className="form-select form-select-sm w-auto" value={made.id} onChange={(event) => setChosen(event.target.value)}>
          {packages.map(({ id, manifest, createdAt }) => (
            <option key={id} value={id}>
              {manifest.version}, {new Date(createdAt).toLocaleString()}
            </option>
          ))}
        </select>
        <strong>{signed(total)}</strong>
      </div>
      {grown.length === 0 ? (
        <p className="faint">The same files travel as then.</p>
      ) : (
        <table className="table panel align-middle">
          <thead>
            <tr>
              <th>What</th>
              <th>File</th>
              <th className="text-end">By</th>
            </tr>
          </thead>
          <tbody>
            {grown.map(({ path, before, after }) => (
              <tr key={path}>
                <td>
                  <Icon name={before === null ? 'plus-square' : after === null ? 'dash-square' : 'pencil-square'} />{' '}
                  {before === null ? 'new' : after === null ? 'gone' : 'changed'}
                </td>
                <td>
                  <button className="link-name mono" onClick={() => choose(links.rows.find((row) => row.name === path)?.id ?? `texture:${path}`)}>
                    {path}
                  </button>
                </td>
                <td className="text-end">{signed((after ?? 0) - (before ?? 0))}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
