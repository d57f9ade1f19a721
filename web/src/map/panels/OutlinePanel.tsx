import { useMemo, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { findInMap, type Found } from '@violet-crate/core/map/member/find';
import { boxCentre } from '@violet-crate/core/math/box3';
import { factsOf, memberBox } from '@violet-crate/core/map/member/members';
import { KINDS, type MemberKind } from '@violet-crate/core/document/members';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch } from '../../state/store.ts';
import { memberLook } from '../member/members.ts';
import { useDocument } from '../editing/useDocument.ts';
import { isShown, selected, shown, viewChanged } from '../../state/viewSlice.ts';

type Row = { kind: MemberKind; id: string; label: string; note: string; icon: string } | { head: string; count: number };

/** Solids are many and come last. */
const ORDER = [...KINDS.filter((kind) => kind !== 'solids' && kind !== 'objects'), 'objects', 'solids'] as const;

/** Everything in the map as a tree, and what a search finds in it. */
export function OutlinePanel() {
  const dispatch = useAppDispatch();
  const { map, profile, view } = useDocument();
  const [query, setQuery] = useState('');
  const [closed, setClosed] = useState<Record<string, boolean>>({ Solids: true });
  const list = useRef<HTMLDivElement>(null);

  const rows = useMemo((): Row[] => {
    if (query.trim()) {
      const found = findInMap(map, profile, query, 2000);
      return found.map((f: Found) => ({
        kind: f.kind,
        id: f.id,
        label: f.label,
        note: f.because,
        icon: memberLook(f.kind).icon(map[f.kind][f.id] as never, profile),
      }));
    }
    const groups = new Map<string, Row[]>();
    for (const kind of ORDER)
      for (const [id, member] of Object.entries(map[kind]) as [string, never][]) {
        const look = memberLook(kind);
        const head = look.heading(member, profile);
        const row: Row = {
          kind,
          id,
          label: factsOf(kind).label(id, member),
          note: look.aside?.(member, map) ?? '',
          icon: look.icon(member, profile),
        };
        const list = groups.get(head);
        if (list) list.push(row);
        else groups.set(head, [row]);
      }
    return [...groups].flatMap(([head, members]) => [{ head, count: members.length }, ...(closed[head] ? [] : members)]);
  }, [map, profile, query, closed]);

  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => list.current, estimateSize: () => 26, overscan: 8 });
  const choose = (row: Extract<Row, { id: string }>, add: boolean) => {
    dispatch(
      selected(add ? { ...view.selection, [row.kind]: [...new Set([...view.selection[row.kind], row.id])] } : { kind: row.kind, ids: [row.id] }),
    );
    const box = memberBox(map, profile, row.kind, row.id);
    if (box && !add) dispatch(shown({ point: boxCentre(box) }));
  };
  return (
    <div className="d-flex flex-column h-100">
      <input
        id="map-find"
        className="form-control mb-1"
        type="search"
        placeholder="Find: a name, class:lamp, material:brick, tag:door"
        aria-label="Find in the map"
        value={query}
        onChange={(e) => setQuery(e.target.value)}
        onKeyDown={(e) => {
          const first = rows.find((r): r is Extract<Row, { id: string }> => 'id' in r);
          if (e.key === 'Enter' && first) choose(first, false);
        }}
      />
      <div ref={list} className="outline-list" role="tree" aria-label="Outline of the map">
        {rows.length === 0 && <div className="faint small p-2">{query ? 'Nothing in the map has these words.' : 'The map is empty.'}</div>}
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index];
            const style = { transform: `translateY(${item.start}px)`, height: item.size };
            if ('head' in row)
              return (
                <button
                  key={item.key}
                  role="treeitem"
                  aria-selected={false}
                  aria-expanded={!closed[row.head]}
                  className="outline-row head"
                  style={style}
                  onClick={() => setClosed({ ...closed, [row.head]: !closed[row.head] })}
                >
                  <Icon name={closed[row.head] ? 'chevron-right' : 'chevron-down'} /> {row.head} <span className="faint">{row.count}</span>
                </button>
              );
            const layer = (map[row.kind][row.id] as { layer?: string } | undefined)?.layer;
            const visible = isShown(view, row.kind, row.id, layer);
            return (
              <div key={item.key} className="outline-row" style={style}>
                <button
                  role="treeitem"
                  aria-selected={view.selection[row.kind].includes(row.id)}
                  className="outline-name"
                  onClick={(e) => choose(row, e.shiftKey || e.ctrlKey)}
                >
                  <Icon name={row.icon} /> {row.label} <span className="faint">{row.note}</span>
                </button>
                <button
                  className="btn btn-quiet btn-sm py-0"
                  aria-label={visible ? `Hide ${row.label}` : `Show ${row.label}`}
                  onClick={() => {
                    const key = `${row.kind}/${row.id}`;
                    const { [key]: _gone, ...rest } = view.hidden;
                    dispatch(viewChanged({ hidden: view.hidden[key] ? rest : { ...view.hidden, [key]: true } }));
                  }}
                >
                  <Icon name={visible ? 'eye' : 'eye-slash'} />
                </button>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
