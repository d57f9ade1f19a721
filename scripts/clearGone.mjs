/** Removes compiled tests whose sources are gone: Jest would run them, and they would pass or fail for ever. */
import { existsSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { COMPILED } from './prepare.mjs';
import { root } from './run.mjs';

for (const part of COMPILED) {
  const made = join(root, part, 'dist');
  for (const entry of existsSync(made) ? readdirSync(made, { recursive: true }) : []) {
    if (!/\.test\.js$/.test(entry)) continue;
    const source = join(root, part, 'src', entry.replace(/js$/, 'ts'));
    if (!existsSync(source)) rmSync(join(made, entry));
  }
}
