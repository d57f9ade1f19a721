import { useMemo, useState } from 'react';
import { message, sendJson } from '../api/http.ts';
import type { Visibility, WorkshopState } from '../api/types.ts';
import { Chart, type ChartOption } from '../common/Chart.tsx';
import { bytes } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { themeColour } from '../theme/theme.ts';

const SEEN: Record<Visibility, [icon: string, words: string]> = {
  private: ['lock', 'Private: you, your organisation and its testers'],
  code: ['key', 'By share code: whoever has it'],
  listed: ['globe', 'Listed: everybody'],
};

interface Props {
  crateId: string;
  workshop: WorkshopState | null;
  refresh(): void;
}

/** All releases in one place: which version is given out, who may see it, how many play it; and what can be done about that. */
export function ListStep({ crateId, workshop, refresh }: Props) {
  const [problem, setProblem] = useState('');
  const [withdrawing, setWithdrawing] = useState<{ version: string; reason: string } | null>(null);
  const statistics = workshop?.statistics ?? null;
  const option = useMemo((): ChartOption | null => {
    if (!statistics || statistics.perDay.length === 0) return null;
    const [ink, line, bar] = ['--vc-ink', '--vc-line', '--vc-violet'].map(themeColour);
    const axis = { axisLabel: { color: ink }, axisLine: { lineStyle: { color: line } }, splitLine: { lineStyle: { color: line } } };
    return {
      grid: { left: 36, right: 10, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis' },
      xAxis: { type: 'category', data: statistics.perDay.map(({ day }) => day), ...axis },
      yAxis: { type: 'value', minInterval: 1, ...axis },
      series: [{ type: 'bar', data: statistics.perDay.map(({ count }) => count), itemStyle: { color: bar }, barMaxWidth: 28 }],
    };
  }, [statistics]);
  const mod = workshop?.mod;
  if (!mod)
    return (
      <section className="panel">
        <header>
          <h2>Releases</h2>
        </header>
        <p className="body faint mb-0">The workshop has nothing of this crate yet. Send it a package first.</p>
      </section>
    );
  const order = (what: string, body: object) =>
    sendJson('POST', `/api/crates/${crateId}/workshop/${what}`, body)
      .then(() => {
        setProblem('');
        setWithdrawing(null);
      })
      .catch((error) => setProblem(message(error)))
      .finally(refresh);
  const missing = workshop.conditions.filter(({ met }) => !met);
  return (
    <section className="panel">
      <header>
        <h2>Releases of {mod.name}</h2>
        <span className="faint">by {mod.organisation}</span>
      </header>
      <div className="body publish-form">
        <div className="d-flex gap-2 flex-wrap" role="group" aria-label="Who sees it">
          {(Object.keys(SEEN) as Visibility[]).map((one) => (
            <button
              key={one}
              className={`btn btn-quiet ${mod.visibility === one ? 'active' : ''}`}
              aria-pressed={mod.visibility === one}
              onClick={() => void order('visibility', { visibility: one })}
            >
              <Icon name={SEEN[one][0]} /> {SEEN[one][1]}
            </button>
          ))}
        </div>
        {mod.visibility !== 'listed' && (
          <ul className="conditions">
            {workshop.conditions.map(({ id, met, text }) => (
              <li key={id} data-condition={id} data-met={met}>
                <Icon name={met ? 'check-circle' : 'circle'} /> {met ? 'met' : 'not met'}: {text}
              </li>
            ))}
          </ul>
        )}
        {mod.visibility !== 'listed' && missing.length === 0 && <p className="mb-0">Everything is met: it can be listed.</p>}
        {problem && (
          <div className="severity blocker text-wrap" role="alert">
            {problem}
          </div>
        )}
        <div className="wide">
          <table className="table mb-0 align-middle">
            <thead>
              <tr>
                <th>Version</th>
                <th>Share code</th>
                <th>When</th>
                <th className="text-end">Size</th>
                <th className="text-end">Downloads</th>
                <th className="text-end">In use</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {mod.versions.map((one) => (
                <tr key={one.version} data-version={one.version}>
                  <td>
                    {one.version}{' '}
                    {one.version === mod.current && (
                      <span className="stamp clear">
                        <Icon name="broadcast" /> given out
                      </span>
                    )}
                    {one.withdrawnAt && (
                      <span className="stamp blocked" title={one.withdrawnFor}>
                        <Icon name="x-octagon" /> withdrawn
                      </span>
                    )}
                  </td>
                  <td className="mono">{one.shareCode}</td>
                  <td className="faint">{one.publishedAt.slice(0, 10)}</td>
                  <td className="text-end">{bytes(one.bytes)}</td>
                  <td className="text-end">{one.downloads}</td>
                  <td className="text-end">{statistics?.used.find(({ version }) => version === one.version)?.count ?? 0}</td>
                  <td className="text-end text-nowrap">
                    {!one.withdrawnAt && one.version !== mod.current && (
                      <button className="btn btn-quiet btn-sm py-0" onClick={() => void order('rollback', { version: one.version })}>
                        Give this one out
                      </button>
                    )}{' '}
                    {!one.withdrawnAt && (
                      <button className="btn btn-quiet btn-sm py-0" onClick={() => setWithdrawing({ version: one.version, reason: '' })}>
                        Withdraw …
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {withdrawing && (
          <form
            className="claim"
            aria-label={`Withdraw ${withdrawing.version}`}
            onSubmit={(event) => {
              event.preventDefault();
              void order('withdraw', withdrawing);
            }}
          >
            <label>
              Why {withdrawing.version} is withdrawn; players who have it read that
              <input
                className="form-control form-control-sm"
                autoFocus
                value={withdrawing.reason}
                onChange={(event) => setWithdrawing({ ...withdrawing, reason: event.target.value })}
              />
            </label>
            <button className="btn btn-warm btn-sm" disabled={withdrawing.reason.trim() === ''}>
              Withdraw it
            </button>
            <button type="button" className="btn btn-quiet btn-sm" onClick={() => setWithdrawing(null)}>
              Cancel
            </button>
          </form>
        )}
        {option && (
          <div>
            <h3>Downloads by day</h3>
            <Chart
              option={option}
              height={150}
              label={`Downloads by day: ${statistics!.perDay.map(({ day, count }) => `${day} ${count}`).join(', ')}`}
            />
          </div>
        )}
      </div>
    </section>
  );
}
