/** `npm run attack -- [--rounds N] [--short] [PART…]`: makes sure that all is compiled, then tries what once broke it. */
import { compile, compileWeb, install } from './prepare.mjs';
import { run } from './run.mjs';

install();
compile();
compileWeb();
run(process.execPath, ['bench/attack/run.mjs', ...process.argv.slice(2)]);
