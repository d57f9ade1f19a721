/** Writes the JSON Schemas of all documents into docs/schemas, or with --check compares them. */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './run.mjs';

const { DOCUMENT_SCHEMAS } = await import('../core/dist/schemas.js');
const folder = join(root, 'docs/schemas');
mkdirSync(folder, { recursive: true });
for (const [name, schema] of Object.entries(DOCUMENT_SCHEMAS)) {
  const text = JSON.stringify({ $schema: 'http://json-schema.org/draft-07/schema#', title: name, ...schema }, null, 2) + '\n';
  const file = join(folder, `${name}.schema.json`);
  if (process.argv.includes('--check')) {
    if (readFileSync(file, 'utf8') !== text) throw new Error(`${file} is not what the code says; run "npm run schemas".`);
  } else writeFileSync(file, text);
}
