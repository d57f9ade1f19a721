import { existsSync, realpathSync } from 'node:fs';
import { resolve } from 'node:path';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { readCrate } from '@violet-crate/core/crate/contents';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { Command } from '../command.ts';
import { readCrateTree } from '../folder.ts';

interface FolderView {
  folder: string;
  problem: string | null;
  refused: { path: string; reason: string }[];
  conflicts: { path: string; what: string }[];
}

/** Milliseconds. */
const PATIENCE = 60_000;

async function ask<T>(server: string, method: string, path: string, body?: object | FormData): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`${server}${path}`, {
      method,
      signal: AbortSignal.timeout(PATIENCE),
      ...(body instanceof FormData ? { body } : body ? { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } } : {}),
    });
  } catch {
    throw new UnreadableInput(
      'server-unreachable',
      `The application at ${server} does not answer.`,
      {},
      'Start it with "npm start", or give its address with --server.',
    );
  }
  const answer = (await response.json().catch(() => ({}))) as T & { detail?: string };
  if (!response.ok) throw new UnreadableInput('server-refused', answer.detail ?? `The application answered with status ${response.status}.`);
  return answer;
}

export const syncCommand: Command = {
  summary: 'Bind a crate’s folder to the running application, which keeps both equal from then on.',
  usage: 'crate sync DIR [--crate NAME] [--server URL]',
  options: {
    crate: { value: 'NAME', summary: 'a crate of the application that is to live in DIR; the one of DIR’s crate.json without it' },
    server: { value: 'URL', summary: 'address of the application (http://127.0.0.1:4280)' },
  },
  arguments: [1, 1],
  async run([dir], options) {
    const server = (options.server ?? `http://127.0.0.1:${process.env.VIOLET_CRATE_PORT ?? 4280}`).replace(/\/$/, '');
    const folder = existsSync(dir) ? realpathSync(dir) : resolve(dir);
    const crates = await ask<{ id: string; manifest: { name: string } }[]>(server, 'GET', '/api/crates');
    const tree = existsSync(`${folder}/crate.json`) ? readCrateTree(folder) : null;
    const name = options.crate ?? (tree ? readCrate(tree).manifest.name : null);
    if (!name)
      throw new UnreadableInput(
        'crate-missing',
        `${folder} has no crate.json.`,
        {},
        'Say with --crate which crate of the application is to live there.',
      );
    let id = crates.find(({ manifest }) => manifest.name === name)?.id;
    if (!id && tree) {
      const form = new FormData();
      form.append('file', new Blob([writeZip(tree) as Uint8Array<ArrayBuffer>]), `${name}.zip`);
      id = (await ask<{ id: string }>(server, 'POST', '/api/crates/import', form)).id;
    }
    if (!id) throw new UnreadableInput('crate-unknown', `The application has no crate "${name}".`);
    await ask(server, 'PUT', `/api/crates/${id}/folder`, { folder });
    const { folder: view } = await ask<{ folder: FolderView }>(server, 'POST', `/api/crates/${id}/folder/look`, {});
    const wrong = [...(view.problem ? [view.problem] : []), ...view.refused.map(({ reason }) => reason), ...view.conflicts.map(({ what }) => what)];
    return {
      code: wrong.length > 0 ? 1 : 0,
      result: { crate: name, id, ...view },
      text: wrong.length > 0 ? wrong.join('\n') : `${name} lives in ${view.folder}; both are equal and are kept so while the application runs.`,
    };
  },
};
