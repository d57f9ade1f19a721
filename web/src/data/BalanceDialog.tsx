import { useMemo, useState } from 'react';
import { Modal } from 'react-bootstrap';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { balance, sidesOf, type Balance } from '@violet-crate/core/table/contend';
import { keyOf, titleOf, type TableDocument } from '@violet-crate/core/table/document';
import { FormulaProblem } from '@violet-crate/core/table/formula';
import type { Table } from '@violet-crate/core/table/schema';
import type { Tables } from '@violet-crate/core/table/tables';
import { themeColour } from '../theme/theme.ts';
import { Chart, type ChartOption } from '../common/Chart.tsx';

interface Props {
  world: CrateWorld;
  tables: Tables;
  table: Table;
  document: TableDocument;
  close(): void;
  choose(n: number): void;
}

const PLAYED = 400;
/** Rows that are played against at once. */
const MOST_ROWS = 200;

/** What it takes to beat each row, by a model of the game: played many times with a seed. */
export function BalanceDialog({ world, tables, table, document, close, choose }: Props) {
  const models = (world.profile.contestModels ?? []).filter((model) => model.table === table.id);
  const [modelId, setModel] = useState(models[0].id);
  const model = models.find(({ id }) => id === modelId) ?? models[0];
  const keys = document.rows.map((row) => keyOf(table, row));
  const [challenger, setChallenger] = useState(model.challenger !== undefined && keys.includes(model.challenger) ? model.challenger : keys[0]);
  const [seed, setSeed] = useState(1);
  const results = useMemo(() => {
    const mine = document.rows[keys.indexOf(challenger)];
    return document.rows.slice(0, MOST_ROWS).flatMap((row, n): (({ n: number; title: string } & Balance) | { title: string; problem: string })[] => {
      if (row === mine || !mine) return [];
      try {
        return [{ n, title: titleOf(table, row), ...balance(sidesOf(tables, table, model, mine, row), model.rounds, PLAYED, seed) }];
      } catch (error) {
        if (error instanceof FormulaProblem) return [{ title: titleOf(table, row), problem: error.message }];
        throw error;
      }
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- keys follow from the document
  }, [tables, table, document, model, challenger, seed]);
  const played = results.flatMap((one) => ('won' in one ? [one] : [])).sort((a, b) => b.won - a.won);
  const option = useMemo((): ChartOption => {
    const [ink, line] = [themeColour('--vc-ink'), themeColour('--vc-line')];
    const axis = { axisLabel: { color: ink, fontSize: 10 }, nameTextStyle: { color: ink }, axisLine: { lineStyle: { color: line } } };
    return {
      grid: { left: 40, right: 44, top: 28, bottom: 84 },
      tooltip: { trigger: 'axis' },
      legend: { top: 0, textStyle: { color: ink } },
      xAxis: { type: 'category', data: played.map(({ title }) => title), ...axis, axisLabel: { ...axis.axisLabel, rotate: 50, interval: 0 } },
      yAxis: [
        { type: 'value', name: '% won', max: 100, ...axis, splitLine: { lineStyle: { color: line } } },
        { type: 'value', name: 'rounds', ...axis, splitLine: { show: false } },
      ],
      series: [
        { name: 'Won, %', type: 'bar', color: themeColour('--vc-violet'), data: played.map(({ won }) => Math.round(won * 1000) / 10) },
        {
          name: 'Rounds',
          type: 'line',
          yAxisIndex: 1,
          color: themeColour('--vc-warm'),
          data: played.map(({ rounds }) => Math.round(rounds * 10) / 10),
        },
      ],
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what was played follows from the results
  }, [results]);
  const broken = results.find((one) => 'problem' in one);
  return (
    <Modal show onHide={close} aria-labelledby="balance-rows" scrollable size="xl">
      <Modal.Header closeButton>
        <h2 id="balance-rows" className="m-0">
          What it takes to win
        </h2>
      </Modal.Header>
      <Modal.Body>
        <div className="d-flex flex-wrap gap-3 mb-2 align-items-center">
          <label className="d-flex align-items-center gap-2">
            Model
            <select className="form-select form-select-sm" value={model.id} onChange={({ target }) => setModel(target.value)}>
              {models.map(({ id, label }) => (
                <option key={id} value={id}>
                  {label}
                </option>
              ))}
            </select>
          </label>
          <label className="d-flex align-items-center gap-2">
            Who tries
            <select className="form-select form-select-sm" value={challenger} onChange={({ target }) => setChallenger(target.value)}>
              {document.rows.map((row) => (
                <option key={keyOf(table, row)} value={keyOf(table, row)}>
                  {titleOf(table, row)}
                </option>
              ))}
            </select>
          </label>
          <label className="d-flex align-items-center gap-2">
            Seed
            <input
              className="form-control form-control-sm"
              style={{ width: '5rem' }}
              type="number"
              value={seed}
              onChange={({ target }) => setSeed(Math.round(Number(target.value)) || 0)}
            />
          </label>
        </div>
        <p className="faint small mb-2">
          Strength {model.strength}; a try succeeds with {model.chance} and takes {model.least} to {model.most}. Each was played {PLAYED} times.
        </p>
        {broken && 'problem' in broken && (
          <p className="severity warning text-wrap" role="alert">
            {broken.title}: {broken.problem}.
          </p>
        )}
        {played.length > 0 && (
          <Chart label="Share of contests that are won, and rounds that they take" height={260} onPick={(i) => choose(played[i].n)} option={option} />
        )}
        <table className="table">
          <thead>
            <tr>
              <th>Against</th>
              <th className="text-end">Won</th>
              <th className="text-end">Rounds</th>
            </tr>
          </thead>
          <tbody>
            {played.map(({ n, title, won, rounds, error }) => (
              <tr key={n}>
                <td>
                  <button className="btn btn-quiet btn-sm py-0" onClick={() => (choose(n), close())}>
                    {title}
                  </button>
                </td>
                <td className="text-end">{Math.round(won * 100)} %</td>
                <td className="text-end">
                  {rounds.toFixed(1)} <span className="faint">± {error.toFixed(1)}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Modal.Body>
    </Modal>
  );
}
