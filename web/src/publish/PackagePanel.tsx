import { useState } from 'react';
import { Link } from 'react-router';
import { message, sendJson } from '../api/http.ts';
import { isActive } from '../state/jobsSlice.ts';
import { bytes, plural, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { FindingRow } from '../common/FindingRow.tsx';
import { useAppSelector } from '../state/store.ts';

/** Makes the package from a fresh build. */
export function PackagePanel({ crateId }: { crateId: string }) {
  const { packages, builds, profile } = useAppSelector((s) => s.crate);
  const packing = useAppSelector((s) => Object.values(s.jobs.byId).find((job) => job.kind === 'pack' && job.crateId === crateId && isActive(job)));
  const failed = useAppSelector(
    (s) =>
      Object.values(s.jobs.byId)
        .filter((job) => job.kind === 'pack' && job.crateId === crateId)
        .sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1))[0],
  );
  const [problem, setProblem] = useState('');
  const platforms = profile?.package.platforms ?? [];
  const [chosen, setChosen] = useState<string[]>([]);
  const latest = packages?.[0];
  const built = builds?.find((b) => b.ok && b.fresh);
  const pack = () => {
    setProblem('');
    sendJson('POST', `/api/crates/${crateId}/packages`, { platforms: chosen }).catch((error) => setProblem(message(error)));
  };
  return (
    <section className="panel mb-3">
      <header>
        <h2>Package</h2>
        {latest && (
          <span className={`stamp ${latest.fresh ? 'clear' : 'stale'}`}>
            <Icon name={latest.fresh ? 'check-circle' : 'clock-history'} /> {latest.fresh ? 'fresh' : 'stale'}
          </span>
        )}
      </header>
      <div className="body">
        {!built && (
          <p className="severity warning text-wrap">
            <Icon name="clock-history" /> The map has no fresh build. <Link to={`/crates/${crateId}/build`}>Build it first.</Link>
          </p>
        )}
        {platforms.length > 0 && (
          <fieldset className="mb-2">
            <legend className="small faint mb-1">One for all, and from the same build one of its own for:</legend>
            {platforms.map(({ id, title }) => (
              <div className="form-check form-check-inline" key={id}>
                <input
                  className="form-check-input"
                  type="checkbox"
                  id={`platform-${id}`}
                  checked={chosen.includes(id)}
                  onChange={({ target }) => setChosen(target.checked ? [...chosen, id] : chosen.filter((other) => other !== id))}
                />
                <label className="form-check-label" htmlFor={`platform-${id}`}>
                  {title}
                </label>
              </div>
            ))}
          </fieldset>
        )}
        <div className="d-flex gap-2 align-items-center flex-wrap">
          <button className="btn btn-primary" onClick={pack} disabled={!built || !!packing}>
            <Icon name="box-seam" /> {packing ? 'Packing …' : 'Make package'}
          </button>
          {latest && (
            <>
              <a className="btn btn-quiet" href={`/api/packages/${latest.id}/file`} download>
                <Icon name="download" /> {latest.manifest.name}-{latest.manifest.version}.zip
              </a>
              <span className="faint small">
                {bytes(latest.bytes)}, {latest.manifest.files.length} files, {time(latest.createdAt)}
              </span>
            </>
          )}
        </div>
        {problem && (
          <div className="severity blocker text-wrap mt-2" role="alert">
            {problem}
          </div>
        )}
        {failed?.state === 'failed' && failed.error && !packing && (!latest || failed.createdAt > latest.createdAt) && (
          <FindingRow finding={failed.error} />
        )}
        {latest?.platforms.map(({ id, bytes: size, differences, findings }) => (
          <details key={id} className="mt-2 small" data-platform={id}>
            <summary>
              {platforms.find((platform) => platform.id === id)?.title ?? id}: {bytes(size)},{' '}
              {differences.length > 0 ? plural(differences.length, 'file') + ' different' : 'the same files'}
            </summary>
            <a className="btn btn-quiet btn-sm" href={`/api/packages/${latest.id}/file?platform=${id}`} download>
              <Icon name="download" /> {latest.manifest.name}-{latest.manifest.version}-{id}.zip
            </a>
            <ul className="mb-1">
              {differences.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
            {findings.map((finding) => (
              <FindingRow key={finding.message} finding={finding} />
            ))}
          </details>
        ))}
        {latest && latest.findings.length > 0 && (
          <div className="mt-2">
            {latest.findings.map((finding) => (
              <FindingRow key={`${finding.code} ${finding.message}`} finding={finding} />
            ))}
          </div>
        )}
        {latest && (
          <details className="mt-2 small">
            <summary>Contents</summary>
            <table className="table table-sm mb-0">
              <tbody>
                {[...latest.manifest.files]
                  .sort((a, b) => b.bytes - a.bytes)
                  .map((file) => (
                    <tr key={file.path}>
                      <td className="mono">{file.path}</td>
                      <td className="text-end">{bytes(file.bytes)}</td>
                      <td className="mono faint" title={file.sha256}>
                        {file.sha256.slice(0, 10)}…
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </details>
        )}
      </div>
    </section>
  );
}
