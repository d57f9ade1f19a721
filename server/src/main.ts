import { createApp } from './app.ts';
import { readConfig } from './config.ts';
import { prepareDemo } from './demo.ts';

const config = readConfig();
await prepareDemo(config);
const app = await createApp(config);
await app.listen(config.port, '127.0.0.1');
// The launcher waits for this line.
console.log(`Violet Crate: ${(await app.getUrl()).replace('[::1]', '127.0.0.1')}`);
