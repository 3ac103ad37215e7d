/** A file within a folder that was dropped, with its path from there on. */
export interface PlacedFile {
  readonly path: string;
  readonly file: File;
}

const BLOCK = 512;

/** A tar archive (IEEE Std 1003.1, pax) of files, as the parts of a blob. */
export function tarParts(files: readonly PlacedFile[]): (Uint8Array<ArrayBuffer> | File)[] {
  const parts: (Uint8Array<ArrayBuffer> | File)[] = [];
  for (const { path, file } of files) {
    // Names of any length and script stand in a header of their own.
    const record = paxRecord('path', path);
    parts.push(header('path', record.length, 'x'), record, padding(record.length));
    parts.push(header('file', file.size, '0'), file, padding(file.size));
  }
  parts.push(new Uint8Array(2 * BLOCK));
  return parts;
}

/** `LENGTH KEY=VALUE`, where the length counts its own digits. */
function paxRecord(key: string, value: string): Uint8Array<ArrayBuffer> {
  const rest = new TextEncoder().encode(` ${key}=${value}\n`);
  let length = rest.length;
  while (String(length).length + rest.length !== length) length = String(length).length + rest.length;
  return new TextEncoder().encode(`${length} ${key}=${value}\n`);
}

const padding = (length: number): Uint8Array<ArrayBuffer> => new Uint8Array((BLOCK - (length % BLOCK)) % BLOCK);

function header(name: string, size: number, type: string): Uint8Array<ArrayBuffer> {
  const block = new Uint8Array(BLOCK);
  const put = (text: string, at: number) => block.set(new TextEncoder().encode(text), at);
  put(name, 0);
  put('0000644\0', 100);
  put('0000000\0', 108);
  put('0000000\0', 116);
  put(`${size.toString(8).padStart(11, '0')}\0`, 124);
  put('00000000000\0', 136);
  put('        ', 148);
  put(type, 156);
  put('ustar\x0000', 257);
  const sum = block.reduce((total, octet) => total + octet, 0);
  put(`${sum.toString(8).padStart(6, '0')}\0 `, 148);
  return block;
}
