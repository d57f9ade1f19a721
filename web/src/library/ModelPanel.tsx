import { useState } from 'react';
import { MODEL_OPTIONS } from '@violet-crate/core/asset/mesh/model/options';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import type { Finding } from '@violet-crate/core/finding';
import { message, sendJson } from '../api/http.ts';
import { Contained } from '../common/Contained.tsx';
import { plural, round } from '../common/format.ts';
import { useAppSelector } from '../state/store.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { ConversionPanel } from './ConversionPanel.tsx';
import { Choice } from './fields.tsx';
import { OptionFields } from './OptionFields.tsx';
import { ModelViewer } from './ModelViewer.tsx';
import { useLibrary } from '../common/useLibrary.ts';

/** A model in space, its facts, its slots and how it is converted. */
export function ModelPanel({ entry, source, shown }: { entry: LibraryEntry; source: AssetSource; shown: Finding | null }) {
  const { view, profile, base } = useAppSelector((s) => s.crate);
  const [problem, setProblem] = useState('');
  const record = entry.record!;
  const bounds = record.bounds;
  const library = useLibrary();
  if (!bounds || !view || !profile || !base) return null;
  const m = profile.unit.metres;
  const size = [0, 1, 2].map((axis) => bounds.max[axis] - bounds.min[axis]);
  const own = entry.origin === 'crate';
  const variants = record.variantOf ? library.filter((e) => e.record?.variantOf === record.variantOf) : [];
  const reconvert = (options: Record<string, unknown>) =>
    sendJson('POST', `/api/crates/${view.id}/assets/reconvert`, { path: entry.id, options }).catch((error) => setProblem(message(error)));
  const materials = [...new Set([...view.manifest.materials, ...base.materials].map((material) => material.name))].sort();

  return (
    <>
      <Contained what="The model">
        <ModelViewer
          source={source}
          profile={profile}
          path={entry.id}
          record={record}
          highlight={shown?.place?.triangles ?? null}
          onPick={
            own
              ? (point) => {
                  const at = record.pivotAt ?? [0, 0, 0];
                  void reconvert({ pivot: 'point', pivotPoint: point.map((v, k) => round(v + at[k], 3)) });
                }
              : undefined
          }
        />
      </Contained>
      <p className="faint mt-2 mb-2">
        {plural(record.triangles ?? 0, 'triangle')}, {plural(record.vertices ?? 0, 'vertex', 'vertices')} · {size.map((s) => round(s, 1)).join(' × ')}{' '}
        {profile.unit.plural} ({size.map((s) => round(s * m)).join(' × ')} m) · stands from {round(bounds.min[2], 1)} to {round(bounds.max[2], 1)}{' '}
        about its pivot · the figure is the player, {round(profile.player.height * m)} m
        {(record.bones ?? 0) > 0 && ` · ${plural(record.bones!, 'bone')}`}
      </p>
      {record.collision && (
        <p className="faint mb-2">
          Collision: {record.collision.kind === 'parts' ? `${record.collision.parts} convex parts` : record.collision.kind},{' '}
          {round(record.collision.volume, 4)} m³
          {record.collision.meshVolume !== null && record.collision.meshVolume > 0
            ? ` (${Math.round((record.collision.volume / record.collision.meshVolume) * 100)} % of the model’s own ${round(record.collision.meshVolume, 4)} m³)`
            : ' (the model itself is not closed)'}
          {' · '}
          {round(record.collision.mass, 1)} kg, {record.movable ? 'movable' : 'fixed'}
        </p>
      )}
      {(record.lods?.length ?? 0) > 0 && (
        <table className="table table-sm mb-2">
          <thead>
            <tr>
              <th>Level</th>
              <th>Triangles</th>
              <th>Off by at most</th>
              <th>From a distance of</th>
            </tr>
          </thead>
          <tbody>
            {record.lods!.map((lod, i) => (
              <tr key={i}>
                <td>{i + 1}</td>
                <td>{lod.triangles}</td>
                <td>
                  {round(lod.error / m, 2)} {profile.unit.plural}
                </td>
                <td>
                  {Math.round(lod.switchDistance / m)} {profile.unit.plural}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {variants.length > 1 && (
        <p className="mb-2">
          Variants of {record.variantOf}:{' '}
          {variants.map((variant) => (
            <a key={variant.id} className="me-2" href={`?file=${encodeURIComponent(variant.id)}`} aria-current={variant.id === entry.id}>
              {variant.record!.variant}
            </a>
          ))}
        </p>
      )}
      {problem && <div className="severity blocker text-wrap">{problem}</div>}
      {own && (record.slots?.length ?? 0) > 0 && (
        <section className="panel mb-2">
          <header>
            <h2>Material slots</h2>
          </header>
          <div className="body settings">
            {record.slots!.map((slot) => (
              <Choice
                key={slot.slot}
                id={`slot-${slot.slot}`}
                label={`${slot.slot || 'unnamed'}${slot.by === 'likeness' ? ' (guessed)' : slot.by === 'name' ? ' (by name)' : ''}`}
                value={slot.material}
                values={[['', 'the model’s own'], ...materials.map((name): [string, string] => [name, name])]}
                onChange={(material) => void reconvert({ materials: { ...(record.options.materials as object), [slot.slot]: material } })}
              />
            ))}
          </div>
        </section>
      )}
      {own && (
        <ConversionPanel key={JSON.stringify(record.options)} entry={entry}>
          {(draft, set) => <OptionFields table={MODEL_OPTIONS} draft={draft} without={{ upAxis: ['auto'] }} onChange={set} />}
        </ConversionPanel>
      )}
    </>
  );
}
