import { useEffect, useRef } from 'react';
import {
  BarChart,
  LineChart,
  ScatterChart,
  SunburstChart,
  TreemapChart,
  type BarSeriesOption,
  type LineSeriesOption,
  type ScatterSeriesOption,
  type SunburstSeriesOption,
  type TreemapSeriesOption,
} from 'echarts/charts';
import {
  GridComponent,
  LegendComponent,
  TooltipComponent,
  type GridComponentOption,
  type LegendComponentOption,
  type TooltipComponentOption,
} from 'echarts/components';
import { init, use as register, type ComposeOption } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

register([BarChart, LineChart, ScatterChart, SunburstChart, TreemapChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);

export type ChartOption = ComposeOption<
  | BarSeriesOption
  | LineSeriesOption
  | ScatterSeriesOption
  | SunburstSeriesOption
  | TreemapSeriesOption
  | GridComponentOption
  | LegendComponentOption
  | TooltipComponentOption
>;

interface Props {
  option: ChartOption;
  height: number;
  label: string;
  /** The pointer is over the data with this number; null where it has left. */
  onHover?(index: number | null): void;
  onPick?(index: number): void;
  /** A click on a part of a tree, with the datum that it was made of. */
  onPart?(data: unknown): void;
}

export function Chart({ option, height, label, onHover, onPick, onPart }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const told = useRef({ onHover, onPick, onPart });
  useEffect(() => {
    told.current = { onHover, onPick, onPart };
  });
  useEffect(() => {
    const chart = init(host.current!, null, { renderer: 'svg' });
    chart.setOption(option);
    let over: number | null = null;
    chart.on('updateAxisPointer', (event) => {
      const index = (event as { dataIndex?: number }).dataIndex;
      if (index === undefined || index === over) return;
      over = index;
      told.current.onHover?.(index);
    });
    chart.getZr().on('globalout', () => {
      over = null;
      told.current.onHover?.(null);
    });
    chart.getZr().on('click', () => over !== null && told.current.onPick?.(over));
    chart.on('click', (event) => told.current.onPart?.(event.data));
    const resize = new ResizeObserver(() => chart.resize());
    resize.observe(host.current!);
    return () => {
      resize.disconnect();
      chart.dispose();
    };
  }, [option]);
  return <div ref={host} style={{ height }} role="img" aria-label={label} />;
}
