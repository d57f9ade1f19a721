import { existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { Inject, Injectable } from '@nestjs/common';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { eq } from 'drizzle-orm';
import type { Request, Response } from 'express';
import { AccountsService } from '../accounts/accounts.service.ts';
import { needViewer, sessionOf } from '../accounts/viewer.ts';
import { CONFIG, type Settings } from '../config.ts';
import { DATABASE, type Database } from '../database.ts';
import { problemOf, Refusal } from '../refusal.ts';
import { uploads, VISIBILITIES, type Visibility } from '../schema.ts';
import { ModsService, type Version } from './mods.service.ts';

export const UPLOADS = '/api/uploads';
/** Days after which an upload that nobody goes on with is cleared away. */
const KEPT_DAYS = 2;
/** Milliseconds between two looks for them. */
const CLEARED = 3_600_000;
/** Unfinished uploads that one account may have. */
const MOST_OPEN = 8;

interface Asked {
  account: number;
}

/**
 * Packages come by the tus protocol (1.0.0), so that a broken connection goes on where it ended. Only when all bytes are
 * there is the package looked at, as a whole; what came of it is kept, for a client that lost the answer.
 */
@Injectable()
export class UploadsService {
  private readonly folder: string;
  private readonly tus: Server;
  private readonly quota: number;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) config: Settings,
    @Inject(ModsService) private readonly mods: ModsService,
    @Inject(AccountsService) private readonly accounts: AccountsService,
  ) {
    this.folder = join(config.files, 'uploads');
    this.quota = config.rules.quota;
    const store = new FileStore({ directory: this.folder, expirationPeriodInMilliseconds: KEPT_DAYS * 86_400_000 });
    this.tus = new Server({
      path: UPLOADS,
      datastore: store,
      relativeLocation: true,
      maxSize: config.rules.packageBytes,
      onUploadCreate: (asked, upload) => {
        const wrong = metadataProblem(upload);
        // The library's way of refusing.
        if (wrong) throw { status_code: 422, body: JSON.stringify({ detail: wrong }) };
        const many = this.tooMuch(this.accountOf(asked.headers), upload.size!);
        if (many) throw { status_code: 429, body: JSON.stringify({ detail: many }) };
        return Promise.resolve({ metadata: { ...upload.metadata, account: String(this.accountOf(asked.headers)) } });
      },
      onUploadFinish: async (_, upload) => {
        const { status, body } = await this.finish(upload);
        return { status_code: status, headers: { 'content-type': 'application/json' }, body };
      },
    });
    const clear = () => void this.tus.cleanUpExpiredUploads().catch(() => {});
    clear();
    setInterval(clear, CLEARED).unref();
  }

  /** Why no further upload may begin; null where one may. What is announced counts, whether it comes or not. */
  private tooMuch(account: number, bytes: number): string | null {
    let [mine, announced] = [0, bytes];
    for (const name of existsSync(this.folder) ? readdirSync(this.folder) : []) {
      if (!name.endsWith('.json')) continue;
      try {
        const { size, metadata } = JSON.parse(readFileSync(join(this.folder, name), 'utf8')) as { size?: number; metadata?: { account?: string } };
        if (Number(metadata?.account) !== account) continue;
        mine++;
        announced += size ?? 0;
      } catch {
        // It is just being finished or cleared away.
      }
    }
    if (mine >= MOST_OPEN)
      return `There are ${mine} unfinished uploads of yours. Finish them, or wait ${KEPT_DAYS} days until they are cleared away.`;
    // One that is too large by itself is refused when it is looked at, with what there is room for.
    return mine > 0 && announced > this.quota ? 'Your unfinished uploads would be larger together than what one may publish.' : null;
  }

  handle = (request: Request, response: Response): void => {
    try {
      const { account } = needViewer(request, 'publish');
      // Written in one way only: whatever else the library may read as a name is none.
      const path = request.originalUrl.split('?', 1)[0];
      const id = /^\/api\/uploads\/([0-9a-f]{16,64})$/.exec(path)?.[1];
      const begins = path === UPLOADS && (request.method === 'POST' || request.method === 'OPTIONS');
      if (!begins && (id === undefined || this.owner(id) !== account.id)) throw new Refusal(404, 'There is no such upload.');
      request.url = request.originalUrl;
      void this.tus.handle(request, response);
    } catch (error) {
      const { status, detail } = problemOf(error);
      response
        .status(status)
        .type('application/problem+json')
        .send(JSON.stringify({ type: 'about:blank', title: 'Refused', status, detail }));
    }
  };

  /** What came of an upload. One that came in whole, and was not looked at since the workshop was killed, is looked at now. */
  async outcome(id: string, by: Asked): Promise<Version> {
    const row = this.database.select().from(uploads).where(eq(uploads.id, id)).get();
    if (row) {
      if (row.account !== by.account) throw new Refusal(404, 'There is no such upload.');
      if (row.problem) throw new Refusal(row.status ?? 422, row.problem);
      return this.mods.byCode(row.shareCode!, this.accounts.get(by.account)).version;
    }
    if (!/^[0-9a-f]{16,64}$/.test(id) || this.owner(id) !== by.account) throw new Refusal(404, 'There is no such upload.');
    const upload = await this.tus.datastore.getUpload(id);
    if (upload.offset !== upload.size) throw new Refusal(409, `The upload has ${upload.offset} of ${upload.size} bytes. Go on with it.`);
    await this.finish(upload);
    return this.outcome(id, by);
  }

  private async finish(upload: Upload): Promise<{ status: number; body: string }> {
    const { metadata } = upload;
    const account = this.accounts.get(Number(metadata?.account));
    const path = join(this.folder, upload.id);
    try {
      const version = await this.mods.publish(path, account, {
        organisation: metadata?.organisation ?? undefined,
        notes: metadata?.notes ?? undefined,
        visibility: (metadata?.visibility ?? undefined) as Visibility | undefined,
      });
      this.settle(upload.id, account.id, { shareCode: version.shareCode });
      return { status: 201, body: JSON.stringify(this.mods.release(version)) };
    } catch (error) {
      const { status, detail } = problemOf(error);
      // A full disk is no fault of the package: it stays, to be looked at once there is room.
      if (status < 500) this.settle(upload.id, account.id, { problem: detail, status });
      return { status, body: JSON.stringify({ type: 'about:blank', title: 'Refused', status, detail }) };
    }
  }

  private settle(id: string, account: number, outcome: Partial<typeof uploads.$inferInsert>): void {
    this.database
      .insert(uploads)
      .values({ id, account, at: new Date().toISOString(), ...outcome })
      .onConflictDoNothing()
      .run();
    for (const file of [id, `${id}.json`]) rmSync(join(this.folder, file), { force: true });
  }

  /** Looked up once more where the library has only the headers: they were found good before. */
  private accountOf(headers: Headers): number {
    const bearer = /^Bearer (\S+)$/.exec(headers.get('authorization') ?? '')?.[1];
    const session = sessionOf({ headers: { cookie: headers.get('cookie') ?? '' } });
    return (bearer ? this.accounts.ofToken(bearer)?.account.id : session ? this.accounts.ofSession(session)?.id : undefined) ?? 0;
  }

  private owner(id: string): number | null {
    try {
      const { metadata } = JSON.parse(readFileSync(join(this.folder, `${id}.json`), 'utf8')) as { metadata?: { account?: string } };
      return Number(metadata?.account);
    } catch {
      return this.database.select().from(uploads).where(eq(uploads.id, id)).get()?.account ?? null;
    }
  }
}

function metadataProblem({ size, metadata }: Upload): string | null {
  if (size === undefined) return 'Say how many bytes there are.';
  if ((metadata?.notes ?? '').length > 20_000) return 'Change notes have at most 20,000 characters.';
  const { visibility } = metadata ?? {};
  return visibility && !(VISIBILITIES as readonly string[]).includes(visibility) ? 'The visibility is private, code or listed.' : null;
}
