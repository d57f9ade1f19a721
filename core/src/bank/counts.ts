import { plainTarget, type BankLayout } from './layout.ts';
import type { BankData, Row } from './read.ts';

/** The same with every count beside a pointer as many as there are rows: nobody has to think of it, and no list runs into other data. */
export function withCounts(layout: BankLayout, data: BankData): BankData {
  const rowsOf = (rows: readonly Row[], record: string): Row[] => {
    const { fields } = layout.records[record];
    return rows.map((row) => {
      let values = row.values;
      for (const field of fields) {
        const value = row.values[field.name];
        if (field.is === 'list' && Array.isArray(value)) values = { ...values, [field.name]: rowsOf(value, field.record) };
        if (field.is !== 'pointer') continue;
        const plain = plainTarget(field.to);
        if (plain.is !== 'list' || typeof plain.count !== 'object' || !('field' in plain.count)) continue;
        const link = value !== null && typeof value === 'object' && !Array.isArray(value) ? value : null;
        values = { ...values, [plain.count.field]: link ? (data.blocks[link.block]?.rows?.length ?? 0) : 0 };
      }
      return values === row.values ? row : { ...row, values };
    });
  };
  const blocks = Object.entries(data.blocks).map(([id, block]) => {
    const plain = plainTarget(block.to);
    return [id, plain.is === 'list' && block.rows ? { ...block, rows: rowsOf(block.rows, plain.record) } : block] as const;
  });
  const sections = layout.sections.map(
    ({ name, record }) => [name, { ...data.sections[name], rows: rowsOf(data.sections[name].rows, record) }] as const,
  );
  return { sections: Object.fromEntries(sections), blocks: Object.fromEntries(blocks) };
}
