import { Catch, HttpException, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { diskFull } from '@violet-crate/host/diskFull';
import type { Response } from 'express';

export class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** Whatever went wrong, as its status and one sentence. */
export function problemOf(error: unknown): { status: number; detail: string } {
  if (error instanceof Refusal) return { status: error.status, detail: error.message };
  const full = diskFull(error, '.', 1);
  if (full) return { status: 507, detail: full.message };
  if (error instanceof UnreadableInput) return { status: 422, detail: error.message };
  if (error instanceof HttpException) return { status: error.getStatus(), detail: error.message };
  const { status, type } = error as { status?: unknown; type?: unknown };
  // What Express and its parsers refuse by themselves.
  if (typeof status === 'number' && status >= 400 && status < 500)
    return { status, detail: type === 'entity.too.large' ? 'That is more than is taken at once.' : 'The request cannot be read.' };
  return { status: 500, detail: 'Something went wrong in the workshop.' };
}

/** Errors as problem details (RFC 9457). */
@Catch()
export class RefusalFilter implements ExceptionFilter {
  catch(error: unknown, host: ArgumentsHost): void {
    const { status, detail } = problemOf(error);
    if (status === 500) console.error(error);
    host
      .switchToHttp()
      .getResponse<Response>()
      .status(status)
      .type('application/problem+json')
      .send(JSON.stringify({ type: 'about:blank', title: 'Refused', status, detail }));
  }
}
