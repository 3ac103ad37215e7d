import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { filesWithin } from '../../files/mail/folder';
import { Refusal } from '../audits/audits';
import { databaseFile } from '../database/open';

/** Digest that identifies a file or folder. */
export interface Digest {
  readonly digest: string;
  readonly bytes: number;
}

/** The path of a new file for what is being received. */
export async function uploadFile(): Promise<string> {
  const file = join(dirname(databaseFile()), 'uploads', randomUUID());
  await mkdir(dirname(file), { recursive: true });
  return file;
}

/** Keeps a body in a new file while it is read. */
export async function receive(body: AsyncIterable<Uint8Array>, file: string): Promise<Digest> {
  const hash = createHash('sha256');
  let bytes = 0;
  const meter = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      hash.update(chunk);
      bytes += chunk.length;
      done(null, chunk);
    },
  });
  await pipeline(body, meter, createWriteStream(file, { flags: 'wx' }));
  return { digest: hash.digest('hex'), bytes };
}

/** The same for a file or a folder of the server's machine. Throws a refusal where there is neither. */
export async function digestOfPath(path: string): Promise<Digest & { readonly isFile: boolean }> {
  const found = await stat(path).catch(() => null);
  if (!found?.isDirectory() && !found?.isFile()) throw new Refusal(`There is no file or folder “${path}”.`, 404);
  const isFile = found.isFile();
  return { ...(await (isFile ? digestOfFile(path) : digestOfFolder(path))), isFile };
}

async function digestOfFile(file: string): Promise<Digest> {
  const hash = createHash('sha256');
  let bytes = 0;
  for await (const chunk of createReadStream(file, { highWaterMark: 1 << 20 })) {
    hash.update(chunk);
    bytes += chunk.length;
  }
  return { digest: hash.digest('hex'), bytes };
}

/** A folder is the same when the same files of the same sizes lie in it. */
async function digestOfFolder(root: string): Promise<Digest> {
  const files = await filesWithin(root);
  const digest = createHash('sha256')
    .update(JSON.stringify([root, files]))
    .digest('hex');
  return { digest, bytes: files.reduce((sum, { octets }) => sum + octets, 0) };
}
