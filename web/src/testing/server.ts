/** A server for component tests: answers by method and path, and remembers what it was sent. */

export interface Sent {
  method: string;
  path: string;
  body: unknown;
}

export type Answer = object | ((body: unknown) => object);

/** An answer that refuses, with its problem details. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly detail: string,
  ) {}
}

/** What most pages ask beside their own. */
const ALWAYS: Record<string, Answer> = { 'GET /api/programs': { noScreen: null, system: 'xdg-open', programs: {}, names: {} } };

/** @param given by `METHOD path`, the beginning of a path for GET; what is not in it is an empty list */
export function serve(given: Record<string, Answer>): Sent[] {
  const answers = { ...ALWAYS, ...given };
  const sent: Sent[] = [];
  globalThis.fetch = (input, init) => {
    const method = init?.method ?? 'GET';
    const path = input as string;
    const body: unknown = typeof init?.body === 'string' ? JSON.parse(init.body) : undefined;
    sent.push({ method, path, body });
    const key = Object.keys(answers)
      .filter((one) => `${method} ${path}`.startsWith(one))
      .sort((a, b) => b.length - a.length)[0];
    const given = key === undefined ? [] : answers[key];
    const answer = typeof given === 'function' ? (given as (body: unknown) => object)(body) : given;
    const refused = answer instanceof Refusal;
    return Promise.resolve(new Response(JSON.stringify(refused ? { detail: answer.detail } : answer), { status: refused ? answer.status : 200 }));
  };
  return sent;
}
