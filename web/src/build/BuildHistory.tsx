import { useMemo, useState } from 'react';
import { BUILD_STAGES } from '@violet-crate/core/stages/contract/stage';
import type { Build } from '../api/types.ts';
import { BuildList } from './BuildList.tsx';
import { Chart, type ChartOption } from '../common/Chart.tsx';
import { themeColour } from '../theme/theme.ts';

const SHOWN = 8;

interface Props {
  builds: Build[];
  crateId: string;
  shown: string;
  onShow(id: string): void;
}

/** The last builds to choose from, and time or memory per stage of them, to see what has grown. */
export function BuildHistory({ builds, crateId, shown, onShow }: Props) {
  const [what, setWhat] = useState<'milliseconds' | 'memory'>('milliseconds');
  const option = useMemo((): ChartOption => {
    const last = builds.slice(0, SHOWN).reverse();
    const ink = themeColour('--vc-faint');
    const colours = [
      themeColour('--vc-faint'),
      themeColour('--vc-clear'),
      '#7d8ff0',
      '#c774b4',
      themeColour('--vc-violet'),
      '#5aa9b8',
      themeColour('--vc-warm'),
    ];
    return {
      grid: { left: 110, right: 12, top: 28, bottom: 24 },
      legend: { textStyle: { color: ink }, top: 0, itemHeight: 10 },
      tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' } },
      xAxis: {
        type: 'value',
        name: what === 'memory' ? 'MiB' : 'ms',
        axisLabel: { color: ink },
        splitLine: { lineStyle: { color: themeColour('--vc-line') } },
      },
      yAxis: { type: 'category', data: last.map((b) => `${b.quality} ${new Date(b.createdAt).toLocaleTimeString()}`), axisLabel: { color: ink } },
      series: BUILD_STAGES.map((stage, i) => ({
        name: stage,
        type: 'bar',
        // Times add up; memory is the most that was in use at once.
        ...(what === 'milliseconds' ? { stack: 'all' } : {}),
        barMaxWidth: 18,
        itemStyle: { color: colours[i] },
        data: last.map((b) => {
          const report = b.stages.find((s) => s.stage === stage);
          if (!report || report.state === 'skipped') return 0;
          return what === 'memory' ? Math.round((report.memory ?? 0) / 1048576) : report.milliseconds;
        }),
      })),
    };
  }, [builds, what]);
  return (
    <section className="panel">
      <header>
        <h2>Last builds</h2>
        <div className="btn-group" role="radiogroup" aria-label="What the chart shows">
          {(['milliseconds', 'memory'] as const).map((one) => (
            <button
              key={one}
              className={`btn btn-quiet btn-sm ${one === what ? 'active' : ''}`}
              role="radio"
              aria-checked={one === what}
              onClick={() => setWhat(one)}
            >
              {one === 'memory' ? 'Memory' : 'Time'}
            </button>
          ))}
        </div>
      </header>
      <div className="body">
        <BuildList builds={builds.slice(0, SHOWN)} crateId={crateId} shown={shown} onShow={onShow} />
        <Chart
          option={option}
          height={60 + Math.min(SHOWN, builds.length) * (what === 'memory' ? 60 : 26)}
          label={`${what === 'memory' ? 'Memory' : 'Milliseconds'} per stage of the last builds`}
        />
      </div>
    </section>
  );
}
