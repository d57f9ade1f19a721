/** A running workshop over a folder of its own, for tests. */

import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { sha256Hex } from '@violet-crate/core/hash';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import type { Sign } from '@violet-crate/core/release/signature';
import { createWorkshop } from './app.ts';
import type { Rules } from './config.ts';

const bytes = (text: string) => new TextEncoder().encode(text);

/** A small package. */
export function samplePackage(change: Partial<ReleaseManifest> = {}, more: Record<string, string> = {}, sign?: Sign): Uint8Array {
  const files = new Map<string, Uint8Array>([['thumbnail.png', Uint8Array.from([0x89, 0x50, 0x4e, 0x47])]]);
  for (const [path, text] of Object.entries(more)) files.set(path, bytes(text));
  const manifest: ReleaseManifest = {
    format: 1,
    name: 'hall',
    title: 'Hall',
    description: '',
    version: '1.0.0',
    profile: 'brinewick',
    mainMap: 'hall',
    authors: ['Ada Reed'],
    credits: [],
    thumbnail: 'thumbnail.png',
    ...change,
    files: [...files].map(([path, content]) => ({ path, bytes: content.length, sha256: sha256Hex(content) })),
  };
  const document = bytes(JSON.stringify(manifest, null, 2));
  const tree = new Map([...files, ['release.json', document] as const]);
  if (sign) tree.set('release.sig', bytes(JSON.stringify(sign(document))));
  return writeZip(tree);
}

export interface TestWorkshop {
  app: NestExpressApplication;
  url: string;
  folder: string;
  /** A form that a browser would send, with the cookie of one. */
  post(path: string, form: Record<string, string>, cookie?: string): Promise<Response>;
  page(path: string, cookie?: string): Promise<string>;
  /** Signs up and in, with address confirmed and terms accepted unless `raw`; answers the cookie and a token for all. */
  person(name: string, options?: { raw?: boolean }): Promise<{ cookie: string; token: string }>;
  close(): Promise<void>;
}

export const KEEPERS_TOKEN = 'secret';
export const PASSWORD = 'a tide of lamps';

export async function startWorkshop(rules: Partial<Rules> = {}, folder = mkdtempSync(join(tmpdir(), 'violet-workshop-'))): Promise<TestWorkshop> {
  const app = await createWorkshop({
    database: join(folder, 'w.sqlite'),
    files: join(folder, 'files'),
    token: KEEPERS_TOKEN,
    depot: tmpdir(),
    rules: { signUpsPerHour: 1000, ...rules },
  });
  await app.listen(0, '127.0.0.1');
  const url = (await app.getUrl()).replace('[::1]', '127.0.0.1');
  const headers = (cookie?: string) => ({ origin: url, ...(cookie ? { cookie } : {}) });
  const post: TestWorkshop['post'] = (path, form, cookie) =>
    fetch(url + path, { method: 'POST', body: new URLSearchParams(form), headers: headers(cookie), redirect: 'manual' });
  const page: TestWorkshop['page'] = async (path, cookie) => (await fetch(url + path, { headers: headers(cookie) })).text();
  return {
    app,
    url,
    folder,
    post,
    page,
    async person(name, { raw = false } = {}) {
      const answer = await post('/sign-up', { name, mail: `${name}@mail.example`, password: PASSWORD });
      const cookie = answer.headers.get('set-cookie')!.split(';')[0];
      if (!raw) {
        const link = new RegExp(`${name}@mail[^]*?href="(/confirm/[^"]+)"`).exec(await page('/mailbox', cookie))![1];
        await post(link, {});
        await post('/terms', {}, cookie);
      }
      const signIn = await fetch(`${url}/api/sign-in`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', origin: url },
        body: JSON.stringify({ name, password: PASSWORD }),
      });
      return { cookie, token: ((await signIn.json()) as { token: string }).token };
    },
    async close() {
      await app.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
