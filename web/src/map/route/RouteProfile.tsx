import { useMemo } from 'react';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Ribbon, Station } from '@violet-crate/core/route/ribbon';
import { Chart, type ChartOption } from '../../common/Chart.tsx';
import { themeColour } from '../../theme/theme.ts';

/** Bends that are wider than this are drawn as straight, metres. */
const WIDE = 200;

/** Points that a chart of a few hundred pixels can show. */
const POINTS = 240;

interface Props {
  ribbon: Ribbon;
  metres: number;
  /** Where on the ribbon the pointer is; null where it has left the chart. */
  onHover(at: Vec3 | null): void;
  onPick(at: Vec3): void;
}

/** Height, gradient and bends along a ribbon. */
export function RouteProfile({ ribbon, metres, onHover, onPick }: Props) {
  const { stations } = ribbon;
  const shown = useMemo(() => {
    const every = Math.max(1, Math.ceil(stations.length / POINTS));
    return stations.filter((_, n) => n % every === 0 || n === stations.length - 1);
  }, [stations]);
  const option = useMemo((): ChartOption => {
    const [ink, faint, clear, warm, violet] = ['--vc-ink', '--vc-faint', '--vc-clear', '--vc-warm', '--vc-violet'].map(themeColour);
    const axis = { axisLabel: { color: faint, fontSize: 10 }, splitLine: { show: false }, nameTextStyle: { color: faint, fontSize: 10 } };
    return {
      animation: false,
      grid: [
        { left: 38, right: 10, top: 22, height: 58 },
        { left: 38, right: 10, top: 114, height: 42 },
        { left: 38, right: 10, top: 190, height: 34 },
      ],
      tooltip: { trigger: 'axis', textStyle: { color: ink, fontSize: 11 }, backgroundColor: themeColour('--vc-surface'), borderColor: faint },
      xAxis: [0, 1, 2].map((gridIndex) => ({
        gridIndex,
        type: 'value' as const,
        max: Math.round(ribbon.length * metres),
        ...axis,
        axisLabel: { ...axis.axisLabel, show: gridIndex === 2, showMaxLabel: false },
      })),
      yAxis: [
        { gridIndex: 0, scale: true, name: 'height m', splitNumber: 2, ...axis },
        { gridIndex: 1, name: 'gradient %', splitNumber: 2, ...axis },
        { gridIndex: 2, name: 'bend m', max: WIDE, splitNumber: 1, ...axis },
      ],
      series: (
        [
          ['Height', clear, ({ at }) => Math.round(at[2] * metres * 10) / 10],
          ['Gradient', warm, ({ gradient }) => Math.round(gradient)],
          ['Bend', violet, ({ radius }) => (radius * metres > WIDE ? null : Math.round(radius * metres))],
        ] satisfies [string, string, (station: Station) => number | null][]
      ).map(([name, color, value], row) => ({
        type: 'line' as const,
        name,
        xAxisIndex: row,
        yAxisIndex: row,
        showSymbol: false,
        lineStyle: { color },
        itemStyle: { color },
        ...(row === 0 ? { areaStyle: { color, opacity: 0.15 } } : {}),
        data: shown.map((station) => [Math.round(station.along * metres), value(station)]),
      })),
    };
  }, [shown, metres, ribbon.length]);
  return (
    <Chart
      option={option}
      height={244}
      label={`Height, gradient and bends along ${Math.round(ribbon.length * metres)} metres`}
      onHover={(n) => onHover(n === null ? null : (shown[n]?.at ?? null))}
      onPick={(n) => shown[n] && onPick(shown[n].at)}
    />
  );
}
