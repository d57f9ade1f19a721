/**
 * A tool of the stand-in games: looks a built map over and stamps it. It imports Node.js only and is copied into the games as it is.
 *
 *     node stamp.mjs --version
 *     node stamp.mjs --game DIR --in DIR --map NAME --out DIR
 *
 * `--in` holds `maps/NAME/…` as docs/formats.md describes it. Refuses a map that was not built for this game's release, and one
 * without what the game cannot do without; writes `stamp.json` with the hash of every file.
 */

import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

interface Profile {
  id: string;
  install: { versionFile: string };
  required: { class: string; min: number; reason: string }[];
}

const option = (name: string): string => {
  const at = process.argv.indexOf(`--${name}`);
  if (at < 0 || at + 1 >= process.argv.length) end(2, `error: --${name} is missing`);
  return process.argv[at + 1];
};

function end(code: number, line: string): never {
  console.log(line);
  process.exit(code);
}

const json = <T>(file: string): T => {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as T;
  } catch {
    end(3, `error: ${file}: cannot be read`);
  }
};

const own = json<{ tool: string; title: string; version: string }>(join(dirname(fileURLToPath(import.meta.url)), 'tool.json'));
if (process.argv.includes('--version')) end(0, `${own.tool} ${own.version}`);

const [game, input, map, out] = ['game', 'in', 'map', 'out'].map(option);
const profile = json<Profile>(join(game, 'profile.json'));
const { version } = json<{ version: string }>(join(game, profile.install.versionFile));
const release = (text: string) => text.split('.').slice(0, 2).join('.');
if (release(version) !== release(own.version)) end(1, `error: ${own.title} ${own.version} cannot stamp maps for ${version}`);

const folder = join(input, 'maps', map);
const file = `maps/${map}/map.json`;
const built = json<{ profile: string; objects: Record<string, { class: string }> }>(join(folder, 'map.json'));
if (built.profile !== profile.id) end(1, `error: ${file}: is a map of ${built.profile}, not of ${profile.id}`);
let short = 0;
for (const { class: wanted, min, reason } of profile.required) {
  const count = Object.values(built.objects).filter((object) => object.class === wanted).length;
  if (count >= min) continue;
  short++;
  console.log(`error: ${file}: has ${count} of ${wanted}, at least ${min} needed: ${reason}`);
}
if (short > 0) process.exit(1);

const names = readdirSync(folder).sort();
const files = names.map((name, i) => {
  const bytes = readFileSync(join(folder, name));
  console.log(`progress: ${Math.round(((i + 1) / names.length) * 100)}%`);
  return { name, bytes: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex') };
});
writeFileSync(
  join(out, 'stamp.json'),
  `${JSON.stringify({ format: 1, tool: own.tool, version: own.version, game: version, map, files }, null, 2)}\n`,
);
console.log(`stamped ${map} for ${version}: ${files.length} files`);
