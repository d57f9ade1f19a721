import { useMemo, useState } from 'react';
import { Modal } from 'react-bootstrap';
import { SYMBOLS } from '@violet-crate/core/overview/symbols';
import { hasPart } from '@violet-crate/core/profile/parts';
import type { Change } from '@violet-crate/core/document/edit';
import type { MapObject, PropertyValue } from '@violet-crate/core/document/schema';
import { Icon } from '../../common/Icon.tsx';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { selected, shown, viewChanged } from '../../state/viewSlice.ts';
import { useDocument } from '../editing/useDocument.ts';

const COLUMNS = [
  ['name', 'Name'],
  ['use', 'Use'],
  ['code', 'Id'],
  ['label', 'Label'],
  ['icon', 'Map icon'],
  ['partner', 'Partner'],
] as const;
type Column = (typeof COLUMNS)[number][0];

/** All zones of the map in one sheet: filtered, sorted, several edited at once; a click shows the place. */
export function ZoneSheet({ close }: { close(): void }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const findings = useAppSelector((s) => s.checks.findings);
  const files = useAppSelector((s) => s.crate.view?.files) ?? [];
  const [filter, setFilter] = useState('');
  const [sort, setSort] = useState<{ by: Column; down: boolean }>({ by: 'name', down: false });
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const uses = profile.zoneUses ?? [];
  const textures = files.filter(({ path }) => path.startsWith('textures/')).map(({ path }) => path);
  const zones = useMemo(() => Object.entries(map.objects).filter(([, object]) => hasPart(profile, object.class, 'zone')), [map.objects, profile]);
  const text = (object: MapObject, column: Column): string => {
    if (column === 'name') return object.name;
    const value = String(object.properties[column] ?? '');
    return column === 'partner' ? (map.objects[value]?.name ?? value) : value;
  };
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = zones
    .filter(([, object]) => words.every((word) => COLUMNS.some(([column]) => text(object, column).toLowerCase().includes(word))))
    .sort(([, a], [, b]) => text(a, sort.by).localeCompare(text(b, sort.by), 'en', { numeric: true }) * (sort.down ? -1 : 1));
  const troubles = new Map<string, string[]>();
  for (const { place, message } of findings) if (place?.object) troubles.set(place.object, [...(troubles.get(place.object) ?? []), message]);

  /** One property of the row, or of all that are ticked where the row is among them. */
  const put = (id: string, column: Exclude<Column, 'name'>, value: PropertyValue) => {
    const ids = chosen.has(id) && column !== 'partner' && column !== 'code' ? [...chosen] : [id];
    const changes = ids.map((one): Change => {
      const object = map.objects[one];
      return { of: 'objects', id: one, to: { ...object, properties: { ...object.properties, [column]: value } } };
    });
    // A pair names each other.
    if (column === 'partner' && typeof value === 'string' && map.objects[value])
      changes.push({ of: 'objects', id: value, to: { ...map.objects[value], properties: { ...map.objects[value].properties, partner: id } } });
    dispatch(edited({ name: `change ${ids.length === 1 ? map.objects[id].name : `${ids.length} zones`}`, changes }));
  };
  const show = (id: string) => {
    dispatch(selected({ kind: 'objects', ids: [id] }));
    dispatch(shown({ point: map.objects[id].position, frame: profile.player.height * 30 }));
    dispatch(viewChanged({ panel: 'properties' }));
    close();
  };
  const mapIcons = profile.mapIcons ?? [];
  return (
    <Modal show onHide={close} size="xl" aria-labelledby="zone-sheet">
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="zone-sheet">
          Zones
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="d-flex gap-2 align-items-center mb-2">
          <input
            type="search"
            className="form-control"
            placeholder="Filter"
            aria-label="Filter zones"
            value={filter}
            onChange={(e) => setFilter(e.target.value)}
          />
          <span className="faint text-nowrap">
            {rows.length} of {zones.length}
            {chosen.size > 0 && `, ${chosen.size} ticked`}
          </span>
        </div>
        {zones.length === 0 ? (
          <div className="empty">
            <h3>No zones yet</h3>
            Place one with the tool Object: entrances, exits, photo spots, boundaries.
          </div>
        ) : (
          <div className="zone-table">
            <table className="table table-sm align-middle">
              <thead>
                <tr>
                  <th>
                    <input
                      type="checkbox"
                      className="form-check-input"
                      aria-label="Tick all"
                      checked={rows.length > 0 && rows.every(([id]) => chosen.has(id))}
                      onChange={(e) => setChosen(new Set(e.target.checked ? rows.map(([id]) => id) : []))}
                    />
                  </th>
                  {COLUMNS.map(([column, label]) => (
                    <th key={column} aria-sort={sort.by === column ? (sort.down ? 'descending' : 'ascending') : 'none'}>
                      <button className="btn btn-quiet btn-sm" onClick={() => setSort({ by: column, down: sort.by === column && !sort.down })}>
                        {label} {sort.by === column && <Icon name={sort.down ? 'caret-down-fill' : 'caret-up-fill'} />}
                      </button>
                    </th>
                  ))}
                  <th>Findings</th>
                </tr>
              </thead>
              <tbody>
                {rows.map(([id, object]) => (
                  <tr key={id}>
                    <td>
                      <input
                        type="checkbox"
                        className="form-check-input"
                        aria-label={`Tick ${object.name}`}
                        checked={chosen.has(id)}
                        onChange={() => {
                          const next = new Set(chosen);
                          if (!next.delete(id)) next.add(id);
                          setChosen(next);
                        }}
                      />
                    </td>
                    <td>
                      <button className="btn btn-quiet btn-sm" title="Show it in the map" onClick={() => show(id)}>
                        <Icon name="geo" /> {object.name}
                      </button>
                    </td>
                    <td>
                      <select
                        className="form-select"
                        aria-label={`Use of ${object.name}`}
                        value={text(object, 'use')}
                        onChange={(e) => put(id, 'use', e.target.value)}
                      >
                        {uses.map((use) => (
                          <option key={use.id} value={use.id}>
                            {use.label}
                          </option>
                        ))}
                      </select>
                    </td>
                    {(['code', 'label'] as const).map((column) => (
                      <td key={column}>
                        <input
                          className="form-control mono"
                          aria-label={`${column === 'code' ? 'Id' : 'Label'} of ${object.name}`}
                          defaultValue={text(object, column)}
                          key={text(object, column)}
                          onBlur={(e) => e.target.value !== text(object, column) && put(id, column, e.target.value)}
                        />
                      </td>
                    ))}
                    <td>
                      <select
                        className="form-select"
                        aria-label={`Map icon of ${object.name}`}
                        value={text(object, 'icon')}
                        onChange={(e) => put(id, 'icon', e.target.value)}
                      >
                        <option value="">none</option>
                        {[...new Set([...textures, ...SYMBOLS, text(object, 'icon')])].filter(Boolean).map((path) => (
                          <option key={path} value={path}>
                            {path.replace(/^textures\//, '').replace('symbols/', 'symbol: ')}
                          </option>
                        ))}
                      </select>
                    </td>
                    <td>
                      <select
                        className="form-select"
                        aria-label={`Partner of ${object.name}`}
                        value={String(object.properties.partner ?? '')}
                        onChange={(e) => put(id, 'partner', e.target.value)}
                      >
                        <option value="">none</option>
                        {zones
                          .filter(([other]) => other !== id)
                          .map(([other, one]) => (
                            <option key={other} value={other}>
                              {one.name}
                            </option>
                          ))}
                      </select>
                    </td>
                    <td className="small text-warm">{troubles.get(id)?.join(' ')}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        {mapIcons.length > 0 && <p className="faint small mb-0">Map icons have sides of {mapIcons.join(' or ')} pixels.</p>}
      </Modal.Body>
    </Modal>
  );
}
