/** `npm run --silent crate -- COMMAND`: makes sure that all is compiled, then runs the command line. */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './run.mjs';
import { compile, install } from './prepare.mjs';

install(true);
compile(true);
const data = process.env.VIOLET_CRATE_DATA ?? join(root, 'data');
// Materials come from the game's base pack, so the demo game has to be there before the first command.
if (!process.env.VIOLET_CRATE_GAME && !existsSync(join(data, 'games/brinewick'))) run(process.execPath, ['demo/dist/main.js', data], { quiet: true });
process.env.VIOLET_CRATE_DATA = data;
process.chdir(process.env.INIT_CWD ?? root);
const { main } = await import('../cli/dist/main.js');
process.exitCode = await main(process.argv.slice(2));
