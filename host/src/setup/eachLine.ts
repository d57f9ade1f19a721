/** Lines of a stream as they come, each cut at a length: a program that never ends its line must not fill the memory. */

import type { Readable } from 'node:stream';
import { StringDecoder } from 'node:string_decoder';

/** `take` is given lines; `bytes`, if given, every piece's length. */
export function eachLine(stream: Readable, limit: number, take: (line: string) => void, bytes: (count: number) => void = () => {}): void {
  const decoder = new StringDecoder('utf8');
  let line = '';
  const add = (text: string) => {
    if (line.length < limit) line += text.slice(0, limit - line.length);
  };
  const end = () => {
    take(line.endsWith('\r') ? line.slice(0, -1) : line);
    line = '';
  };
  stream.on('data', (chunk: Buffer) => {
    bytes(chunk.length);
    const text = decoder.write(chunk);
    let from = 0;
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', from)) {
      add(text.slice(from, at));
      end();
      from = at + 1;
    }
    add(text.slice(from));
  });
  stream.on('end', () => {
    if (line !== '') end();
  });
  stream.on('error', () => {});
}
