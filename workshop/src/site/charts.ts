/** Charts as SVG, drawn here: the pages need no script for them. */

import { BarChart, LineChart } from 'echarts/charts';
import { GridComponent } from 'echarts/components';
import { init, use as register } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

register([BarChart, LineChart, GridComponent, SVGRenderer]);

function drawn(option: object, height: number): string {
  const chart = init(null, null, { renderer: 'svg', ssr: true, width: 640, height });
  chart.setOption({ animation: false, textStyle: { color: 'currentColor', fontFamily: 'inherit' }, ...option });
  const svg = chart.renderToSVGString();
  chart.dispose();
  return svg;
}

const INK = 'currentColor';
const axis = { axisLabel: { color: INK }, axisLine: { lineStyle: { color: INK } } };

export const dayChart = (perDay: readonly { day: string; count: number }[]): string =>
  perDay.length === 0
    ? '<p class="faint">No downloads yet.</p>'
    : drawn(
        {
          grid: { left: 44, right: 12, top: 12, bottom: 28 },
          xAxis: { type: 'category', data: perDay.map(({ day }) => day), ...axis },
          yAxis: { type: 'value', minInterval: 1, ...axis },
          series: [{ type: 'bar', data: perDay.map(({ count }) => count), itemStyle: { color: '#b8772e' }, barMaxWidth: 36 }],
        },
        220,
      );

export const versionChart = (used: readonly { version: string; count: number }[]): string =>
  used.length === 0
    ? '<p class="faint">No application has asked for updates yet.</p>'
    : drawn(
        {
          grid: { left: 90, right: 40, top: 6, bottom: 24 },
          xAxis: { type: 'value', minInterval: 1, ...axis },
          yAxis: { type: 'category', inverse: true, data: used.map(({ version }) => version), ...axis },
          series: [
            {
              type: 'bar',
              data: used.map(({ count }) => count),
              itemStyle: { color: '#7a8f5a' },
              label: { show: true, position: 'right', color: INK },
              barMaxWidth: 26,
            },
          ],
        },
        Math.min(400, 40 + used.length * 34),
      );
