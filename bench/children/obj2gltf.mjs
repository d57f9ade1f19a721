/** Converts the given OBJ with obj2gltf and reports time and memory. */
import obj2gltf from 'obj2gltf';

const start = process.cpuUsage();
await obj2gltf(process.argv[2], { binary: true });
const { user, system } = process.cpuUsage(start);
console.log(JSON.stringify({ seconds: (user + system) / 1e6, megabytes: process.resourceUsage().maxRSS / 1024 }));
