import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { StartProblem } from '@violet-crate/host/startProblem';

export interface Config {
  port: number;
  /** The one folder with everything that the application keeps. */
  data: string;
  database: string;
  /** Folder of the crates that others are made with. */
  required: string;
  blobs: string;
  /** File of the author's key. */
  authorKey: string;
  cache: string;
  /** Folder in which games are looked for. */
  games: string;
  /** Memory that a build or another long piece of work may take, MiB. */
  workerMemory: number;
  /** Folder of the stand-in depot, which the workshop's process serves; and where a depot is asked. */
  depot: string;
  depotUrl: string;
  /** Whether the demo games and their crates are laid out. */
  demo: boolean;
  workshopUrl: string;
  workshopToken: string;
  /** Folder of the built web application. */
  web: string;
}

export function readConfig(env: NodeJS.ProcessEnv = process.env): Config {
  const port = Number(env.VIOLET_CRATE_PORT ?? 4280);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new StartProblem(`VIOLET_CRATE_PORT has to be a port number, not "${env.VIOLET_CRATE_PORT}".`);
  const workerMemory = Number(env.VIOLET_CRATE_WORKER_MEMORY ?? 4096);
  if (!Number.isInteger(workerMemory) || workerMemory < 16)
    throw new StartProblem(`VIOLET_CRATE_WORKER_MEMORY has to be a whole number of MiB from 16 on, not "${env.VIOLET_CRATE_WORKER_MEMORY}".`);
  const data = resolve(env.VIOLET_CRATE_DATA ?? 'data');
  const config: Config = {
    port,
    data,
    database: join(data, 'crates.sqlite'),
    required: join(data, 'required'),
    blobs: join(data, 'blobs'),
    authorKey: join(data, 'author.key'),
    cache: join(data, 'cache'),
    games: resolve(env.VIOLET_CRATE_GAMES ?? join(data, 'games')),
    workerMemory,
    depot: resolve(env.VIOLET_CRATE_DEPOT_FOLDER ?? join(data, 'depot')),
    depotUrl: env.VIOLET_CRATE_DEPOT ?? `http://127.0.0.1:${env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281}/depot`,
    demo: env.VIOLET_CRATE_DEMO !== 'none',
    workshopUrl: env.VIOLET_CRATE_WORKSHOP ?? `http://127.0.0.1:${env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281}`,
    workshopToken: env.VIOLET_CRATE_WORKSHOP_TOKEN ?? '',
    web: resolve(env.VIOLET_CRATE_WEB ?? join(import.meta.dirname, '..', '..', 'web', 'dist')),
  };
  for (const folder of [config.data, config.blobs, config.cache, config.games]) mkdirSync(folder, { recursive: true });
  return config;
}

export const CONFIG = Symbol('config');
