/**
 * A tool of the stand-in games: a table of contents of textures. It imports Node.js only and is copied into the games as it is.
 *
 *     node contents.mjs --version
 *     node contents.mjs --in DIR --out DIR
 *
 * Reads the header of every `.ktx2` below `--in`/textures (Khronos KTX 2.0, section 3: width, height and levels of little-endian
 * 32-bit numbers behind twelve bytes of identifier) and writes `textures.json`.
 */

import { closeSync, existsSync, openSync, readdirSync, readFileSync, readSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const option = (name: string): string => {
  const at = process.argv.indexOf(`--${name}`);
  if (at < 0 || at + 1 >= process.argv.length) end(2, `error: --${name} is missing`);
  return process.argv[at + 1];
};

function end(code: number, line: string): never {
  console.log(line);
  process.exit(code);
}

const own = JSON.parse(readFileSync(join(dirname(fileURLToPath(import.meta.url)), 'tool.json'), 'utf8')) as { tool: string; version: string };
if (process.argv.includes('--version')) end(0, `${own.tool} ${own.version}`);

const IDENTIFIER = '\u00abKTX 20\u00bb\r\n\u001a\n';
const folder = join(option('in'), 'textures');
const paths = existsSync(folder)
  ? readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((path) => path.endsWith('.ktx2'))
      .sort()
  : [];
const header = Buffer.alloc(48);
const textures = paths.map((path, i) => {
  const handle = openSync(join(folder, path), 'r');
  const length = readSync(handle, header, 0, header.length, 0);
  closeSync(handle);
  if (length < header.length || header.toString('latin1', 0, 12) !== IDENTIFIER) end(1, `error: textures/${path}: is no KTX2 texture`);
  const [width, height, levels] = [20, 24, 40].map((at) => header.readUInt32LE(at));
  if (width > 4096 || height > 4096) console.log(`warning: textures/${path}: ${width} × ${height} is larger than players' machines like`);
  console.log(`progress: ${Math.round(((i + 1) / paths.length) * 100)}%`);
  return { path: `textures/${path}`, width, height, levels, bytes: statSync(join(folder, path)).size };
});
writeFileSync(join(option('out'), 'textures.json'), `${JSON.stringify({ format: 1, tool: own.tool, version: own.version, textures }, null, 2)}\n`);
console.log(`listed ${textures.length} textures`);
