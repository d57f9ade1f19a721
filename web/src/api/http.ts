/** Calls of the server. Errors carry the sentence of its problem details (RFC 9457). */

export class RequestProblem extends Error {
  override name = 'RequestProblem';
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly extra: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

async function problemOf(response: Response): Promise<RequestProblem> {
  const body = (await response.json().catch(() => ({}))) as { detail?: string; code?: string } & Record<string, unknown>;
  return new RequestProblem(response.status, body.code ?? 'unknown', body.detail ?? `The server answered ${response.status}.`, body);
}

export async function request(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    throw new RequestProblem(0, 'offline', 'The server does not answer. Is it still running?');
  }
  if (!response.ok) throw await problemOf(response);
  return response;
}

export async function getJson<T>(path: string): Promise<T> {
  return (await request(path)).json() as Promise<T>;
}

export async function sendJson<T>(method: 'POST' | 'PUT' | 'PATCH' | 'DELETE', path: string, body: unknown): Promise<T> {
  return (await request(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })).json() as Promise<T>;
}

/** Bytes of requests that a browser goes on with after their page has gone (Fetch standard, 4.5: 64 KiB together). */
const OUTLIVES = 60_000;

/** Sends what the page would lose by being closed: the request outlives it. Nothing is heard of it any more. */
export function sendLast(method: 'POST' | 'PUT', path: string, body: unknown): void {
  const text = JSON.stringify(body);
  const keepalive = new TextEncoder().encode(text).length <= OUTLIVES;
  void fetch(path, { method, headers: { 'content-type': 'application/json' }, body: text, keepalive }).catch(() => {});
}

export async function remove(path: string): Promise<void> {
  await request(path, { method: 'DELETE' });
}

export async function upload<T>(path: string, field: string, files: readonly File[]): Promise<T> {
  const form = new FormData();
  // Files of a chosen folder carry their path beside their name.
  for (const file of files) form.append(field, file, file.webkitRelativePath || file.name);
  return (await request(path, { method: 'POST', body: form })).json() as Promise<T>;
}

export const message = (error: unknown): string => (error instanceof Error ? error.message : String(error));
