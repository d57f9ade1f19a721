import { lockData } from '@violet-crate/host/dataLock';
import { needPort, startOrExplain } from '@violet-crate/host/startProblem';
import { createApp } from './app.ts';
import { readConfig } from './config.ts';
import { prepareDemo } from './demo.ts';

await startOrExplain(async () => {
  const config = readConfig();
  const lock = lockData(config.data, 'server');
  await needPort(config.port);
  await prepareDemo(config);
  const app = await createApp(config);
  await app.listen(config.port, '127.0.0.1');
  const url = (await app.getUrl()).replace('[::1]', '127.0.0.1');
  lock.tell(Number(new URL(url).port));
  process.on('exit', () => lock.release());
  // The launcher waits for this line.
  console.log(`Violet Crate: ${url}`);
});
