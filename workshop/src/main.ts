import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { lockData } from '@violet-crate/host/dataLock';
import { needPort, StartProblem, startOrExplain } from '@violet-crate/host/startProblem';
import { createWorkshop } from './app.ts';

await startOrExplain(async () => {
  const data = resolve(process.env.VIOLET_CRATE_DATA ?? 'data');
  mkdirSync(data, { recursive: true });
  const token = process.env.VIOLET_CRATE_WORKSHOP_TOKEN;
  if (!token) throw new StartProblem('VIOLET_CRATE_WORKSHOP_TOKEN has to be set: it is what publishers show.');
  const lock = lockData(data, 'workshop');
  const port = Number(process.env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281);
  await needPort(port);
  const app = await createWorkshop({
    database: join(data, 'workshop.sqlite'),
    files: join(data, 'workshop'),
    rules: { ageHours: Number(process.env.VIOLET_CRATE_WORKSHOP_AGE_HOURS ?? 0) || 0 },
    token,
    depot: resolve(process.env.VIOLET_CRATE_DEPOT_FOLDER ?? join(data, 'depot')),
  });
  await app.listen(port, '127.0.0.1');
  const url = (await app.getUrl()).replace('[::1]', '127.0.0.1');
  lock.tell(Number(new URL(url).port));
  process.on('exit', () => lock.release());
  console.log(`Workshop: ${url}`);
});
