/** The workshop's HTTP interface, as seen by those who publish and install. */

import { Type, type Static } from '@sinclair/typebox';
import { Value } from '@sinclair/typebox/value';
import { UnreadableInput } from '../finding.ts';
import { sha256Hex } from '../hash.ts';

export const WorkshopReleaseSchema = Type.Object({
  shareCode: Type.String(),
  name: Type.String(),
  title: Type.String(),
  description: Type.String(),
  version: Type.String(),
  profile: Type.String(),
  bytes: Type.Integer(),
  sha256: Type.String(),
  publishedAt: Type.String(),
});

export type WorkshopRelease = Static<typeof WorkshopReleaseSchema>;

async function call(url: string, what: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(url, init);
  } catch {
    throw new UnreadableInput(
      'workshop-unreachable',
      `The workshop at ${new URL(url).origin} does not answer.`,
      {},
      'Check the address in the settings, and that the workshop runs.',
    );
  }
  if (response.ok) return response;
  const problem = (await response.json().catch(() => ({}))) as { detail?: string; title?: string };
  throw new UnreadableInput(
    'workshop-refused',
    `The workshop refused ${what}: ${problem.detail ?? problem.title ?? `status ${response.status}`}`,
    {},
    response.status === 401 ? 'Check the token in the settings.' : undefined,
  );
}

function base(workshop: string): string {
  try {
    const url = new URL(workshop);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') throw new Error();
    return url.href.replace(/\/$/, '');
  } catch {
    throw new UnreadableInput('workshop-address', `"${workshop}" is not a web address.`, {}, 'It looks like http://127.0.0.1:4281.');
  }
}

/** Uploads a package; answers the release with its share code. */
export async function publishRelease(workshop: string, token: string, zip: Uint8Array): Promise<WorkshopRelease> {
  const response = await call(`${base(workshop)}/api/releases`, 'the package', {
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/zip' },
    body: zip as Uint8Array<ArrayBuffer>,
  });
  return Value.Parse(WorkshopReleaseSchema, await response.json());
}

/** Fetches a package by share code, checked against the hash that the workshop states. */
export async function fetchRelease(workshop: string, shareCode: string): Promise<{ release: WorkshopRelease; zip: Uint8Array }> {
  const code = encodeURIComponent(shareCode.trim());
  const release = Value.Parse(WorkshopReleaseSchema, await (await call(`${base(workshop)}/api/releases/${code}`, `share code ${shareCode}`)).json());
  const zip = new Uint8Array(await (await call(`${base(workshop)}/api/releases/${code}/package`, `share code ${shareCode}`)).arrayBuffer());
  if (sha256Hex(zip) !== release.sha256)
    throw new UnreadableInput(
      'workshop-hash',
      `The package of ${shareCode} does not match its SHA-256.`,
      {},
      'Fetch it again; it may have been cut off.',
    );
  return { release, zip };
}
