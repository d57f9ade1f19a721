import { useMemo } from 'react';
import type { PropertyValue } from '@violet-crate/core/document/schema';
import { ASSETS, isFileKind } from '@violet-crate/core/crate/assetKind';
import { SYMBOLS } from '@violet-crate/core/overview/symbols';
import { classOf, type PropertyDefinition } from '@violet-crate/core/profile/schema';
import { globalFunctions } from '@violet-crate/core/script/check';
import { keyOf, titleOf } from '@violet-crate/core/table/document';
import { Tables } from '@violet-crate/core/table/tables';
import { effectsOf } from '@violet-crate/core/effect/effects';
import { talksOf } from '@violet-crate/core/talk/talks';
import { useAppSelector } from '../../state/store.ts';
import { CheckField, ChoiceField, Field, NumberField, TextField, VectorField } from '../../common/fields.tsx';
import { useDocument } from '../editing/useDocument.ts';

/** One property, edited by its type. `mixed` says that the selected objects differ in it. */
export function PropertyField({
  definition,
  value,
  mixed = false,
  onCommit,
  onPick,
}: {
  definition: PropertyDefinition;
  value: PropertyValue;
  mixed?: boolean;
  onCommit(value: PropertyValue): void;
  /** Lets the user click the object in a view. */
  onPick?(): void;
}) {
  const { view, base, scripts, data } = useAppSelector((s) => s.crate);
  const { map, profile } = useDocument();
  const tables = useMemo(() => new Tables(profile.tables ?? [], data), [profile, data]);
  const files = [...view!.files.map((f) => [f.path, 'crate'] as const), ...base!.files.map((f) => [f.path, 'game'] as const)];
  const none = ['', '(none)'] as const;
  const fileChoices = (folder: string) =>
    files
      .filter(([path]) => path.startsWith(`${folder}/`))
      .map(([path, origin]) => [path, `${path.slice(folder.length + 1)}${origin === 'crate' ? ' (crate)' : ''}`] as const);
  const { unit, min, max } = definition;
  const label = mixed ? `${definition.label} (mixed)` : definition.label;
  if (isFileKind(definition.type)) {
    const symbols = definition.symbols ? SYMBOLS.map((symbol) => [symbol, symbol.replace('symbols/', 'symbol: ')] as const) : [];
    const choices = [none, ...symbols, ...fileChoices(ASSETS[definition.type].folder)];
    return <ChoiceField label={label} value={String(value)} choices={choices} onCommit={onCommit} />;
  }
  switch (definition.type) {
    case 'number':
    case 'angle':
      return (
        <NumberField label={label} unit={definition.type === 'angle' ? '°' : unit} value={Number(value)} min={min} max={max} onCommit={onCommit} />
      );
    case 'boolean':
      return <CheckField label={label} title={definition.description} value={value === true} onCommit={onCommit} />;
    case 'vector':
      return <VectorField isLength={unit === profile.unit.plural} label={label} value={value as number[]} onCommit={onCommit} />;
    case 'direction':
      return (
        <VectorField
          label={label}
          value={value as number[]}
          onCommit={(next) => {
            const size = Math.hypot(...next);
            if (size > 1e-6) onCommit(next.map((v) => v / size) as [number, number, number]);
          }}
        />
      );
    case 'colour':
      return (
        <Field label={label} id={`colour-${definition.id}`}>
          <span className="d-flex gap-1">
            <input
              id={`colour-${definition.id}`}
              type="color"
              className="form-control form-control-color"
              value={String(value)}
              onChange={(e) => onCommit(e.target.value)}
            />
            <code className="align-self-center">{mixed ? 'mixed' : String(value)}</code>
          </span>
        </Field>
      );
    case 'choice':
      return <ChoiceField label={label} value={String(value)} choices={(definition.choices ?? []).map((c) => [c, c] as const)} onCommit={onCommit} />;
    case 'material':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[...new Set([...view!.manifest.materials, ...base!.materials].map((m) => m.name))].map((n) => [n, n] as const)}
          onCommit={onCommit}
        />
      );
    case 'path':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...Object.entries(map.paths).map(([id, p]) => [id, p.name] as const)]}
          onCommit={onCommit}
        />
      );
    case 'script':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...globalFunctions(scripts).map((f) => [f, `${f}()`] as const)]}
          onCommit={onCommit}
        />
      );
    case 'record': {
      const of = tables.get(definition.table ?? '');
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...(of?.document.rows.map((row) => [keyOf(of.table, row), titleOf(of.table, row)] as const) ?? [])]}
          onCommit={onCommit}
        />
      );
    }
    case 'talk':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...talksOf(data).talks.map(({ name, talk }) => [name, talk.title || name] as const)]}
          onCommit={onCommit}
        />
      );
    case 'effect':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...effectsOf(data).effects.map(({ name, effect }) => [name, effect.title || name] as const)]}
          onCommit={onCommit}
        />
      );
    case 'bed':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...(map.settings.beds ?? []).map(({ name }) => [name, name] as const)]}
          onCommit={onCommit}
        />
      );
    case 'mood':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...(map.settings.moods ?? []).map(({ name }) => [name, name] as const)]}
          onCommit={onCommit}
        />
      );
    case 'sequence':
      return (
        <ChoiceField
          label={label}
          value={String(value)}
          choices={[none, ...Object.entries(map.sequences).map(([id, { name }]) => [id, name] as const)]}
          onCommit={onCommit}
        />
      );
    case 'object':
      return (
        <div className="d-flex gap-1 align-items-center">
          <div className="flex-grow-1">
            <ChoiceField
              label={label}
              value={String(value)}
              choices={[
                none,
                ...Object.entries(map.objects)
                  .filter(([, o]) => !definition.of || definition.of.includes(o.class))
                  .map(([id, o]) => [id, `${o.name} (${classOf(profile, o.class)?.label ?? o.class})`] as const),
              ]}
              onCommit={onCommit}
            />
          </div>
          {onPick && (
            <button className="btn btn-quiet btn-sm py-0" onClick={onPick} title="Click the object in the plan or the perspective">
              Pick
            </button>
          )}
        </div>
      );
    case 'list':
      return (
        <TextField
          label={`${label} (one a line)`}
          value={(Array.isArray(value) ? (value as string[]) : []).join('\n')}
          rows={3}
          onCommit={(text) => onCommit(text.split('\n').filter((line) => line !== ''))}
        />
      );
    default:
      return <TextField label={label} value={String(value)} rows={2} onCommit={onCommit} />;
  }
}
