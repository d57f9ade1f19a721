import type { Option } from '@violet-crate/core/asset/option/option';
import { Amount, Choice, Switch } from './fields.tsx';

interface Props {
  table: readonly Option[];
  draft: Readonly<Record<string, unknown>>;
  /** Choices that the form does not offer, since they are resolved by then. */
  without?: Readonly<Record<string, readonly string[]>>;
  onChange(change: Record<string, unknown>): void;
}

/** Falling shares that the form offers. */
const SHARES = [[], [0.5], [0.5, 0.25], [0.5, 0.25, 0.1]];
const shareWords = (shares: readonly number[]): string => (shares.length === 0 ? 'none' : `${shares.map((v) => Math.round(v * 100)).join(', ')} %`);

/** The form of a kind's settings, drawn of their table. */
export function OptionFields({ table, draft, without = {}, onChange }: Props) {
  return table
    .filter((option) => !option.elsewhere)
    .map((option) => {
      const { key, label, rule } = option;
      const shared = { id: key, label, disabled: option.matters ? !option.matters(draft) : false };
      const value = draft[key];
      switch (rule.kind) {
        case 'choice': {
          const offered = rule.of.filter((word) => word === value || !without[key]?.includes(word));
          const values = offered.map((word): [string, string] => [word, rule.words?.[word] ?? word]);
          return <Choice key={key} {...shared} value={String(value)} values={values} onChange={(next) => onChange({ [key]: next })} />;
        }
        case 'switch':
          return <Switch key={key} {...shared} value={value === true} onChange={(next) => onChange({ [key]: next })} />;
        case 'number':
          return (
            <Amount
              key={key}
              {...shared}
              unit={rule.unit}
              value={Math.round(Number(value) * 1000) / 1000}
              min={rule.min}
              max={rule.max}
              step={rule.whole ? 1 : undefined}
              onChange={(next) => onChange({ [key]: next })}
            />
          );
        case 'numbers': {
          const now = (value as number[] | undefined) ?? [];
          const offered = SHARES.some((shares) => shares.join() === now.join()) ? SHARES : [...SHARES, now];
          return (
            <Choice
              key={key}
              {...shared}
              value={now.join()}
              values={offered.map((shares): [string, string] => [shares.join(), shareWords(shares)])}
              onChange={(next) => onChange({ [key]: next === '' ? [] : next.split(',').map(Number) })}
            />
          );
        }
        default:
          return null;
      }
    });
}
