import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { sha256Hex } from '@violet-crate/core/hash';
import { openRelease } from '@violet-crate/core/release/pack';
import { fetchRelease, publishRelease } from '@violet-crate/host/workshopClient';
import { createWorkshop } from './app.ts';

/** A small package; `title` and `version` as given. */
function sample(title: string, version = '1.0.0'): Uint8Array {
  const thumbnail = Uint8Array.from([0x89, 0x50, 0x4e, 0x47]);
  const manifest = {
    format: 1,
    name: 'hall',
    title,
    description: '<b>bold</b> & "quoted"',
    version,
    profile: 'brinewick',
    mainMap: 'hall',
    authors: ['A'],
    credits: [],
    thumbnail: 'thumbnail.png',
    files: [{ path: 'thumbnail.png', bytes: 4, sha256: sha256Hex(thumbnail) }],
  };
  return writeZip(
    new Map([
      ['release.json', new TextEncoder().encode(JSON.stringify(manifest))],
      ['thumbnail.png', thumbnail],
    ]),
  );
}

describe('the workshop', () => {
  let app: NestExpressApplication;
  let url: string;

  beforeAll(async () => {
    app = await createWorkshop({ database: join(mkdtempSync(join(tmpdir(), 'violet-workshop-')), 'w.sqlite'), token: 'secret', depot: tmpdir() });
    await app.listen(0, '127.0.0.1');
    url = await app.getUrl();
  });
  afterAll(() => app.close());

  it('takes a package, gives a share code, and hands out the same bytes', async () => {
    const zip = sample('Hall');
    const release = await publishRelease(url, 'secret', zip);
    expect(release.shareCode).toMatch(/^[2-9A-Z]{4}-[2-9A-Z]{4}$/);
    const fetched = await fetchRelease(url, release.shareCode.toLowerCase());
    expect(fetched.zip).toEqual(zip);
    expect(openRelease(fetched.zip, 'x').manifest.title).toBe('Hall');
    // The same package again is the same release.
    expect((await publishRelease(url, 'secret', zip)).shareCode).toBe(release.shareCode);
  });

  it('lists what is published, with everything escaped', async () => {
    const page = await (await fetch(url)).text();
    expect(page).toContain('Hall');
    expect(page).not.toContain('<b>bold</b>');
  });

  it('refuses a wrong token, a changed release of the same version, and what is no package', async () => {
    await expect(publishRelease(url, 'wrong', sample('Hall'))).rejects.toThrow(/token is not right/);
    await expect(publishRelease(url, 'secret', sample('Changed'))).rejects.toThrow(/Raise the version/);
    await expect(publishRelease(url, 'secret', sample('Changed', '1.1.0'))).resolves.toMatchObject({ version: '1.1.0' });
    await expect(publishRelease(url, 'secret', new Uint8Array(50))).rejects.toThrow(/not a ZIP/);
  });

  it('an unknown share code or an absent workshop is said plainly', async () => {
    await expect(fetchRelease(url, 'NONE-CODE')).rejects.toThrow(/no release with the share code/);
    await expect(fetchRelease('http://127.0.0.1:1', 'X')).rejects.toThrow(/does not answer/);
    await expect(fetchRelease('not an address', 'X')).rejects.toThrow(/not a web address/);
  });
});
