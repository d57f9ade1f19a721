import type { Contact } from '@violet-crate/core/document/schema';
import { ChoiceField } from '../../common/fields.tsx';
import { useDocument } from '../editing/useDocument.ts';

interface Props {
  value: Contact;
  /** The selected ones differ in it. */
  mixed?: boolean;
  onCommit(value: Contact): void;
}

/** What it does when the ground under it changes; nothing is asked in maps without ground. */
export function ContactField({ value, mixed = false, onCommit }: Props) {
  const { map } = useDocument();
  if (Object.keys(map.terrains).length === 0) return null;
  return (
    <ChoiceField
      label="When the ground changes"
      value={mixed ? 'mixed' : (value ?? 'ask')}
      choices={[
        ...(mixed ? ([['mixed', 'different']] as const) : []),
        ['ask', 'ask: what floats or sinks is found'],
        ['follow', 'follow it up and down'],
        ['keep', 'keep its height'],
      ]}
      onCommit={(next) => onCommit(next === 'follow' || next === 'keep' ? next : undefined)}
    />
  );
}

/** A member with another contact; one that asks has none in the file. */
export function withContact<T extends { contact?: Contact }>(member: T, contact: Contact): T {
  const { contact: _, ...rest } = member;
  return (contact ? { ...rest, contact } : rest) as T;
}
