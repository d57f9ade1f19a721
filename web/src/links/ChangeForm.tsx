import { useState } from 'react';
import { assetKindOf } from '@violet-crate/core/crate/assetKind';
import { isWorkingFile } from '@violet-crate/core/crate/contents';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Thing } from '@violet-crate/core/link/thing';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import type { LinkRow } from './useLinks.ts';

interface Props {
  thing: Thing;
  entry: string;
  row: LinkRow | undefined;
  world: CrateWorld;
  propose(changes: LinkChange[]): void;
}

/** What can be done with a file or a material; everything is shown before it is done. */
export function ChangeForm({ thing, entry, row, world, propose }: Props) {
  const [name, setName] = useState('');
  const [other, setOther] = useState('');
  const [reason, setReason] = useState('');
  const [part, setPart] = useState('');
  const selection = useAppSelector((s) => s.view.selection);
  const map = useAppSelector((s) => s.map.name);
  const own = thing.origin === 'crate';
  const others =
    thing.kind === 'material'
      ? [...world.crate.manifest.materials, ...world.base.materials].map((material) => `material:${material.name}`)
      : [...world.crate.files, ...world.base.files]
          .map((file) => file.path)
          .filter((path) => assetKindOf(path) === thing.kind && !isWorkingFile(path));
  const { solids } = selection;
  const field = (id: string, label: string, value: string, set: (value: string) => void, button: string, change: LinkChange, hint?: string) => (
    <form
      className="change-row"
      onSubmit={(event) => {
        event.preventDefault();
        propose([change]);
      }}
    >
      <label htmlFor={id}>{label}</label>
      <input id={id} className="form-control form-control-sm" value={value} placeholder={hint} onChange={(event) => set(event.target.value)} />
      <button className="btn btn-quiet btn-sm" disabled={value.trim() === ''}>
        {button}
      </button>
    </form>
  );
  return (
    <>
      <h3>Change it everywhere</h3>
      {own && field('link-rename', 'New name', name, setName, 'Rename …', { do: 'rename', entry, name: name.trim() })}
      <form
        className="change-row"
        onSubmit={(event) => {
          event.preventDefault();
          propose([{ do: 'replace', from: entry, to: other }]);
        }}
      >
        <label htmlFor="link-replace">In its place</label>
        <select id="link-replace" className="form-select form-select-sm" value={other} onChange={(event) => setOther(event.target.value)}>
          <option value="">choose one</option>
          {[...new Set(others)]
            .filter((one) => one !== entry)
            .sort()
            .map((one) => (
              <option key={one} value={one}>
                {one.replace('material:', '')}
              </option>
            ))}
        </select>
        <button className="btn btn-quiet btn-sm" disabled={other === ''}>
          Replace …
        </button>
      </form>
      {own &&
        thing.kind === 'material' &&
        solids.length > 0 &&
        field(
          'link-split',
          `For ${plural(solids.length, 'selected solid')}`,
          part,
          setPart,
          'Split …',
          { do: 'split', material: thing.name, name: part.trim(), map, solids },
          'name of the new material',
        )}
      {row?.unused && !row.kept && field('link-keep', 'Keep, because', reason, setReason, 'Keep', { do: 'keep', entry, reason: reason.trim() })}
      {own && (
        <button className="btn btn-quiet btn-sm mt-1" onClick={() => propose([{ do: 'remove', entries: [entry] }])}>
          <Icon name="trash" /> Remove …
        </button>
      )}
    </>
  );
}
