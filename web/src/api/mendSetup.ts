import { sendJson } from './http.ts';
import type { CrateView } from './types.ts';

/** Carries out the action of a fix of the set-up: a step of the preparation, or the repair of a check. Answers what was done. */
export async function mendSetup({ manifest, install }: Pick<CrateView, 'manifest' | 'install'>, action: string): Promise<string> {
  const game = `/api/games/${manifest.profile}`;
  const [, step] = /^step:([a-z][a-z0-9_]*)$/.exec(action) ?? [];
  const answer = step
    ? await sendJson<{ done: string }>('POST', `${game}/preparation/${step}?install=${install}`, {})
    : await sendJson<{ done: string }>('POST', `${game}/repairs?install=${install}`, { action });
  return answer.done;
}
