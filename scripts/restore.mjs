/** `npm run restore [-- NAME]`: lists the copies of the database, or brings one back. */
import { join } from 'node:path';
import { compile, install } from './prepare.mjs';
import { root, run } from './run.mjs';

install(true);
compile(true);
run(process.execPath, [join(root, 'server/dist/restore.js'), ...process.argv.slice(2)], {
  env: { VIOLET_CRATE_DATA: process.env.VIOLET_CRATE_DATA ?? join(root, 'data') },
});
