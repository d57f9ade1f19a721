/** A depot with one pack of some megabytes, which it hands out slowly. */
import { createHash } from 'node:crypto';
import { createServer } from 'node:http';
import { zipSync } from 'fflate';
import { sleep } from './target.mjs';

const sha256 = (bytes) => createHash('sha256').update(bytes).digest('hex');
const BLOCK = 1 << 16;

/** @param files of the pack, by path */
export async function slowDepot(files) {
  const entries = Object.fromEntries(files.map(({ path, bytes }) => [path, bytes]));
  const list = files.map(({ path, bytes }) => ({ path, bytes: bytes.length, sha256: sha256(bytes) }));
  const pack = { format: 1, title: 'Slow', version: '1.0.0', materials: [], assets: {}, files: list };
  const zip = Buffer.from(zipSync({ 'pack.json': Buffer.from(JSON.stringify(pack)), ...entries }, { level: 0 }));
  const blocks = [];
  for (let at = 0; at < zip.length; at += BLOCK) blocks.push(sha256(zip.subarray(at, at + BLOCK)));
  const version = { version: '1.0.0', notes: '', bytes: zip.length, unpacked: zip.length, sha256: sha256(zip), blockBytes: BLOCK, blocks };
  const item = { id: 'slow', kind: 'pack', profile: 'brinewick', title: 'Slow', brings: '', author: '', licence: '', versions: [version] };
  let served = 0;
  const server = createServer(async (request, response) => {
    if (request.url.endsWith('/index.json')) return response.end(JSON.stringify({ format: 1, title: 'D', items: [item] }));
    const from = Number(/^bytes=(\d+)-/.exec(request.headers.range ?? '')?.[1] ?? 0);
    response.writeHead(from > 0 ? 206 : 200, {
      etag: '"one"',
      'content-length': zip.length - from,
      ...(from > 0 ? { 'content-range': `bytes ${from}-${zip.length - 1}/${zip.length}` } : {}),
    });
    for (let at = from; at < zip.length && !response.destroyed; at += BLOCK) {
      response.write(zip.subarray(at, at + BLOCK));
      served += Math.min(BLOCK, zip.length - at);
      await sleep(8);
    }
    response.end();
  });
  await new Promise((done) => server.listen(0, '127.0.0.1', done));
  return { server, url: `http://127.0.0.1:${server.address().port}`, size: zip.length, served: () => served };
}
