import { afterAll, beforeAll, describe, expect, it, jest } from '@jest/globals';
import { startApplication, type TestApplication } from '../testing.ts';

let t: TestApplication;
let id: string;
beforeAll(async () => {
  t = await startApplication();
  id = await t.newCrate('hall');
});
afterAll(() => t.close());

const save = (source: string) => t.send('put', `/api/crates/${id}/scripts/main.lua`, { source });
const versions = async () => (await t.get(`/api/crates/${id}/script-versions?path=scripts/main.lua`)).body as { version: number; savedAt: string }[];

describe('what scripts were', () => {
  it('is kept once for what is typed in one go, and can be read again', async () => {
    const before = (await t.get(`/api/crates/${id}/files/scripts/main.lua`)).text;
    expect(await versions()).toEqual([]);
    await save('-- one');
    await save('-- two');
    const [first, ...more] = await versions();
    expect(more).toEqual([]);
    expect((await t.get(`/api/crates/${id}/script-versions/${first.version}`)).body).toEqual({ source: before });

    // Some minutes later it is another change.
    const later = Date.now() + 200_000;
    const clock = jest.spyOn(Date, 'now').mockImplementation(() => later);
    await save('-- three');
    clock.mockRestore();
    const both = await versions();
    expect(both).toHaveLength(2);
    expect((await t.get(`/api/crates/${id}/script-versions/${both[0].version}`)).body).toEqual({ source: '-- two' });
  });

  it('saving the same again keeps nothing; versions of others are not to be had', async () => {
    const count = (await versions()).length;
    await save('-- three');
    expect(await versions()).toHaveLength(count);
    const other = await t.newCrate('other');
    expect((await t.get(`/api/crates/${other}/script-versions/${(await versions())[0].version}`)).status).toBe(404);
    expect((await t.get(`/api/crates/${id}/script-versions/x`)).status).toBe(404);
  });
});
