/** Talks to a workshop. Whatever the other side answers, or how long it goes on, ends in a release or in a sentence. */

import { createHash, randomBytes } from 'node:crypto';
import { closeSync, mkdirSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Value } from '@sinclair/typebox/value';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { WorkshopReleaseSchema, type WorkshopRelease } from '@violet-crate/core/release/workshop';
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

/** Uploads a package; answers the release with its share code. */
export async function publishRelease(workshop: string, token: string, zip: Uint8Array, limits = WORKSHOP_LIMITS): Promise<WorkshopRelease> {
  const call = new Call(`${base(workshop)}/api/releases`, 'the package', limits);
  return call.release({
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/zip' },
    body: zip as Uint8Array<ArrayBuffer>,
  });
}

/** Fetches a package by share code, onto disk first, checked against the size and hash that the workshop states. */
export async function fetchRelease(
  workshop: string,
  shareCode: string,
  limits = WORKSHOP_LIMITS,
): Promise<{ release: WorkshopRelease; zip: Uint8Array }> {
  const code = shareCode.trim();
  if (!SHARE_CODE.test(code))
    throw new UnreadableInput(
      'share-code',
      `"${shareCode.slice(0, 60)}" is no share code.`,
      {},
      'It looks like K7PM-2QXD: letters, digits and dashes.',
    );
  const address = `${base(workshop)}/api/releases/${code}`;
  const release = await new Call(address, `share code ${code}`, limits).release();
  if (release.bytes > limits.package)
    throw new UnreadableInput(
      'workshop-too-large',
      `The package of ${code} has ${release.bytes} bytes; at most ${limits.package} are taken.`,
      {},
      'Ask its author to split it.',
    );
  const zip = await new Call(`${address}/package`, `share code ${code}`, limits).file(release);
  return { release, zip };
}

class Call {
  private readonly abort = new AbortController();
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly url: string,
    private readonly what: string,
    private readonly limits: WorkshopLimits,
  ) {}

  async release(init: RequestInit = {}): Promise<WorkshopRelease> {
    let text = '';
    const decoder = new TextDecoder();
    let length = 0;
    await this.stream(init, (piece) => {
      length += piece.length;
      if (length > this.limits.document) throw this.odd(`more than ${this.limits.document} bytes`);
      text += decoder.decode(piece, { stream: true });
    });
    let answer: unknown;
    try {
      answer = JSON.parse(text);
    } catch {
      throw this.odd(/^\s*</.test(text) ? 'a web page' : 'something that is no JSON');
    }
    const wrong = Value.Errors(WorkshopReleaseSchema, answer).First();
    if (wrong) throw this.odd(`a release whose ${wrong.path.slice(1) || 'form'} is not right`);
    return answer as WorkshopRelease;
  }

  /** The bytes of a package: written to disk as they come, so that an answer without end fills neither memory nor disk. */
  async file(release: WorkshopRelease): Promise<Uint8Array> {
    const folder = join(tmpdir(), 'violet-crate');
    mkdirSync(folder, { recursive: true });
    const path = join(folder, `${randomBytes(9).toString('hex')}${PART}`);
    const handle = openSync(path, 'wx');
    const hash = createHash('sha256');
    let length = 0;
    try {
      await this.stream({}, (piece) => {
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
      throw new UnreadableInput(
        'workshop-cut',
        this.abort.signal.aborted
          ? `The workshop at ${new URL(this.url).origin} said nothing for ${Math.round(this.limits.silence / 1000)} seconds.`
          : `The connection to the workshop at ${new URL(this.url).origin} broke off.`,
        {},
        'Try again.',
      );
    } finally {
      clearTimeout(this.timer);
      this.abort.abort();
    }
  }

  private async begin(init: RequestInit): Promise<Response> {
    try {
      return await fetch(this.url, { ...init, signal: this.abort.signal });
    } catch (error) {
      if (this.abort.signal.aborted) throw error;
      throw new UnreadableInput(
        'workshop-unreachable',
        `The workshop at ${new URL(this.url).origin} does not answer.`,
        {},
        'Check the address in the settings, and that the workshop runs.',
      );
    }
  }

  private async refusal(response: Response): Promise<UnreadableInput> {
    let reason = `status ${response.status}`;
    const reader = response.body?.getReader();
    const first = await reader?.read().catch(() => undefined);
    try {
      const problem = JSON.parse(new TextDecoder().decode(first?.value)) as { detail?: unknown; title?: unknown };
      const told = [problem.detail, problem.title].find((text) => typeof text === 'string' && text !== '');
      if (typeof told === 'string') reason = told.slice(0, 500);
    } catch {
      // Not a document of ours; the status says what there is to say.
    }
    return new UnreadableInput(
      'workshop-refused',
      `The workshop refused ${this.what}: ${reason}`,
      {},
      response.status === 401 ? 'Check the token in the settings.' : undefined,
    );
  }

  private waitOn(): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.abort.abort(), this.limits.silence);
  }

  private odd(what: string): UnreadableInput {
    return new UnreadableInput(
      'workshop-answer',
      `The workshop at ${new URL(this.url).origin} answered with ${what}.`,
      {},
      'Check the address in the settings: there is something else there.',
    );
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

function base(workshop: string): string {
  try {
    const url = new URL(workshop);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') throw new Error();
    return url.href.replace(/\/$/, '');
  } catch {
    throw new UnreadableInput('workshop-address', `"${workshop}" is not a web address.`, {}, 'It looks like http://127.0.0.1:4281.');
  }
}
