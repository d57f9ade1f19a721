/**
 * The text of a file as its byte-order mark, or else its XML declaration, says (XML 1.0, 4.3.3 and appendix F). Without
 * either it is UTF-8. An encoding that is not known here is read as UTF-8 too: names may suffer, numbers do not.
 */
export function decodeText(bytes: Uint8Array): string {
  const mark = bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : null;
  if (mark) return new TextDecoder(mark).decode(bytes);
  // Without a mark, the zero beside "<" tells the byte order.
  if (bytes[0] === 0x3c && bytes[1] === 0) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes[0] === 0 && bytes[1] === 0x3c) return new TextDecoder('utf-16be').decode(bytes);
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 200));
  const declared = /^(?:\u00ef\u00bb\u00bf)?<\?xml[^>]*encoding\s*=\s*["']([\w.-]+)["']/.exec(head)?.[1];
  try {
    return new TextDecoder(declared && !/^utf-?16/i.test(declared) ? declared : 'utf-8').decode(bytes);
  } catch {
    return new TextDecoder().decode(bytes);
  }
}
