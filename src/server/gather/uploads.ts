import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, stat } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { and, asc, eq } from 'drizzle-orm';
import { filesWithin } from '../../files/mail/folder';
import { getAudit, Refusal } from '../audits/audits';
import { databaseFile, type Store } from '../database/open';
import { receipts } from '../database/schema';

/** Digest that identifies a file or folder. */
export interface Digest {
  readonly digest: string;
  readonly bytes: number;
}

/** The path of a new file for an upload. */
export async function uploadFile(): Promise<string> {
  const file = join(dirname(databaseFile()), 'uploads', randomUUID());
  await mkdir(dirname(file), { recursive: true });
  return file;
}

/** Saves a body to a new file while it is read. */
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

/** The same for a file or folder of the server's machine. Throws a refusal if there is neither. */
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

/** A folder counts as the same when it contains the same files of the same sizes. */
async function digestOfFolder(root: string): Promise<Digest> {
  const files = await filesWithin(root);
  const digest = createHash('sha256')
    .update(JSON.stringify([root, files]))
    .digest('hex');
  return { digest, bytes: files.reduce((sum, { octets }) => sum + octets, 0) };
}

export type Receipt = Omit<typeof receipts.$inferSelect, 'auditId'>;

/** Characters of the message of a receipt, which may quote the file. */
const MOST_WORDS = 2000;

/** Stores a receipt. */
export function keepReceipt(
  store: Store,
  auditId: string,
  { fileName, outcome, kind, target, words }: Pick<Receipt, 'fileName' | 'outcome' | 'kind' | 'target' | 'words'>,
): void {
  store
    .insert(receipts)
    .values({ auditId, fileName, outcome, kind, target, words: words.slice(0, MOST_WORDS), createdAt: Date.now() })
    .run();
}

/** All receipts that were not dismissed, oldest first. */
export function listReceipts(store: Store, auditId: string): Receipt[] {
  return store.select().from(receipts).where(eq(receipts.auditId, auditId)).orderBy(asc(receipts.id)).all();
}

/** Dismisses one receipt, or all if null. */
export function dismissReceipts(store: Store, auditId: string, id: number | null): void {
  getAudit(store, auditId);
  const which = id === null ? eq(receipts.auditId, auditId) : and(eq(receipts.auditId, auditId), eq(receipts.id, id));
  const { changes } = store.delete(receipts).where(which).run();
  if (changes === 0 && id !== null) throw new Refusal('This receipt no longer exists.', 404);
}
