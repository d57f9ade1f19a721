import { isTooDeep, MOST_DEPTH } from '@violet-crate/core/jsonDepth';
import express, { type NextFunction, type Request, type Response } from 'express';
import { Problem } from './problem.ts';

/** Bytes of a request's document. */
const MOST_JSON = 32 << 20;

const parse = express.json({
  limit: MOST_JSON,
  // Before it is parsed: what checks a document walks through it, and would run out of stack.
  verify(_request: unknown, _response: unknown, body: Uint8Array) {
    if (isTooDeep(body)) throw new Problem(400, 'request', `The request is nested more than ${MOST_DEPTH} levels deep.`);
  },
});

const TOLD: Record<string, string> = {
  'entity.too.large': `The request is larger than ${MOST_JSON >> 20} MB.`,
  'entity.parse.failed': 'The request is no valid JSON.',
  'encoding.unsupported': 'The request is packed in a way that is not known here.',
  'charset.unsupported': 'The request has to be in UTF-8.',
  'request.aborted': 'The request broke off.',
};

/** Reads the document of a request; what the parser refuses is told in our words. */
export function jsonBody(request: Request, response: Response, next: NextFunction): void {
  parse(request, response, (error?: unknown) => next(error && refusal(error)));
}

function refusal(error: unknown): unknown {
  if (error instanceof Problem) return error;
  const { status, type, body } = error as { status?: unknown; type?: unknown; body?: unknown };
  if (body instanceof Problem) return body;
  if (typeof status !== 'number' || status < 400 || status > 499) return error;
  return new Problem(status, 'request', (typeof type === 'string' && Object.hasOwn(TOLD, type) && TOLD[type]) || 'The request cannot be read.');
}
