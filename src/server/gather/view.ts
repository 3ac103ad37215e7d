import { and, count, desc, eq, sql } from 'drizzle-orm';
import { accountOf } from '../../core/rules/lists';
import { SIEVE } from '../../core/rules/profile';
import { profileTitle } from '../../core/rules/profile-words';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import type { Store } from '../database/open';
import { messages, sources } from '../database/schema';
import type { FileLine } from '../jobs/file-report';
import { counted } from '../mail/message-numbers';
import { SCATTERED } from '../mailbox/fetched';
import { emptyToo } from './folders';
import { listScripts, type ScriptSource } from './script-sources';
import { listReceipts, type Receipt } from './uploads';

export interface GatherView {
  readonly name: string;
  readonly total: number;
  readonly rules: number;
  /** The account of each rule; null for all accounts. */
  readonly concerned: readonly { readonly id: string; readonly account: string | null }[];
  /** How the rules are run, in a few words. */
  readonly runs: string;
  readonly ownAddresses: readonly string[];
  /** Whether the user has confirmed them. */
  readonly addressesConfirmed: boolean;
  /** In the order they run. */
  readonly scripts: readonly ScriptSource[];
  /** Receipts, newest first, until they are dismissed. */
  readonly receipts: readonly ReceiptView[];
  /** Newest first. */
  readonly sources: readonly SourceView[];
  readonly folders: readonly { readonly folder: string; readonly messages: number; readonly unseen: number }[];
  /** Text that could not be read as rules, word for word. */
  readonly keptWords: readonly {
    readonly id: string;
    readonly name: string;
    readonly reason: string;
    readonly text: string;
    readonly works: boolean;
  }[];
}

/** A receipt, with the present state of its mail. */
export interface ReceiptView extends Pick<Receipt, 'id' | 'fileName' | 'kind' | 'target' | 'words'> {
  readonly outcome: Receipt['outcome'] | 'importing';
  /** Its files, each with a line of its own; 0 for a single file. */
  readonly files: number;
}

export interface SourceView {
  readonly id: string;
  readonly fileName: string;
  readonly folder: string;
  readonly bytes: number;
  readonly state: 'importing' | 'ready' | 'removed' | 'refused' | 'cancelled' | 'interrupted';
  readonly messages: number;
  readonly statement: string;
  /** The mailbox that it was fetched from; null for a file. */
  readonly mailbox: string | null;
  readonly createdAt: number;
  /** Whether its messages are not one file's: those that are no longer on their server. */
  readonly isScattered: boolean;
  /** Whether the server can read it again from its path. */
  readonly hasPath: boolean;
  /** Lines of its report; 0 for a single file. */
  readonly files: number;
  /** Skipped files. */
  readonly passedOver: number;
}

/** The result for each file of an archive or folder. */
export function sourceFiles(store: Store, auditId: string, sourceId: string): readonly FileLine[] {
  const source = store
    .select({ files: sources.files })
    .from(sources)
    .where(and(eq(sources.auditId, auditId), eq(sources.id, sourceId)))
    .get();
  if (!source) throw new Refusal('There is no such file.', 404);
  return source.files;
}

function emptyFolders(store: Store, auditId: string, filled: readonly { readonly folder: string }[]) {
  const names = new Set(filled.map(({ folder }) => folder));
  const empty = emptyToo(store, auditId).filter((folder) => !names.has(folder));
  return empty.sort().map((folder) => ({ folder, messages: 0, unseen: 0 }));
}

/** Mail is read after its receipt was written; its own row has its state. */
function receiptsOf(store: Store, auditId: string): ReceiptView[] {
  return listReceipts(store, auditId)
    .reverse()
    .map(({ id, fileName, outcome, kind, target, words }): ReceiptView => {
      const receipt = { id, fileName, kind, target, files: 0 };
      if (kind !== 'mail' || outcome !== 'taken' || target === null) return { ...receipt, outcome, words };
      const source = store.select().from(sources).where(eq(sources.id, target)).get();
      if (!source) return { ...receipt, target: null, outcome: 'refused', words: 'The file was removed later.' };
      if (source.state === 'importing') return { ...receipt, outcome: 'importing', words };
      if (source.state === 'removed')
        return { ...receipt, target: null, outcome, words: 'The file was removed later.' };
      if (source.state !== 'ready') return { ...receipt, outcome: 'refused', words: source.statement };
      const count = source.messages === 1 ? '1 message' : `${source.messages} messages`;
      const { length: files } = source.files;
      return { ...receipt, files, outcome, words: `${count}. ${source.statement}`.trim() };
    });
}

/** The folders with messages, the fullest first. Messages with the same flags are counted together, in the index. */
function filledFolders(store: Store, audit: Audit): GatherView['folders'] {
  const { folder, flags } = messages;
  const rows = store
    .select({ folder, flags, count: count() })
    .from(messages)
    .where(counted(audit))
    .groupBy(folder, flags)
    .all();
  const found = new Map<string, { messages: number; unseen: number }>();
  for (const row of rows) {
    const held = found.get(row.folder) ?? { messages: 0, unseen: 0 };
    found.set(row.folder, held);
    held.messages += row.count;
    if (!row.flags.includes('\\seen')) held.unseen += row.count;
  }
  return Array.from(found, ([name, held]) => ({ folder: name, ...held })).sort(
    (a, b) => b.messages - a.messages || (a.folder < b.folder ? -1 : 1),
  );
}

export function gatherView(store: Store, auditId: string): GatherView {
  const audit = getAudit(store, auditId);
  const folders = filledFolders(store, audit);
  return {
    name: audit.name,
    total: audit.storedCount,
    rules: audit.draft.entries.length,
    concerned: audit.draft.entries.flatMap((entry) =>
      entry.kind === 'rule' ? [{ id: entry.id, account: accountOf(entry) }] : [],
    ),
    runs: profileTitle(audit.draft.profile ?? SIEVE),
    ownAddresses: audit.ownAddresses,
    addressesConfirmed: audit.addressesConfirmed,
    scripts: listScripts(store, audit),
    receipts: receiptsOf(store, auditId),
    sources: store
      .select()
      .from(sources)
      .where(eq(sources.auditId, auditId))
      .orderBy(desc(sources.createdAt), sql`rowid desc`)
      .all()
      .map(({ id, fileName, folder, bytes, state, messages: held, statement, files, path, ...row }) => {
        const passedOver = files.filter((line) => line.passedOver !== null).length;
        const hasPath = path !== null;
        return {
          id,
          fileName,
          folder,
          bytes,
          state,
          messages: held,
          statement,
          mailbox: row.mailbox,
          createdAt: row.createdAt,
          isScattered: row.firstMessage === SCATTERED,
          hasPath,
          files: files.length,
          passedOver,
        };
      }),
    folders: [...folders, ...emptyFolders(store, auditId, folders)],
    keptWords: audit.draft.entries.flatMap((entry) =>
      entry.kind === 'script'
        ? [{ id: entry.id, name: entry.name, reason: entry.reason, text: entry.text, works: entry.works }]
        : [],
    ),
  };
}
