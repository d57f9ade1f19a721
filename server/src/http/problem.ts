/** Errors as problem details (RFC 9457). `code` and `place` extend them as the RFC allows. */

import { ArgumentsHost, Catch, HttpException, Logger, type ExceptionFilter } from '@nestjs/common';
import type { Place } from '@violet-crate/core/place';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { diskFull } from '@violet-crate/host/diskFull';
import type { Response } from 'express';

export class Problem extends Error {
  override name = 'Problem';
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly extra: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

export const notFound = (what: string): Problem => new Problem(404, 'not-found', `There is no ${what}.`);

const TITLES: Record<number, string> = {
  400: 'Bad request',
  401: 'Not allowed',
  403: 'Forbidden',
  404: 'Not found',
  409: 'Conflict',
  413: 'Too large',
  422: 'Cannot be read',
  502: 'The other side failed',
  507: 'The disk is full',
};

@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly logger = new Logger('http');

  /** @param data folder whose disk is meant where one is full */
  constructor(private readonly data: string) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    if (response.headersSent) return void response.end();
    const { status, code, detail, extra } = this.describe(error);
    response
      .status(status)
      .type('application/problem+json')
      .send(JSON.stringify({ type: 'about:blank', title: TITLES[status] ?? 'Error', status, detail, code, ...extra }));
  }

  private describe(error: unknown): { status: number; code: string; detail: string; extra: { place?: Place } & Record<string, unknown> } {
    if (error instanceof Problem) return { status: error.status, code: error.code, detail: error.message, extra: error.extra };
    if (error instanceof UnreadableInput) {
      const status = error.code.startsWith('workshop-') ? 502 : error.code === 'disk-full' ? 507 : 422;
      return { status, code: error.code, detail: error.hint ? `${error.message} ${error.hint}` : error.message, extra: { place: error.place } };
    }
    if (error instanceof HttpException) {
      const body = error.getResponse();
      // Nest and Express, each in its own way, where nothing listens.
      const nothing = /^Cannot ([A-Z]+) (\S+)$/.exec(error.message);
      if (nothing) return { status: 404, code: 'request', detail: `There is nothing at ${nothing[2]} for ${nothing[1]}.`, extra: {} };
      // Express cannot decode the address, and says so in its own terms.
      if (error.message.startsWith('Failed to decode'))
        return { status: 400, code: 'request', detail: 'The address is not encoded as it should be.', extra: {} };
      const message = typeof body === 'string' ? body : ((body as { message?: string | string[] }).message ?? error.message);
      return { status: error.getStatus(), code: 'request', detail: Array.isArray(message) ? `${message.join('; ')}.` : message, extra: {} };
    }
    const full = diskFull(error, this.data, 1);
    if (full) return this.describe(full);
    this.logger.error(error instanceof Error ? error.stack : String(error));
    return { status: 500, code: 'internal', detail: 'Something went wrong in the server; its log says what.', extra: {} };
  }
}
