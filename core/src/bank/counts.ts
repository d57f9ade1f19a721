import { plainTarget, type BankLayout } from './layout.ts';
import type { BankData, BankValue, Row } from './read.ts';

/** The same with every count beside a pointer as many as there are rows: nobody has to think of it, and no list runs into other data. */
export function withCounts(layout: BankLayout, data: BankData): BankData {
  /** Fields that hold rows, and pointers with the count beside them, by record: most records have none, and nothing of theirs is looked at. */
  const concerned = new Map(
    Object.entries(layout.records).map(([record, { fields }]) => [
      record,
      fields.flatMap((field): { name: string; record: string; count: string | null }[] => {
        if (field.is === 'list') return [{ name: field.name, record: field.record, count: null }];
        const plain = field.is === 'pointer' ? plainTarget(field.to) : null;
        return plain?.is === 'list' && typeof plain.count === 'object' && 'field' in plain.count
          ? [{ name: field.name, record: '', count: plain.count.field }]
          : [];
      }),
    ]),
  );
  const rowsOf = (rows: readonly Row[], record: string): readonly Row[] => {
    const fields = concerned.get(record)!;
    if (fields.length === 0) return rows;
    return rows.map((row) => {
      let { values } = row;
      // Copied only where something is another value: copies of a hundred thousand rows are what takes time here.
      const set = (name: string, value: BankValue) => {
        if (values[name] !== value) values = { ...values, [name]: value };
      };
      for (const { name, record: inner, count } of fields) {
        const value = row.values[name];
        if (count === null) {
          if (Array.isArray(value)) set(name, rowsOf(value, inner) as Row[]);
        } else {
          const link = value !== null && typeof value === 'object' && !Array.isArray(value) ? value : null;
          set(count, link ? (data.blocks[link.block]?.rows?.length ?? 0) : 0);
        }
      }
      return values === row.values ? row : { ...row, values };
    });
  };
  const blocks = Object.entries(data.blocks).map(([id, block]) => {
    const plain = plainTarget(block.to);
    return [id, plain.is === 'list' && block.rows ? { ...block, rows: rowsOf(block.rows, plain.record) as Row[] } : block] as const;
  });
  const sections = layout.sections.map(
    ({ name, record }) => [name, { ...data.sections[name], rows: rowsOf(data.sections[name].rows, record) as Row[] }] as const,
  );
  return { sections: Object.fromEntries(sections), blocks: Object.fromEntries(blocks) };
}
