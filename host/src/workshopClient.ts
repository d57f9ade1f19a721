/** Talks to a workshop. Whatever the other side answers, or how long it goes on, ends in a release or in a sentence. */

import { createHash, randomBytes } from 'node:crypto';
import { closeSync, mkdirSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Value } from '@sinclair/typebox/value';
import type { FileRecord } from '@violet-crate/core/crate/basePack';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { RELEASE_FILE, ReleaseManifestSchema, type ReleaseManifest } from '@violet-crate/core/release/manifest';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { SIGNATURE_FILE } from '@violet-crate/core/release/signature';
import { openRelease } from '@violet-crate/core/release/pack';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { WorkshopReleaseSchema, type WorkshopRelease } from '@violet-crate/core/release/workshop';
import { Upload, type DetailedError } from 'tus-js-client';
import { diskFull } from './diskFull.ts';
import { PART } from './files.ts';

export interface WorkshopLimits {
  /** Bytes that a package may have, and an answer that is a document. */
  package: number;
  document: number;
  /** Milliseconds without a byte after which the other side counts as gone. */
  silence: number;
}
export const WORKSHOP_LIMITS: WorkshopLimits = { package: 2 ** 29, document: 1 << 20, silence: 30_000 };

const SHARE_CODE = /^[A-Za-z0-9-]{1,40}$/;

export interface Publishing {
  notes?: string;
  organisation?: string;
  visibility?: 'private' | 'code';
  /** Address of an upload of this very package that was begun before. */
  begun?: string;
  /** Told as soon as there is one, so that it can be gone on with after a restart. */
  onBegin?(url: string): void;
  onProgress?(sent: number): void;
  signal?: AbortSignal;
}

/** Bytes of one request of an upload. What has arrived of one that breaks is kept, so that it may be large. */
const CHUNK = 64 << 20;
/** Milliseconds after which a broken upload is gone on with, one after the other. */
const RETRIES = [300, 1000, 3000, 6000];

/**
 * Uploads a package by the tus protocol (1.0.0) and answers the release with its share code. What the workshop has already is not
 * sent again: the whole package, or the beginning of an upload that broke off.
 */
export async function publishRelease(
  workshop: string,
  token: string,
  zip: Uint8Array,
  given: Publishing = {},
  limits = WORKSHOP_LIMITS,
): Promise<WorkshopRelease> {
  const at = base(workshop);
  const sha256 = createHash('sha256').update(zip).digest('hex');
  const known = (await askWorkshop(workshop, token, 'POST', '/api/releases/known', { sha256 }, limits)) as { release?: unknown } | null;
  if (known?.release) return checkedRelease(known.release, at);
  const url = await upload(at, token, zip, sha256, given, limits);
  const id = url.split('/').pop()!;
  return checkedRelease(await askWorkshop(workshop, token, 'GET', `/api/uploads/${id}/release`, undefined, limits), at);
}

/** @returns the address of the upload, all of which is there then, whatever the workshop says of it */
async function upload(at: string, token: string, zip: Uint8Array, sha256: string, given: Publishing, limits: WorkshopLimits): Promise<string> {
  return new Promise((done, fail) => {
    let timer: NodeJS.Timeout | undefined;
    const finish = (end: () => void) => {
      clearTimeout(timer);
      given.signal?.removeEventListener('abort', stop);
      end();
    };
    const sending = new Upload(Buffer.from(zip.buffer, zip.byteOffset, zip.byteLength), {
      endpoint: `${at}/api/uploads`,
      uploadUrl: given.begun ?? null,
      headers: { authorization: `Bearer ${token}` },
      metadata: {
        filename: `${sha256}.zip`,
        ...(given.notes ? { notes: given.notes } : {}),
        ...(given.organisation ? { organisation: given.organisation } : {}),
        ...(given.visibility ? { visibility: given.visibility } : {}),
      },
      chunkSize: CHUNK,
      retryDelays: RETRIES,
      storeFingerprintForResuming: false,
      onUploadUrlAvailable: () => sending.url && given.onBegin?.(sending.url),
      onProgress: (sent) => {
        waitOn();
        given.onProgress?.(sent);
      },
      // Refusals do not become better by asking again.
      onShouldRetry: (error) => (error.originalResponse?.getStatus() ?? 0) < 400,
      onSuccess: () => finish(() => done(sending.url!)),
      onError: (error) => finish(() => onError(error)),
    });
    const onError = (error: Error | DetailedError) => {
      const response = 'originalResponse' in error ? error.originalResponse : null;
      const status = response?.getStatus() ?? 0;
      // The last request carries what came of the whole; it is asked for once more by who began.
      if (sending.url && [201, 401, 403, 409, 413, 422, 507].includes(status) && sent === zip.length) return done(sending.url);
      fail(status > 0 ? refused(status, response!.getBody(), 'the package') : unreachable(at));
    };
    let sent = 0;
    const progress = sending.options.onProgress!;
    sending.options.onProgress = (bytes, total) => {
      sent = bytes;
      progress(bytes, total);
    };
    const stop = () => {
      void sending
        .abort()
        .finally(() => finish(() => fail(new UnreadableInput('workshop-stopped', 'The upload was stopped.', {}, 'It can be gone on with.'))));
    };
    const waitOn = () => {
      clearTimeout(timer);
      timer = setTimeout(() => void sending.abort().finally(() => finish(() => fail(silent(at, limits)))), limits.silence);
    };
    given.signal?.addEventListener('abort', stop);
    if (given.signal?.aborted) return stop();
    waitOn();
    sending.start();
  });
}

/** Asks a workshop for a document, or to do something. @returns what it answers; null for nothing */
export async function askWorkshop(
  workshop: string,
  token: string | null,
  method: 'GET' | 'POST' | 'PATCH' | 'DELETE',
  path: string,
  body?: object,
  limits = WORKSHOP_LIMITS,
  headers: Record<string, string> = {},
): Promise<unknown> {
  return new Call(base(workshop) + path, 'that', limits).document({
    method,
    headers: {
      ...(token ? { authorization: `Bearer ${token}` } : {}),
      ...(body ? { 'content-type': 'application/json' } : {}),
      ...headers,
    },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
}

/** Fetches a package by share code, onto disk first, checked against the size and hash that the workshop states. */
export async function fetchRelease(
  workshop: string,
  shareCode: string,
  limits = WORKSHOP_LIMITS,
  token: string | null = null,
): Promise<{ release: WorkshopRelease; zip: Uint8Array }> {
  const { address, code, release } = await findRelease(workshop, shareCode, limits, token);
  const zip = await new Call(`${address}/package`, `share code ${code}`, limits).file(release, token);
  return { release, zip };
}

/** What a workshop says of a release. */
export const askRelease = async (
  workshop: string,
  shareCode: string,
  limits = WORKSHOP_LIMITS,
  token: string | null = null,
): Promise<WorkshopRelease> => (await findRelease(workshop, shareCode, limits, token)).release;

async function findRelease(workshop: string, shareCode: string, limits: WorkshopLimits, token: string | null) {
  const code = shareCode.trim();
  if (!SHARE_CODE.test(code))
    throw new UnreadableInput(
      'share-code',
      `"${shareCode.slice(0, 60)}" is no share code.`,
      {},
      'It looks like K7PM-2QXD: letters, digits and dashes.',
    );
  const at = base(workshop);
  const address = `${at}/api/releases/${code}`;
  const release = checkedRelease(await new Call(address, `share code ${code}`, limits).document(withToken(token)), at);
  if (release.bytes > limits.package)
    throw new UnreadableInput(
      'workshop-too-large',
      `The package of ${code} has ${release.bytes} bytes; at most ${limits.package} are taken.`,
      {},
      'Ask its author to split it.',
    );
  return { address, code, release };
}

/** How many files may differ before the whole package is fetched instead of them. */
const FEW = 200;

/**
 * The files of a release, of which those that somebody has already are not fetched again: an update brings what changed.
 *
 * @param has what is there, by SHA-256; null for nothing at all
 */
export async function fetchUpdate(
  workshop: string,
  shareCode: string,
  has: ((file: FileRecord) => Uint8Array | null) | null,
  limits = WORKSHOP_LIMITS,
  token: string | null = null,
): Promise<{ release: WorkshopRelease; manifest: ReleaseManifest; tree: FileTree; fetched: number }> {
  const { address, code, release } = await findRelease(workshop, shareCode, limits, token);
  const call = (path: string) => new Call(`${address}${path}`, `share code ${code}`, limits);
  const whole = async () => {
    const zip = await call('/package').file(release, token);
    return { release, ...openRelease(zip, `the package of ${code}`), fetched: zip.length };
  };
  if (has === null) return whole();
  const told = (await call('/manifest').document(withToken(token))) as { document?: unknown; signature?: unknown } | null;
  if (typeof told?.document !== 'string' || typeof told.signature !== 'string') throw call('').odd('a manifest that is none');
  const manifest = readDocument(told.document, ReleaseManifestSchema, RELEASE_FILE);
  const tree: FileTree = new Map();
  const missing: FileRecord[] = [];
  for (const file of manifest.files) {
    const bytes = has(file);
    if (bytes) tree.set(file.path, bytes);
    else missing.push(file);
  }
  // Of a document that nobody signed only the package's own hash says whether it is the release's.
  if (tree.size === 0 || missing.length > FEW || told.signature === '') return whole();
  for (const file of missing) tree.set(file.path, await call(`/files/${file.sha256}`).file(file, token));
  const encoder = new TextEncoder();
  tree.set(RELEASE_FILE, encoder.encode(told.document));
  if (told.signature !== '') tree.set(SIGNATURE_FILE, encoder.encode(told.signature));
  return { release, manifest, tree, fetched: missing.reduce((sum, { bytes }) => sum + bytes, 0) };
}

const withToken = (token: string | null): RequestInit => (token ? { headers: { authorization: `Bearer ${token}` } } : {});

function checkedRelease(answer: unknown, at: string): WorkshopRelease {
  const wrong = Value.Errors(WorkshopReleaseSchema, answer).First();
  if (wrong) throw odd(at, `a release whose ${wrong.path.slice(1) || 'form'} is not right`);
  return answer as WorkshopRelease;
}

class Call {
  private readonly abort = new AbortController();
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly url: string,
    private readonly what: string,
    private readonly limits: WorkshopLimits,
  ) {}

  async document(init: RequestInit = {}): Promise<unknown> {
    let text = '';
    const decoder = new TextDecoder();
    let length = 0;
    await this.stream(init, (piece) => {
      length += piece.length;
      if (length > this.limits.document) throw this.odd(`more than ${this.limits.document} bytes`);
      text += decoder.decode(piece, { stream: true });
    });
    if (text === '') return null;
    try {
      return JSON.parse(text) as unknown;
    } catch {
      throw this.odd(/^\s*</.test(text) ? 'a web page' : 'something that is no JSON');
    }
  }

  /** The bytes of a package: written to disk as they come, so that an answer without end fills neither memory nor disk. */
  async file(release: { bytes: number; sha256: string }, token: string | null = null): Promise<Uint8Array> {
    const folder = join(tmpdir(), 'violet-crate');
    mkdirSync(folder, { recursive: true });
    const path = join(folder, `${randomBytes(9).toString('hex')}${PART}`);
    const handle = openSync(path, 'wx');
    const hash = createHash('sha256');
    let length = 0;
    try {
      await this.stream(withToken(token), (piece) => {
        length += piece.length;
        if (length > release.bytes) throw this.wrong('workshop-size', `is longer than the ${release.bytes} bytes that the workshop states`);
        hash.update(piece);
        for (let at = 0; at < piece.length;) at += writeSync(handle, piece, at);
      });
      if (length !== release.bytes) throw this.wrong('workshop-size', `has ${length} bytes instead of ${release.bytes}`);
      if (hash.digest('hex') !== release.sha256) throw this.wrong('workshop-hash', 'does not match its SHA-256');
      return new Uint8Array(readFileSync(path));
    } catch (error) {
      throw diskFull(error, folder, release.bytes) ?? error;
    } finally {
      closeSync(handle);
      rmSync(path, { force: true });
    }
  }

  private async stream(init: RequestInit, take: (piece: Uint8Array) => void): Promise<void> {
    this.waitOn();
    try {
      const response = await this.begin(init);
      if (!response.ok) throw await this.refusal(response);
      const reader = response.body?.getReader();
      for (let next = await reader?.read(); next && !next.done; next = await reader!.read()) {
        this.waitOn();
        take(next.value);
      }
    } catch (error) {
      if (error instanceof UnreadableInput || diskFull(error, tmpdir(), 1)) throw error;
      if (this.abort.signal.aborted) throw silent(this.url, this.limits);
      throw new UnreadableInput('workshop-cut', `The connection to the workshop at ${new URL(this.url).origin} broke off.`, {}, 'Try again.');
    } finally {
      clearTimeout(this.timer);
      this.abort.abort();
    }
  }

  private async begin(init: RequestInit, again = false): Promise<Response> {
    try {
      return await fetch(this.url, { ...init, signal: this.abort.signal });
    } catch (error) {
      if (this.abort.signal.aborted) throw error;
      // A connection that was kept open, and that the other side closes at the very moment it is used again.
      const code = (error as { cause?: { code?: string } }).cause?.code ?? '';
      if (!again && /^(UND_ERR_SOCKET|ECONNRESET|EPIPE)$/.test(code)) return this.begin(init, true);
      throw unreachable(this.url);
    }
  }

  private async refusal(response: Response): Promise<UnreadableInput> {
    const reader = response.body?.getReader();
    const first = await reader?.read().catch(() => undefined);
    return refused(response.status, new TextDecoder().decode(first?.value), this.what);
  }

  private waitOn(): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.abort.abort(), this.limits.silence);
  }

  odd(what: string): UnreadableInput {
    return odd(this.url, what);
  }

  private wrong(code: string, how: string): UnreadableInput {
    return new UnreadableInput(
      code,
      `The package of ${this.what.replace('share code ', '')} ${how}.`,
      {},
      'Fetch it again; it may have been cut off.',
    );
  }
}

function refused(status: number, body: string, what: string): UnreadableInput {
  let reason = `status ${status}`;
  try {
    const problem = JSON.parse(body) as { detail?: unknown; title?: unknown };
    const told = [problem.detail, problem.title].find((text) => typeof text === 'string' && text !== '');
    if (typeof told === 'string') reason = told.slice(0, 500);
    if (!/[.!?)]$/.test(reason)) reason += '.';
  } catch {
    // Not a document of ours; the status says what there is to say.
  }
  return new UnreadableInput(
    'workshop-refused',
    `The workshop refused ${what}: ${reason}`,
    {},
    status === 401 ? 'Check the token in the settings.' : undefined,
  );
}

const unreachable = (url: string): UnreadableInput =>
  new UnreadableInput(
    'workshop-unreachable',
    `The workshop at ${new URL(url).origin} does not answer.`,
    {},
    'Check the address in the settings, and that the workshop runs.',
  );

const silent = (url: string, { silence }: WorkshopLimits): UnreadableInput =>
  new UnreadableInput(
    'workshop-cut',
    `The workshop at ${new URL(url).origin} said nothing for ${Math.round(silence / 1000)} seconds.`,
    {},
    'Try again.',
  );

const odd = (url: string, what: string): UnreadableInput =>
  new UnreadableInput(
    'workshop-answer',
    `The workshop at ${new URL(url).origin} answered with ${what}.`,
    {},
    'Check the address in the settings: there is something else there.',
  );

function base(workshop: string): string {
  try {
    const url = new URL(workshop);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') throw new Error();
    return url.href.replace(/\/$/, '');
  } catch {
    throw new UnreadableInput('workshop-address', `"${workshop}" is not a web address.`, {}, 'It looks like http://127.0.0.1:4281.');
  }
}
