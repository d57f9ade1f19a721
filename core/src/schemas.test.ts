import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { Ajv } from 'ajv';
import { newCrateContents } from './crate/template.ts';
import { DOCUMENT_SCHEMAS } from './schemas.ts';
import { testProfile } from './testing/world.ts';

const published = (name: string) =>
  JSON.parse(readFileSync(new URL(`../../docs/schemas/${name}.schema.json`, import.meta.url), 'utf8')) as Record<string, unknown>;

describe('published schemas', () => {
  it.each(Object.keys(DOCUMENT_SCHEMAS))('%s is equal to the code', (name) => {
    const { $schema: _dialect, title: _title, ...schema } = published(name);
    expect(schema).toEqual(JSON.parse(JSON.stringify(DOCUMENT_SCHEMAS[name])));
  });

  // Outside reference: Ajv, a JSON Schema validator that knows nothing of this project.
  it('accept the documents that the application writes, and no others', () => {
    const ajv = new Ajv({ strict: false });
    for (const id of ['brinewick', 'skarrow']) {
      const profile = testProfile(id);
      const check = ajv.compile({ ...published('profile'), $id: id });
      expect(check(profile)).toBe(true);
      expect(check({ ...profile, player: 'tall' })).toBe(false);
      const { manifest, maps } = newCrateContents(profile, { name: 'hall', title: 'Hall', template: 'sealed-room' });
      expect(ajv.validate({ ...published('crate'), $id: `${id}-crate` }, manifest)).toBe(true);
      expect(ajv.validate({ ...published('map'), $id: `${id}-map` }, maps.hall)).toBe(true);
      expect(ajv.validate({ ...published('map'), $id: `${id}-bad` }, { ...maps.hall, solids: [] })).toBe(false);
    }
  });
});
