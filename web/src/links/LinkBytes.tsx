import { useMemo, useState } from 'react';
import type { TreemapSeriesOption } from 'echarts/charts';
import { causesOf, type Cause } from '@violet-crate/core/link/causes';
import { LINK_KINDS, type LinkKind } from '@violet-crate/core/link/thing';
import { Chart, type ChartOption } from '../common/Chart.tsx';
import { bytes } from '../common/format.ts';
import { useAppSelector } from '../state/store.ts';
import { themeColour } from '../theme/theme.ts';
import type { Links } from './useLinks.ts';

interface Part {
  name: string;
  value: number;
  /** Of the thing that it stands for. */
  thing?: string;
  children?: Part[];
}

const BY = { kind: 'By kind', folder: 'By folder', cause: 'By cause' } as const;
type By = keyof typeof BY;

interface Props {
  links: Links;
  choose(id: string): void;
}

/** Where the bytes of the package are: by kind, by folder, or by cause, which is what would go if a thing went. */
export function LinkBytes({ links, choose }: Props) {
  const [by, setBy] = useState<By>('cause');
  const [form, setForm] = useState<'treemap' | 'sunburst'>('treemap');
  const theme = useAppSelector((s) => s.preferences.values.theme);
  const parts = useMemo(() => partsBy(links, by), [links, by]);
  const option = useMemo(() => chartOf(parts, form, String(theme)), [parts, form, theme]);
  const largest = useMemo(() => flat(parts).slice(0, 12), [parts]);
  if (links.ownBytes === 0) return <p className="p-3 faint">Nothing of the crate travels yet: its maps need only what the game has.</p>;
  return (
    <div className="link-bytes">
      <div className="d-flex gap-2 flex-wrap">
        <div className="btn-group" role="group" aria-label="What bytes are laid out by">
          {(Object.keys(BY) as By[]).map((one) => (
            <button key={one} className={`btn btn-quiet ${by === one ? 'active' : ''}`} aria-pressed={by === one} onClick={() => setBy(one)}>
              {BY[one]}
            </button>
          ))}
        </div>
        <div className="btn-group" role="group" aria-label="Form of the picture">
          {(['treemap', 'sunburst'] as const).map((one) => (
            <button key={one} className={`btn btn-quiet ${form === one ? 'active' : ''}`} aria-pressed={form === one} onClick={() => setForm(one)}>
              {one === 'treemap' ? 'Areas' : 'Rings'}
            </button>
          ))}
        </div>
      </div>
      <p className="faint mb-0">
        {by === 'cause'
          ? 'A box holds all that is in the package only because of it: take it out, and as much goes.'
          : `${bytes(links.ownBytes)} of the crate's own files travel.`}
      </p>
      <Chart
        option={option}
        height={380}
        label={`Bytes of the package, ${BY[by].toLowerCase()}; the list below has the same`}
        onPart={(data) => {
          const { thing } = (data ?? {}) as Part;
          if (thing) choose(thing);
        }}
      />
      <table className="table table-sm mb-0">
        <thead>
          <tr>
            <th>{by === 'cause' ? 'What' : BY[by].slice(3)}</th>
            <th className="text-end">{by === 'cause' ? 'Goes with it' : 'Size'}</th>
          </tr>
        </thead>
        <tbody>
          {largest.map(({ name, value, thing }) => (
            <tr key={`${thing} ${name}`}>
              <td>
                {thing ? (
                  <button className="link-name mono" onClick={() => choose(thing)}>
                    {name}
                  </button>
                ) : (
                  name
                )}
              </td>
              <td className="text-end">{bytes(value)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Leaves and branches with a name of their own, the largest first; a branch of one child is that child. */
const flat = (parts: Part[]): Part[] => parts.flatMap((part) => [part, ...flat(part.children ?? [])]).sort((a, b) => b.value - a.value);

function partsBy({ rows, graph, world }: Links, by: By): Part[] {
  if (by === 'cause') {
    const { children } = causesOf(graph, world);
    // With one map everything is there because of it, which says nothing.
    return (children.length === 1 ? children[0].children : children).map(partOfCause);
  }
  const own = rows.filter((row) => row.origin === 'crate' && !row.unused && row.bytes > 0);
  const groups = new Map<string, Part>();
  for (const row of own) {
    const name = by === 'kind' ? `${LINK_KINDS[row.kind]}s` : row.name.split('/').slice(0, -1).join('/') || '/';
    const group = groups.get(name) ?? { name, value: 0, children: [] };
    groups.set(name, group);
    group.value += row.bytes;
    group.children!.push({ name: row.name.split('/').pop()!, value: row.bytes, thing: row.id });
  }
  return [...groups.values()].sort((a, b) => b.value - a.value);
}

function partOfCause({ id, kind, name, bytes: own, total, children }: Cause): Part {
  const words = Object.hasOwn(LINK_KINDS, kind) ? `${LINK_KINDS[kind as LinkKind]} ${name}` : `${kind} ${name}`;
  const thing = kind === 'object' ? undefined : id;
  if (children.length === 0) return { name: words, value: total, thing };
  const parts = children.map(partOfCause);
  return { name: words, value: total, thing, children: own > 0 ? [{ name: `${name} itself`, value: own, thing }, ...parts] : parts };
}

/** @param _theme colours are those of the page as it is: another theme makes another chart */
function chartOf(parts: Part[], form: 'treemap' | 'sunburst', _theme: string): ChartOption {
  const [ink, line, ground] = ['--vc-ink', '--vc-line', '--vc-surface'].map(themeColour);
  const tooltip: ChartOption['tooltip'] = {
    formatter: (given) => {
      const { name, value } = given as { name: string; value: number };
      // ECharts writes this as HTML.
      return `${name.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)}: ${bytes(value)}`;
    },
  };
  const colours = SHADES.map(themeColour);
  if (form === 'sunburst')
    return {
      tooltip,
      color: colours,
      series: [
        {
          type: 'sunburst',
          data: parts as never,
          radius: ['12%', '95%'],
          nodeClick: false,
          itemStyle: { borderColor: ground, borderWidth: 1.5 },
          label: { color: ink, minAngle: 12, overflow: 'truncate', width: 90 },
        },
      ],
    };
  const level = (border: number, gap: number): NonNullable<TreemapSeriesOption['levels']>[number] => ({
    itemStyle: { borderColor: line, borderWidth: border, gapWidth: gap },
    upperLabel: { show: true, color: ink, height: 20 },
  });
  return {
    tooltip,
    color: colours,
    series: [
      {
        type: 'treemap',
        data: parts,
        roam: false,
        nodeClick: false,
        breadcrumb: { show: false },
        top: 4,
        bottom: 4,
        left: 0,
        right: 0,
        leafDepth: 6,
        label: { color: ink, overflow: 'truncate' },
        upperLabel: { show: true, height: 20, color: ink },
        itemStyle: { borderColor: line, gapWidth: 2 },
        levels: [{ color: colours, colorMappingBy: 'index', itemStyle: { gapWidth: 2 } }, level(1, 2), level(1, 1), level(1, 1)],
      },
    ],
  };
}

/** Surfaces that ink is readable on in either theme: text stands on all of them. */
const SHADES = ['--vc-part-1', '--vc-part-2', '--vc-part-3', '--vc-part-4'];
