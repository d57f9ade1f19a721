import { useMemo } from 'react';
import type { CoverageData } from '@violet-crate/core/trial/coverage';
import { Chart, type ChartOption } from '../common/Chart.tsx';
import { themeColour } from '../theme/theme.ts';

/** Seen from above, x to the right and y up: where players were, how long, and where they fell or died. */
export function HeatMap({ data }: { data: CoverageData }) {
  const option = useMemo(() => optionOf(data, themeColour('--vc-faint')), [data]);
  const { falls, deaths } = data;
  return (
    <>
      <Chart option={option} height={260} label="Time that players spent, seen from above" />
      <p className="small faint mb-0">
        {falls.length === 0 && deaths.length === 0
          ? 'Nobody fell or died.'
          : `${falls.length} ${falls.length === 1 ? 'fall' : 'falls'} (triangles), ${deaths.length} ${deaths.length === 1 ? 'death' : 'deaths'} (crosses).`}
      </p>
    </>
  );
}

function optionOf({ time, falls, deaths, cell }: CoverageData, ink: string): ChartOption {
  // Floors above each other are added up: it is a plan.
  const columns = new Map<string, [number, number, number]>();
  for (const [x, y, , seconds] of time) {
    const known = columns.get(`${x}/${y}`);
    if (known) known[2] += seconds;
    else columns.set(`${x}/${y}`, [x, y, seconds]);
  }
  const cells = [...columns.values()];
  const xs = cells.map(([x]) => x);
  const ys = cells.map(([, y]) => y);
  const span = Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys), cell) + 2 * cell;
  const middle = (list: number[]) => (Math.max(...list) + Math.min(...list)) / 2;
  const axis = (list: number[]) => ({
    type: 'value' as const,
    min: Math.floor(middle(list) - span / 2),
    max: Math.ceil(middle(list) + span / 2),
    axisLabel: { color: ink, fontSize: 10, showMinLabel: false, showMaxLabel: false },
    splitLine: { show: false },
  });
  const most = Math.max(...cells.map(([, , seconds]) => seconds), 1);
  return {
    grid: { left: 38, right: 10, top: 10, bottom: 22 },
    xAxis: axis(xs),
    yAxis: axis(ys),
    tooltip: {
      formatter: (at) => {
        const [x, y, seconds] = (at as unknown as { value: number[] }).value;
        return seconds === undefined ? `${Math.round(x)}, ${Math.round(y)}` : `${Math.round(x)}, ${Math.round(y)}: ${seconds.toFixed(1)} s`;
      },
    },
    series: [
      {
        type: 'scatter',
        symbol: 'rect',
        symbolSize: Math.max(3, (cell / span) * 230),
        data: cells.map(([x, y, seconds]) => ({
          value: [x, y, seconds],
          itemStyle: { color: heat(Math.log1p(seconds) / Math.log1p(most)) },
        })),
      },
      { type: 'scatter', symbol: 'triangle', symbolSize: 10, itemStyle: { color: '#ff6b6b' }, data: falls.map(([x, y]) => [x, y]) },
      {
        type: 'scatter',
        symbol: 'path://M0 2 L2 0 L5 3 L8 0 L10 2 L7 5 L10 8 L8 10 L5 7 L2 10 L0 8 L3 5 Z',
        symbolSize: 10,
        itemStyle: { color: '#ff6b6b' },
        data: deaths.map(([x, y]) => [x, y]),
      },
    ],
  };
}

/** From violet to gold, as the theme has them. */
function heat(share: number): string {
  const [from, to] = [
    [74, 44, 110],
    [229, 180, 92],
  ];
  return `rgb(${from.map((v, i) => Math.round(v + (to[i] - v) * share)).join(' ')})`.replaceAll(' ', ',');
}
