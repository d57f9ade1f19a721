import { useEffect, useRef } from 'react';
import { BarChart, ScatterChart, type BarSeriesOption, type ScatterSeriesOption } from 'echarts/charts';
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

register([BarChart, ScatterChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);

export type ChartOption = ComposeOption<BarSeriesOption | ScatterSeriesOption | GridComponentOption | LegendComponentOption | TooltipComponentOption>;

export function Chart({ option, height, label }: { option: ChartOption; height: number; label: string }) {
  const host = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const chart = init(host.current!, null, { renderer: 'svg' });
    chart.setOption(option);
    const resize = new ResizeObserver(() => chart.resize());
    resize.observe(host.current!);
    return () => {
      resize.disconnect();
      chart.dispose();
    };
  }, [option]);
  return <div ref={host} style={{ height }} role="img" aria-label={label} />;
}
