/** Converts the given OBJ with the default settings and reports time and memory. */
import { createReadStream, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { convertModel } from '@violet-crate/core/asset/mesh/convert';
import { loadProfile } from '@violet-crate/core/profile/load';

const profile = loadProfile(readFileSync(fileURLToPath(import.meta.resolve('@violet-crate/core/profiles/brinewick.json')), 'utf8'), 'brinewick.json');
const start = process.cpuUsage();
const { triangles } = await convertModel(profile, { file: 'sphere.obj', bytes: createReadStream(process.argv[2]) });
const { user, system } = process.cpuUsage(start);
console.log(JSON.stringify({ seconds: (user + system) / 1e6, megabytes: process.resourceUsage().maxRSS / 1024, triangles }));
