import { once } from 'node:events';
import { createInterface } from 'node:readline';
import type { z } from 'zod';
import { FetchedFolder, isStorable } from '../files/mail/maildir';
import { type ImapFolder, ImapMail, isView } from '../imap/mailbox';
import { CertificateFault, ConnectionFault } from '../net/line';
import { brokenBy, readExpected } from './expectations';
import { CliError, type fetchOptions, fromHere } from './options';

/** What was done with one folder. */
interface Fetched {
  readonly folder: string;
  readonly messages: number;
  readonly new: number;
  /** Messages whose flags are others than before. */
  readonly flags: number;
  /** Messages that are not there any more. */
  readonly gone: number;
}

/**
 * Brings a folder up to date with the mail of a server, on which nothing changes; one JSON line for each folder. Only what is
 * new is fetched. With an exported audit, one JSON line for each expectation that mail in the folder does not meet; the exit
 * code is 1 then.
 */
export async function fetch(options: z.infer<typeof fetchOptions>): Promise<number> {
  const { server, security, user, trust, since, out, audit } = options;
  // Before anything is fetched.
  const expected = audit === undefined ? null : await readExpected(audit);
  const password = process.env.YSOMERIS_PASSWORD ?? (await firstLine());
  if (password === '')
    throw new CliError('the password is missing: set YSOMERIS_PASSWORD, or write it to standard input');
  try {
    const address = {
      ...server,
      port: server.port ?? (security === 'tls' ? 993 : 143),
      security,
      trusted: trust ?? null,
    };
    const mail = await ImapMail.connect(address, { user, password });
    try {
      await fetchAll(mail, fromHere(out), since ?? null);
    } finally {
      await mail.close();
    }
    if (expected === null) return 0;
    const broken = await brokenBy(expected, fromHere(out));
    for (const line of broken) process.stdout.write(`${JSON.stringify(line)}\n`);
    return broken.length > 0 ? 1 : 0;
  } catch (error) {
    if (error instanceof CertificateFault) {
      throw new CliError(`${error.message} Check it, and trust it with --trust ${error.fingerprint}`);
    }
    if (error instanceof ConnectionFault) throw new CliError(error.message);
    if (error instanceof Error && 'syscall' in error) throw new CliError(`${out}: ${error.message}`);
    throw error;
  }
}

async function fetchAll(mail: ImapMail, root: string, since: Date | null): Promise<void> {
  const folders = await mail.folders();
  const there = new Set<string>();
  for (const folder of folders) {
    if (isView(folder)) continue;
    if (!isStorable(folder.names)) {
      skipped(folder.path, 'a folder here cannot have this name');
      continue;
    }
    const fetched = await broughtUpToDate(mail, folder, root, since);
    there.add(fetched.folder);
    tell(fetched);
  }
  // Every server has an inbox (RFC 9051 section 5.1): one that lists none tells nothing of what is gone.
  if (!there.has('INBOX')) return;
  for (const names of await FetchedFolder.within(root)) {
    if (there.has(names.join('/'))) continue;
    const folder = await FetchedFolder.at(root, names);
    const files = await folder.files();
    for (const file of files) await folder.remove(file);
    if (files.length > 0) tell({ folder: names.join('/'), messages: 0, new: 0, flags: 0, gone: files.length });
  }
}

const tell = (fetched: Fetched) => process.stdout.write(`${JSON.stringify(fetched)}\n`);

const skipped = (what: string, reason: string) =>
  process.stderr.write(`${JSON.stringify(what.replace(/\p{Cc}/gu, '?'))}: skipped: ${reason}\n`);

async function broughtUpToDate(
  mail: ImapMail,
  { path, names }: ImapFolder,
  root: string,
  since: Date | null,
): Promise<Fetched> {
  const folder = await FetchedFolder.at(root, names);
  const { validity, messages } = await mail.open(path);
  const files = await folder.files();
  const known = new Map(files.flatMap((file) => (file.validity === validity ? [[file.uid, file] as const] : [])));
  const wanted = (await mail.uids(since)).filter((uid) => !known.has(uid));
  let [added, changed] = [0, 0];
  const tooLarge = (uid: number) => skipped(`${path}, UID ${uid}`, 'too large to be read');
  for await (const message of mail.messages(wanted, tooLarge)) {
    await folder.add(validity, message);
    added++;
  }
  const gone = new Set(files);
  for await (const { uid, flags } of mail.flags([...known.keys()].sort((a, b) => a - b))) {
    const file = known.get(uid);
    if (!file) continue;
    gone.delete(file);
    if (await folder.setFlags(file, flags)) changed++;
  }
  // Not before all of the rest is here: under another UIDVALIDITY they are the same messages.
  for (const file of gone) await folder.remove(file);
  return { folder: names.join('/'), messages, new: added, flags: changed, gone: gone.size };
}

async function firstLine(): Promise<string> {
  const lines = createInterface({ input: process.stdin });
  try {
    const [line] = await Promise.race([once(lines, 'line'), once(lines, 'close').then(() => [''])]);
    return String(line);
  } finally {
    lines.close();
    process.stdin.destroy();
  }
}
