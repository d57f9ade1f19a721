import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { createWorkshop } from './app.ts';

const data = resolve(process.env.VIOLET_CRATE_DATA ?? 'data');
mkdirSync(data, { recursive: true });
const token = process.env.VIOLET_CRATE_WORKSHOP_TOKEN;
if (!token) throw new Error('VIOLET_CRATE_WORKSHOP_TOKEN has to be set: it is what publishers show.');
const app = await createWorkshop({ database: join(data, 'workshop.sqlite'), token });
await app.listen(Number(process.env.VIOLET_CRATE_WORKSHOP_PORT ?? 4281), '127.0.0.1');
console.log(`Workshop: ${(await app.getUrl()).replace('[::1]', '127.0.0.1')}`);
