import { Catch, HttpException, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { UnreadableInput } from '@violet-crate/core/finding';
import type { Response } from 'express';

export class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** Errors as problem details (RFC 9457). */
@Catch()
export class RefusalFilter implements ExceptionFilter {
  catch(error: unknown, host: ArgumentsHost): void {
    const status =
      error instanceof Refusal ? error.status : error instanceof UnreadableInput ? 422 : error instanceof HttpException ? error.getStatus() : 500;
    const detail = status === 500 ? 'Something went wrong in the workshop.' : (error as Error).message;
    if (status === 500) console.error(error);
    host
      .switchToHttp()
      .getResponse<Response>()
      .status(status)
      .type('application/problem+json')
      .send(JSON.stringify({ type: 'about:blank', title: 'Refused', status, detail }));
  }
}
